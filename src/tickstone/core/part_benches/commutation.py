"""Where three Hall switches go around a brushless motor."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number
from tickstone.core.part_benches.bench import Result, Worked, result_of, worked_step

SOURCE = "common practice: electrical angle = pole pairs × mechanical angle"
ELECTRICAL_120, ELECTRICAL_60 = "120° electrical", "60° electrical, one signal inverted"


@dataclass(frozen=True, slots=True)
class Spacing:
    """An angle between neighbours, rad, and which electrical kind it is, in degrees."""

    mechanical_rad: float
    electrical_deg: int


def valid_spacings(pole_pairs: int, up_to_deg: int = 120) -> tuple[Spacing, ...]:
    """Every spacing θ up to 120° with p·θ ≡ ±120° or ±60° (mod 360°), smallest first.

    Three switches in a row within one turn take two spacings, so that θ goes up to 120°; those that
    go round more than once have larger ones, under 360°.

    >>> [round(math.degrees(one.mechanical_rad), 2) for one in valid_spacings(7)][:4]
    [8.57, 17.14, 34.29, 42.86]
    """
    if not 1 <= pole_pairs <= 60:
        raise ValueError("magnets: 2 to 120 of them, an even number")
    found = []
    for kind in (60, 120):
        for turn in range(pole_pairs + 1):
            for sign in (-1, 1):
                electrical = 360 * turn + sign * kind
                # Exact in whole degrees: θ = electrical/p.
                if 0 < electrical <= up_to_deg * pole_pairs and electrical < 360 * pole_pairs:
                    found.append(Spacing(math.radians(electrical / pole_pairs), kind))
    return tuple(sorted(found, key=lambda one: (one.mechanical_rad, one.electrical_deg)))


@dataclass(frozen=True, slots=True)
class CommutationBench:
    """Valid spacings for a pole count, and what a misplaced switch costs.

    >>> round(CommutationBench(magnets=14.0).work().results[0].value, 2)
    17.14
    """

    name: ClassVar[str] = "commutation"
    label: ClassVar[str] = "Hall switches on a motor"
    what: ClassVar[str] = "Where three Hall switches go, and how far off a millimetre puts them."

    magnets: float = number("Magnets on the rotor", "", 14.0, 2.0, 120.0)
    kind: str = choice("Commutation", (ELECTRICAL_120, ELECTRICAL_60))
    radius_mm: float = number("Switches' radius", "mm", 20.0, 1.0, 1000.0)
    placing_mm: float = number("Placed to within", "mm", 0.3, 0.0, 20.0)

    def work(self) -> Worked:
        """The working."""
        magnets = round(self.magnets)
        if magnets != self.magnets or magnets % 2:
            raise ValueError("magnets: an even number, as north and south take turns")
        pairs = magnets // 2
        wanted = 120 if self.kind == ELECTRICAL_120 else 60
        spacings = [one for one in valid_spacings(pairs) if one.electrical_deg == wanted]
        tightest = spacings[0]
        pole_pairs = worked_step(
            "pairs",
            "pole pairs",
            "p = magnets/2",
            f"{magnets} ÷ 2",
            "",
            (),
            lambda: float(pairs),
            SOURCE,
        )
        angle = worked_step(
            "tightest",
            "tightest spacing",
            f"θ = {wanted}°/p",
            f"{wanted}° ÷ {pairs}",
            "°",
            (),
            lambda: math.degrees(tightest.mechanical_rad),
            SOURCE,
        )
        per_degree = worked_step(
            "per degree",
            "off by 1° is",
            "p·1°",
            f"{pairs} × 1°",
            "° electrical",
            (),
            lambda: float(pairs),
            SOURCE,
        )
        per_mm = worked_step(
            "per mm",
            "off by 1 mm is",
            "p·(1 mm/r)·180°/π",
            f"{pairs} ÷ {self.radius_mm:g} mm",
            "° electrical",
            (),
            lambda: math.degrees(pairs / self.radius_mm),
            SOURCE,
        )
        error = worked_step(
            "error",
            "placing puts it off by",
            "p·(Δs/r)·180°/π",
            f"{pairs} × {self.placing_mm:g} mm ÷ {self.radius_mm:g} mm",
            "° electrical",
            (),
            lambda: math.degrees(pairs * self.placing_mm / self.radius_mm),
            SOURCE,
        )
        above = [
            one
            for one in valid_spacings(pairs, 360)
            if one.electrical_deg == wanted and one not in spacings
        ]
        degrees, wider = (
            ", ".join(f"{math.degrees(one.mechanical_rad):.2f}°" for one in row[:12])
            for row in (spacings, above)
        )
        results = [
            result_of("tightest spacing", angle),
            Result("all spacings up to 120°", float(len(spacings)), "", shown=degrees),
            Result("spacings above 120°", float(len(above)), "", shown=wider or "none"),
            Result("arc of the tightest", tightest.mechanical_rad * self.radius_mm / 1000.0, "m"),
            result_of("per degree", per_degree),
            result_of("per millimetre", per_mm),
            result_of("placing error", error),
        ]
        return Worked(
            (pole_pairs, angle, per_degree, per_mm, error),
            tuple(results),
            tuple(self._findings(pairs, wanted, error.value)),
        )

    def _findings(self, pairs: int, wanted: int, error_deg: float) -> list[Finding]:
        found = []
        if error_deg > 10.0:
            found.append(
                Finding(
                    "warning",
                    f"The placing alone puts commutation off by {error_deg:.0f}° electrical.",
                    "Torque falls with the cosine of it, current and heat rise; some controllers "
                    "learn the placement and cancel it, some do not.",
                    "A larger radius, a jig, or a controller that calibrates.",
                )
            )
        if pairs % 3 == 0:
            found.append(
                Finding(
                    "note",
                    "A third of a turn apart will not do here.",
                    f"With {pairs} pole pairs, which 3 divides, all would give the same signal.",
                    "Use one of the spacings listed.",
                )
            )
        elif wanted == 120:
            found.append(
                Finding(
                    "note",
                    "A third of a turn apart, 120° mechanical, works as well.",
                    f"3 does not divide {pairs} pole pairs.",
                    "",
                )
            )
        found.append(
            Finding(
                "note",
                "Spinning rotors throw what is loose.",
                "Turn it by hand first, and look at the order of the signals.",
                "Guard it, wear eye protection, keep a stop within reach.",
            )
        )
        return found
