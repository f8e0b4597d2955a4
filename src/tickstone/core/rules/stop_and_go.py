"""Stop and go: stop below one distance, go again above another, from what the rig needs to stop."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import DISTANCE, DecisionState, Quantity
from tickstone.core.reading_units import CART_SPEED, MILLISECONDS, SMALL_LENGTH, length, said
from tickstone.core.rules.kind import (
    Curve,
    Known,
    Level,
    Part,
    RuleKind,
    RunFigure,
    Suggestion,
)
from tickstone.core.signal import Signal
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.status import Status
from tickstone.core.stopping import (
    StoppingInputs,
    braking_from_skid,
    greatest_speed_m_per_s,
    stopping_distance,
    suggested_thresholds_m,
)
from tickstone.core.uncertainty import expanded

WAY = Quantity(
    "way",
    "",
    states=(
        DecisionState("clear", "clear"),
        DecisionState("stop", "stop", is_alarm=True),
        DecisionState("blind", "blind: stop", is_alarm=True),
    ),
)
CART = Quantity("speed", "m/s", shown_as=CART_SPEED, decimals=2)
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
    slope_rad: float = number(
        "Downhill", "rad", 0.0, -1.5, 1.5, "negative: uphill", decimals=1, is_rare=True
    )
    debounce_s: float = number(
        "Has to stand for", "s", 0.0, 0.0, 60.0, "before it counts",
        shown_as=MILLISECONDS, decimals=0, is_rare=True,
    )  # fmt: skip
    skid_m: float | None = number(
        "Or a skid by tape", "m", None, 0.001, 100.0, "at that speed; then braking follows from it",
        from_rig="braking as stated", is_rare=True, decimals=2,
    )  # fmt: skip
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
        braking, braking_u = evidence.deceleration_m_per_s2, evidence.deceleration_u
        if evidence.skid_m is not None:
            braking, braking_u = braking_from_skid(
                evidence.speed_m_per_s, evidence.skid_m, evidence.speed_u
            )
        near_m = tried.stop_m if tried is not None and tried.stop_m > 0.0 else USUAL_STOP_M
        inputs = StoppingInputs(
            speed_m_per_s=evidence.speed_m_per_s,
            speed_u=evidence.speed_u,
            deceleration_m_per_s2=braking,
            deceleration_u=braking_u,
            sample_s=known.sample_s if evidence.sample_s is None else evidence.sample_s,
            filter_s=known.filter_s if evidence.filter_s is None else evidence.filter_s,
            loop_s=known.loop_s if evidence.loop_s is None else evidence.loop_s,
            actuate_s=evidence.actuate_s,
            reading_u_m=known.u_at(near_m),
            margin_m=evidence.margin_m,
            debounce_s=evidence.debounce_s,
            slope_rad=evidence.slope_rad,
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
            curve=_curve(inputs, stop_m if tried is None else tried.stop_m),
        )

    def judge_run(
        self,
        parameters: StopAndGoParameters,
        evidence: StopAndGoEvidence | None,
        taken: Signal,
        decided: Signal,
        u: float,
    ) -> tuple[RunFigure, ...]:
        """How fast it came and how far it ran on, at each stop of the run."""
        found: list[RunFigure] = []
        stops = (decided.value == _STOP) & np.isfinite(taken.value)
        begins = np.flatnonzero(stops[1:] & ~stops[:-1]) + 1
        for first in begins[:_MOST_STOPS].tolist():
            at_s = float(taken.time_s[first])
            came = _speed_before(taken, at_s)
            if not came > _CREEPS:
                continue  # something came at the rig, or nothing moved
            after = (taken.time_s >= at_s) & (taken.time_s <= at_s + _RESTS_AFTER_S) & taken.ok
            ran_on = float(taken.value[first] - taken.value[after].min()) if after.any() else 0.0
            told, allowed, told_v, allowed_v = math.nan, math.nan, math.nan, math.nan
            if evidence is not None:
                told_v, allowed_v = evidence.speed_m_per_s, max(0.1, 2.0 * evidence.speed_u)
                late_s = (evidence.loop_s or 0.0) + evidence.actuate_s
                told = came * late_s + came**2 / (2.0 * evidence.deceleration_m_per_s2)
                allowed = expanded(math.hypot(math.sqrt(2.0) * u, 0.1 * told))
            found.append(RunFigure("came at", CART, told_v, came, allowed_v, at_s))
            found.append(RunFigure("ran on after it said stop", DISTANCE, told, ran_on, allowed,
                                   at_s))  # fmt: skip
        return tuple(found)

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


_STOP = 1
_MOST_STOPS, _RESTS_AFTER_S, _CREEPS = 20, 3.0, 0.02
_CURVE_POINTS = 41


def _speed_before(taken: Signal, at_s: float, over_s: float = 0.6) -> float:
    """How fast a distance grew less just before a time, m/s; NaN with too few readings."""
    part = (taken.time_s <= at_s) & (taken.time_s >= at_s - over_s) & taken.ok
    if int(part.sum()) < 4:
        return math.nan
    from scipy.stats import theilslopes  # a second, and seldom needed

    # By the middle of all slopes: what appears at once in front of a rig is no driving up to it.
    return -float(theilslopes(taken.value[part], taken.time_s[part])[0])


def _curve(inputs: StoppingInputs, stop_m: float) -> Curve:
    """The speed that each stop distance is good for, up to half as far again as what is in hand."""
    far = 1.5 * max(stop_m, stopping_distance(inputs).total_m, 0.1)
    x = np.linspace(0.0, far, _CURVE_POINTS)
    y = [greatest_speed_m_per_s(float(one), inputs) for one in x]
    return Curve(
        "stop below", DISTANCE, "good up to", CART, tuple(x.tolist()), tuple(y),
        (stop_m, greatest_speed_m_per_s(stop_m, inputs)),
    )  # fmt: skip


def _ms(seconds: float) -> str:
    return f"{1000.0 * seconds:.0f} ms" if math.isfinite(seconds) else "?"
