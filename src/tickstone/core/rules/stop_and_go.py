"""Stop and go: stop below one distance, go again above another, from what the rig needs to stop."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import DISTANCE, DecisionState, Quantity
from tickstone.core.reading_units import CART_SPEED, MILLISECONDS, SMALL_LENGTH, length, said
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.status import Status
from tickstone.core.stopping import (
    StoppingInputs,
    greatest_speed_m_per_s,
    stopping_distance,
    suggested_thresholds_m,
)

WAY = Quantity(
    "way",
    "",
    states=(
        DecisionState("clear", "clear"),
        DecisionState("stop", "stop", is_alarm=True),
        DecisionState("blind", "blind: stop", is_alarm=True),
    ),
)
USUAL_STOP_M = 0.4


@dataclass(frozen=True, slots=True)
class StopAndGoParameters:
    """Two distances. Raises ValueError unless 0 ≤ stop_m < go_m."""

    stop_m: float = number("Stop below", "m", 0.30, 0.0, 20.0)
    go_m: float = number("Go again above", "m", 0.40, 0.0, 20.0)

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.stop_m < self.go_m:
            raise ValueError(
                f"go_m: stop below {self.stop_m:g} m and go again above {self.go_m:g} m leave no "
                "band between; the second has to be the larger"
            )


@dataclass(frozen=True, slots=True)
class StopAndGoEvidence:
    """What the rig does. Times left out are taken from its recording, chain and time budget."""

    speed_m_per_s: float = number("Speed", "m/s", 0.5, 0.0, 100.0, shown_as=CART_SPEED, decimals=2)
    deceleration_m_per_s2: float = number("Braking", "m/s²", 1.5, 1e-6, 100.0, decimals=2)
    loop_s: float | None = number(
        "Program loop", "s", None, 0.0, 60.0, shown_as=MILLISECONDS, decimals=0,
        from_rig="from the time budget",
    )  # fmt: skip
    actuate_s: float = number(
        "Brake bites after", "s", 0.05, 0.0, 60.0, shown_as=MILLISECONDS, decimals=0
    )
    margin_m: float = number(
        "Room to spare", "m", 0.05, 0.0, 10.0, shown_as=SMALL_LENGTH, decimals=0
    )
    speed_u: float = number(
        "u of v", "m/s", 0.0, 0.0, 100.0, "how well v is known",
        shown_as=CART_SPEED, decimals=2, is_rare=True,
    )  # fmt: skip
    deceleration_u: float = number(
        "u of a", "m/s²", 0.0, 0.0, 100.0, "how well a is known",
        decimals=2, is_rare=True,
    )  # fmt: skip
    sample_s: float | None = number(
        "Between readings", "s", None, 0.0, 60.0, shown_as=MILLISECONDS, decimals=0,
        from_rig="from the newest recording", is_rare=True,
    )  # fmt: skip
    filter_s: float | None = number(
        "Lag of the filter", "s", None, 0.0, 60.0, shown_as=MILLISECONDS, decimals=0,
        from_rig="from the chain", is_rare=True,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class StopAndGo(RuleKind):
    """Stop below one distance, go again above another."""

    name: ClassVar[str] = "stop-and-go"
    label: ClassVar[str] = "Stop and go"
    parameters: ClassVar[type] = StopAndGoParameters
    evidence: ClassVar[type] = StopAndGoEvidence
    takes: ClassVar[str] = "distance"
    decision: ClassVar[Quantity] = WAY
    words: ClassVar[tuple[str, str]] = ("How far it runs on", "When it stops and goes")
    unset: ClassVar[str] = "No stop and go-again distances are set."
    hint: ClassVar[str] = "The band between keeps it from dithering."
    caution: ClassVar[str] = (
        "Try it with the wheels off the floor first, and keep a stop within reach. Tick Stone is "
        "not a safety device."
    )

    def stage(self, parameters: StopAndGoParameters, chain_parameters: Any) -> TwoThresholds:
        """Two thresholds with the sensor's rules for silence.

        "Too near" means stop, "too far" means clear. "No echo" and "timed out" count as evidence of
        an empty way only when the sensor's parameters say so: a soft or slanted thing close by is
        silent too.
        """
        silence = (Status.NO_ECHO, Status.TIMED_OUT) if chain_parameters.silence_is_clear else ()
        return TwoThresholds(
            parameters.stop_m,
            parameters.go_m,
            WAY,
            Words("stop", "go again", "d"),
            blind_after_s=chain_parameters.blind_stop_s,
            alarm_status=(Status.TOO_NEAR,),
            calm_status=(Status.TOO_FAR, *silence),
        )

    def suggest(
        self, evidence: StopAndGoEvidence, known: Known, tried: StopAndGoParameters | None = None
    ) -> Suggestion:
        """From speed and braking to two distances."""
        near_m = tried.stop_m if tried is not None and tried.stop_m > 0.0 else USUAL_STOP_M
        inputs = StoppingInputs(
            speed_m_per_s=evidence.speed_m_per_s,
            speed_u=evidence.speed_u,
            deceleration_m_per_s2=evidence.deceleration_m_per_s2,
            deceleration_u=evidence.deceleration_u,
            sample_s=known.sample_s if evidence.sample_s is None else evidence.sample_s,
            filter_s=known.filter_s if evidence.filter_s is None else evidence.filter_s,
            loop_s=known.loop_s if evidence.loop_s is None else evidence.loop_s,
            actuate_s=evidence.actuate_s,
            reading_u_m=known.u_at(near_m),
            margin_m=evidence.margin_m,
        )
        sum_of = stopping_distance(inputs)
        stop_m, go_m = suggested_thresholds_m(inputs)
        tried_says, fails = "", False
        if tried is not None:
            fastest = said(greatest_speed_m_per_s(tried.stop_m, inputs), CART_SPEED, 2)
            tried_says = f"Stopping below {length(tried.stop_m, 2)} is good up to {fastest}."
            fails = tried.stop_m < sum_of.total_m
        return Suggestion(
            parameters={"stop_m": stop_m, "go_m": go_m},
            parts=(
                Part("driving on unaware", sum_of.travel_blind_m, DISTANCE, _ms(inputs.blind_s)),
                Part("braking", sum_of.travel_braking_m, DISTANCE, "v²/(2a)"),
                Part("doubt", sum_of.doubt_m, DISTANCE, "k = 2"),
                Part("room to spare", sum_of.margin_m, DISTANCE),
                Part("stopping takes", sum_of.total_m, DISTANCE, is_total=True),
            ),
            note=(
                f"A ping every {_ms(inputs.sample_s)} and {_ms(inputs.filter_s)} lag of the "
                f"median, from {known.note}."
            ),
            needed=sum_of.total_m,
            tried_says=tried_says,
            tried_fails=fails,
            taken={
                "loop_s": inputs.loop_s,
                "sample_s": inputs.sample_s,
                "filter_s": inputs.filter_s,
            },
        )

    def lines(self, parameters: StopAndGoParameters) -> tuple[Level, ...]:
        """Both distances."""
        return (
            Level(parameters.stop_m, "stop below", "below", is_alarm=True),
            Level(parameters.go_m, "go again above", "above", is_alarm=False),
        )

    def short(self, parameters: StopAndGoParameters) -> str:
        """The distance it stops below."""
        return f"stop {length(parameters.stop_m, 2)}"

    def sentence(self, parameters: StopAndGoParameters, needed: float | None) -> str:
        """Both distances, and what stopping takes."""
        stop, go = length(parameters.stop_m, 2), length(parameters.go_m, 2)
        end = "." if needed is None else f"; stopping takes {length(needed, 2)}."
        return f"Stops below {stop}, goes again above {go}{end}"

    def failing(
        self, parameters: StopAndGoParameters, needed: float | None
    ) -> tuple[str, str] | None:
        """When it stops too late."""
        if needed is None or parameters.stop_m >= needed:
            return None
        return (
            "too short",
            f"It stops below {length(parameters.stop_m, 2)}, but stopping takes "
            f"{length(needed, 2)}.",
        )


def _ms(seconds: float) -> str:
    return f"{1000.0 * seconds:.0f} ms" if math.isfinite(seconds) else "?"
