"""Turned far enough: by an angle, less what it runs on for."""

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

TURNING = Quantity(
    "turning", "",
    states=(
        DecisionState("turning", "turning"),
        DecisionState("there", "far enough", is_alarm=True),
        DecisionState("blind", "blind", is_alarm=True),
    ),
)  # fmt: skip
_DEGREE = math.pi / 180.0


@dataclass(frozen=True, slots=True)
class TurnedByParameters:
    """Angles rad, either way round. Raises ValueError when there is no band."""

    stop_rad: float = number("Far enough at", "rad", 85.0 * _DEGREE, _DEGREE, 100.0)
    back_rad: float = number("Turning again below", "rad", 75.0 * _DEGREE, 0.0, 100.0)

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.back_rad < self.stop_rad:
            raise ValueError("back_rad: has to lie below where it is far enough")


@dataclass(frozen=True, slots=True)
class TurnedByEvidence:
    """How far, how fast, and how late. Angles rad, times s."""

    angle_rad: float = number("Turn by", "rad", math.pi / 2.0, _DEGREE, 100.0)
    rate: float = number("Turns at", "rad/s", 90.0 * _DEGREE, 0.0, 100.0)
    runs_on_s: float = number(
        "Runs on for", "s", 0.1, 0.0, 10.0, "after the motors are told to stop",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class TurnedBy(RuleKind):
    """Stop turning in time."""

    name: ClassVar[str] = "turned-by"
    label: ClassVar[str] = "Turned by an angle"
    parameters: ClassVar[type] = TurnedByParameters
    evidence: ClassVar[type] = TurnedByEvidence
    takes: ClassVar[str] = "turned"
    node: ClassVar[str] = "turned-by"
    decision: ClassVar[Quantity] = TURNING
    words: ClassVar[tuple[str, str]] = ("How it turns", "When it has turned far enough")
    keep: ClassVar[str] = "the angle"
    unset: ClassVar[str] = "No angle is set to turn by."
    caution: ClassVar[str] = "Try it with the wheels off the floor first."

    def stage(self, parameters: TurnedByParameters, chain_parameters: Any) -> TwoThresholds:
        """Two thresholds, either way round."""
        return TwoThresholds(
            parameters.stop_rad, parameters.back_rad, TURNING,
            Words("far enough", "turning again", "angle"), blind_after_s=0.5, is_either_way=True,
        )  # fmt: skip

    def suggest(
        self, evidence: TurnedByEvidence, known: Known, tried: TurnedByParameters | None = None
    ) -> Suggestion:
        """The angle less what it turns on for; drift stated beside."""
        late_s = known.sample_s + known.filter_s + known.loop_s + evidence.runs_on_s
        on = evidence.rate * late_s
        stop = evidence.angle_rad - on
        fails = stop <= 0.05 * evidence.angle_rad
        told = max(stop, 0.05 * evidence.angle_rad)
        bias_u = known.u_at(evidence.angle_rad)
        return Suggestion(
            parameters={"stop_rad": told, "back_rad": 0.8 * told},
            parts=(
                Part("turn by", evidence.angle_rad, ANGLE),
                Part("turns on", -on, ANGLE, f"{1000.0 * late_s:.0f} ms late in all"),
                Part("far enough at", stop, ANGLE, is_total=True),
            ),
            note=(
                f"A reading every {1000.0 * known.sample_s:.0f} ms, from {known.note}. Zero it "
                f"just before: its doubt is {ANGLE.said(expanded(bias_u))}, and it grows."
            ),
            tried_says="It turns on for longer than it is to turn: turn slower." if fails else "",
            tried_fails=fails,
        )

    def lines(self, parameters: TurnedByParameters) -> tuple[Level, ...]:
        """Where it is far enough."""
        return (Level(parameters.stop_rad, "far enough", "above", is_alarm=True),)

    def short(self, parameters: TurnedByParameters) -> str:
        """The angle."""
        return f"stops at {ANGLE.said(parameters.stop_rad, 0)}"

    def sentence(self, parameters: TurnedByParameters, needed: float | None) -> str:
        """The angle."""
        return f"Far enough at {ANGLE.said(parameters.stop_rad, 0)}, either way round."
