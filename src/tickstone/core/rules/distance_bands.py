"""A ladder of distances: lamps that come on one after the other, the nearer the more."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.inputs import check_inputs, number, whole
from tickstone.core.quantity import DISTANCE
from tickstone.core.reading_units import MILLISECONDS, SMALL_LENGTH, length
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.bands import LAMPS, MOST_LAMPS, Bands
from tickstone.core.uncertainty import expanded


@dataclass(frozen=True, slots=True)
class DistanceBandParameters:
    """Where the lamps come on. Raises ValueError when the band swallows a step."""

    first_m: float = number("Nearest below", "m", 0.10, 0.001, 20.0, "all lamps are on")
    step_m: float = number("Then every", "m", 0.10, 0.001, 20.0)
    lamps: int = whole("Lamps", 8, 1, MOST_LAMPS)
    band_m: float = number(
        "Band, ±", "m", 0.01, 0.0, 5.0, "in which a lamp stays as it was",
        shown_as=SMALL_LENGTH, decimals=0,
    )  # fmt: skip
    blind_s: float = number(
        "Blind after", "s", 0.5, 0.0, 60.0, "without a measurement", shown_as=MILLISECONDS,
        decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)
        if self.lamps > 1 and not self.band_m < self.step_m / 2.0:
            raise ValueError("band_m: has to be narrower than half a step, or lamps overlap")

    @property
    def edges_m(self) -> tuple[float, ...]:
        """Rising."""
        return tuple(self.first_m + n * self.step_m for n in range(self.lamps))


@dataclass(frozen=True, slots=True)
class DistanceBandEvidence:
    """What the ladder is to show."""

    first_m: float = number("Nearest", "m", 0.10, 0.001, 20.0)
    farthest_m: float = number("Farthest", "m", 0.80, 0.01, 20.0)
    lamps: int = whole("Lamps", 8, 1, MOST_LAMPS)

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.first_m < self.farthest_m:
            raise ValueError("farthest_m: has to lie beyond the nearest")


class DistanceBands(RuleKind):
    """A ladder of thresholds on a distance."""

    name: ClassVar[str] = "distance-bands"
    label: ClassVar[str] = "Bands with lamps"
    parameters: ClassVar[type] = DistanceBandParameters
    evidence: ClassVar[type] = DistanceBandEvidence
    takes: ClassVar[str] = "distance"
    node: ClassVar[str] = "bands"
    decision = LAMPS
    words: ClassVar[tuple[str, str]] = ("What it has to show", "Where the lamps come on")
    keep: ClassVar[str] = "the bands"
    unset: ClassVar[str] = "No bands are set."
    hint: ClassVar[str] = "A band wider than the reading’s ± keeps a lamp from flickering."

    def stage(self, parameters: DistanceBandParameters, chain_parameters: Any) -> Bands:
        """The ladder."""
        return Bands(parameters.edges_m, parameters.band_m, parameters.blind_s)

    def suggest(
        self,
        evidence: DistanceBandEvidence,
        known: Known,
        tried: DistanceBandParameters | None = None,
    ) -> Suggestion:
        """Even steps, and a band as wide as the reading’s ± where that is largest."""
        count = evidence.lamps
        span_m = evidence.farthest_m - evidence.first_m
        step_m = round(span_m / max(1, count - 1), 3) if count > 1 else round(span_m, 3)
        spread_m = expanded(max(known.u_at(evidence.first_m), known.u_at(evidence.farthest_m)))
        band_m = min(max(0.002, round(spread_m, 3)), round(0.45 * step_m, 4))
        told = {
            "first_m": evidence.first_m, "step_m": step_m, "lamps": count, "band_m": band_m,
        }  # fmt: skip
        shown = tried or DistanceBandParameters(evidence.first_m, step_m, count, band_m)
        tight = spread_m > 0.45 * step_m
        return Suggestion(
            parameters=told,
            parts=tuple(
                Part(
                    f"{count_said(shown.lamps - place)} below", edge, DISTANCE, known.raw_said(edge)
                )
                for place, edge in enumerate(shown.edges_m)
            ),
            note="Beside each the raw value, for the program on the board.",
            tried_says=(
                f"The reading’s ± is {length(spread_m, 3)}, more than half a step: lamps will "
                "flicker."
                if tight
                else ""
            ),
            tried_fails=tight,
        )

    def lines(self, parameters: DistanceBandParameters) -> tuple[Level, ...]:
        """Every step."""
        return tuple(
            Level(edge, count_said(parameters.lamps - place), "below", is_alarm=False)
            for place, edge in enumerate(parameters.edges_m)
        )

    def short(self, parameters: DistanceBandParameters) -> str:
        """How many lamps, up to where."""
        return f"{count_said(parameters.lamps)} to {length(parameters.edges_m[-1], 2)}"

    def sentence(self, parameters: DistanceBandParameters, needed: float | None) -> str:
        """The ladder."""
        return (
            f"{count_said(parameters.lamps)}, the first below {length(parameters.edges_m[-1], 2)}, "
            f"all below {length(parameters.first_m, 2)}."
        )


def count_said(count: int) -> str:
    """So many lamps.

    >>> count_said(1), count_said(3)
    ('1 lamp', '3 lamps')
    """
    return f"{count} lamp{'' if count == 1 else 's'}"
