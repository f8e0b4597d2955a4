"""A bump: what is felt jumps further than a normal run shakes it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from scipy.special import ndtri

from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import FORCE, Quantity
from tickstone.core.reading_units import GRAVITIES, MILLISECONDS, STANDARD_GRAVITY_M_PER_S2
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.bump_watch import BUMP, BumpWatch

_SIZE = FORCE.in_lanes("")
_G = STANDARD_GRAVITY_M_PER_S2


@dataclass(frozen=True, slots=True)
class BumpParameters:
    """Accelerations m/s², times s."""

    above: float = number(
        "A bump above", "m/s²", 0.6 * _G, 1e-3, 500.0, "off what it has felt so far",
        shown_as=GRAVITIES, decimals=2,
    )  # fmt: skip
    over_s: float = number("So far: over", "s", 0.5, 0.01, 60.0, decimals=2)
    hold_s: float = number(
        "Then held for", "s", 0.3, 0.001, 60.0, "one bump is told once",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


@dataclass(frozen=True, slots=True)
class BumpEvidence:
    """How often it may be wrong. Accelerations m/s², times s."""

    normal: float | None = number(
        "A normal run shakes by", "m/s²", None, 0.0, 500.0, "standard deviation",
        shown_as=GRAVITIES, decimals=3, from_rig="from the newest recording",
    )  # fmt: skip
    false_every_s: float = number(
        "One false alarm in", "s", 3600.0, 1.0, 1e8, "or more", decimals=0
    )

    def __post_init__(self) -> None:
        check_inputs(self)


class Bump(RuleKind):
    """Something was hit."""

    name: ClassVar[str] = "bump"
    label: ClassVar[str] = "Bumps"
    parameters: ClassVar[type] = BumpParameters
    evidence: ClassVar[type] = BumpEvidence
    takes: ClassVar[str] = "size"
    node: ClassVar[str] = "bump"
    decision: ClassVar[Quantity] = BUMP
    words: ClassVar[tuple[str, str]] = ("What a normal run is", "What a bump is")
    keep: ClassVar[str] = "the threshold"
    unset: ClassVar[str] = "No threshold is set for bumps."
    hint: ClassVar[str] = "Record a run over rough ground without hitting anything first."

    def stage(self, parameters: BumpParameters, chain_parameters: Any) -> BumpWatch:
        """The watch."""
        return BumpWatch(parameters.above, parameters.over_s, parameters.hold_s)

    def suggest(
        self, evidence: BumpEvidence, known: Known, tried: BumpParameters | None = None
    ) -> Suggestion:
        """So many standard deviations that normal noise goes beyond them once in so long."""
        normal = evidence.normal if evidence.normal is not None else known.scatter()
        if not (math.isfinite(normal) and normal > 0.0):
            raise ValueError(
                "normal: no recording says how a normal run shakes; record one, or type it"
            )
        sample_s = known.sample_s if math.isfinite(known.sample_s) else 0.02
        chance = min(0.3, sample_s / evidence.false_every_s)
        times = float(-ndtri(chance / 2.0))
        above = times * normal
        shown = tried or BumpParameters(above)
        often = math.erfc(shown.above / normal / math.sqrt(2.0))
        every_s = sample_s / often if often > 0.0 else math.inf
        fails = every_s < evidence.false_every_s
        return Suggestion(
            parameters={"above": float(f"{above:.3g}")},
            parts=(
                Part("a normal run shakes by", normal, _SIZE, "one standard deviation"),
                Part(f"× {times:.1f}", above, _SIZE, "so seldom beyond by chance", is_total=True),
            ),
            note=f"A reading every {1000.0 * sample_s:.0f} ms; noise taken as normal.",
            needed=above,
            tried_says=(
                f"By noise alone one bump would be told every {_said(every_s)}." if fails else ""
            ),
            tried_fails=fails,
            taken={"normal": normal},
        )

    def lines(self, parameters: BumpParameters) -> tuple[Level, ...]:
        """Where it lies above rest."""
        return (Level(_G + parameters.above, "a bump, from rest", "above", is_alarm=True),)

    def short(self, parameters: BumpParameters) -> str:
        """The threshold."""
        return f"bump {_SIZE.said(parameters.above, 2)}"

    def sentence(self, parameters: BumpParameters, needed: float | None) -> str:
        """The threshold."""
        return f"A bump is {_SIZE.said(parameters.above, 2)} off what it has felt so far."


def _said(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 120.0 else f"{seconds / 60.0:.0f} min"
