"""Level, or not: within a band of upright."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import ANGLE, DecisionState, Quantity
from tickstone.core.reading_units import MILLISECONDS
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.uncertainty import expanded

LEVELNESS = Quantity(
    "levelness", "",
    states=(
        DecisionState("level", "level"),
        DecisionState("aslant", "aslant", is_alarm=True),
        DecisionState("blind", "blind", is_alarm=True),
    ),
)  # fmt: skip
_DEGREE = math.pi / 180.0


@dataclass(frozen=True, slots=True)
class LevelBandParameters:
    """Angles rad. Raises ValueError when there is no band."""

    within_rad: float = number("Level within", "rad", 1.0 * _DEGREE, 0.01 * _DEGREE, math.pi)
    off_rad: float = number("Aslant above", "rad", 1.5 * _DEGREE, 0.01 * _DEGREE, math.pi)
    dwell_s: float = number(
        "Only after", "s", 0.5, 0.0, 60.0, "so that it is not said too soon",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.within_rad < self.off_rad:
            raise ValueError("off_rad: has to lie above what is called level")


@dataclass(frozen=True, slots=True)
class LevelBandEvidence:
    """How level it has to be."""

    wanted_rad: float = number("Level to", "rad", 1.0 * _DEGREE, 0.01 * _DEGREE, math.pi)

    def __post_init__(self) -> None:
        check_inputs(self)


class LevelBand(RuleKind):
    """Whether it stands level."""

    name: ClassVar[str] = "level-band"
    label: ClassVar[str] = "Level within a band"
    parameters: ClassVar[type] = LevelBandParameters
    evidence: ClassVar[type] = LevelBandEvidence
    takes: ClassVar[str] = "inclination"
    node: ClassVar[str] = "level-band"
    decision: ClassVar[Quantity] = LEVELNESS
    words: ClassVar[tuple[str, str]] = ("How level it has to be", "When it is called level")
    keep: ClassVar[str] = "the band"
    unset: ClassVar[str] = "No band is set within which it is level."

    def stage(self, parameters: LevelBandParameters, chain_parameters: Any) -> TwoThresholds:
        """Two thresholds and a wait."""
        return TwoThresholds(
            parameters.off_rad, parameters.within_rad, LEVELNESS,
            Words("aslant", "level again", "lean"), blind_after_s=1.0, dwell_s=parameters.dwell_s,
        )  # fmt: skip

    def suggest(
        self, evidence: LevelBandEvidence, known: Known, tried: LevelBandParameters | None = None
    ) -> Suggestion:
        """What is wanted less the reading's ±, and a band as wide as that."""
        doubt = expanded(known.u_at(evidence.wanted_rad))
        within = evidence.wanted_rad - doubt
        fails = within <= 0.0
        told = max(within, 0.2 * evidence.wanted_rad)
        off = max(evidence.wanted_rad, told + max(doubt / 2.0, 0.1 * _DEGREE))
        return Suggestion(
            parameters={"within_rad": told, "off_rad": off},
            parts=(
                Part("level to", evidence.wanted_rad, ANGLE),
                Part("reading’s ±", -doubt, ANGLE, "k = 2"),
                Part("level within", within, ANGLE, is_total=True),
            ),
            note="What reads within this is level to what is wanted.",
            tried_says=(
                f"The reading’s ± is {ANGLE.said(doubt)}: more than it has to be level to. "
                "Calibrate its faces and its level first."
                if fails
                else ""
            ),
            tried_fails=fails,
        )

    def lines(self, parameters: LevelBandParameters) -> tuple[Level, ...]:
        """Both angles."""
        return (
            Level(parameters.within_rad, "level", "below", is_alarm=False),
            Level(parameters.off_rad, "aslant", "above", is_alarm=True),
        )

    def short(self, parameters: LevelBandParameters) -> str:
        """The band."""
        return f"level to {ANGLE.said(parameters.within_rad, 1)}"

    def sentence(self, parameters: LevelBandParameters, needed: float | None) -> str:
        """Both."""
        return (
            f"Level within {ANGLE.said(parameters.within_rad, 1)}, aslant above "
            f"{ANGLE.said(parameters.off_rad, 1)}."
        )


class FusedLevelBand(LevelBand):
    """The same on the lean that a gyroscope helps to tell."""

    takes: ClassVar[str] = "lean"
