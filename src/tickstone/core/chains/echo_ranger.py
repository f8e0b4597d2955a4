"""The ultrasonic ranger: echo time to distance, and to a decision."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.air import cramer
from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.fixed_rules import FIXED_RULES
from tickstone.core.air.sound_speed import (
    AIR_MODELS,
    SoundSpeed,
    sound_speed_fixed,
    sound_speed_from_air,
    sound_speed_from_rule,
)
from tickstone.core.beam import footprint_diameter_m
from tickstone.core.calibration.kind import CalibrationKind, Fit
from tickstone.core.calibration.offset_scale import OffsetScaleKind
from tickstone.core.calibration.remarks import Wording
from tickstone.core.chain import Chain, Stage
from tickstone.core.chains.kind import ChainKind, Form, Output, Role, line_of
from tickstone.core.digests.agreement import BesideAnother
from tickstone.core.digests.kind import DigestKind
from tickstone.core.display import prefixed
from tickstone.core.filters import check_words, lag_s, stage_from_words
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said, where_said
from tickstone.core.inputs import Choice, check_inputs, choice, number, switch, whole, words
from tickstone.core.quantity import DISTANCE, ECHO_TIME
from tickstone.core.reading_units import (
    SMALL_LENGTH,
    small_length,
    temperature,
    temperature_step,
    typed_length,
    typed_span,
)
from tickstone.core.reading_units import sound_speed as said_speed
from tickstone.core.rules.distance_bands import DistanceBands
from tickstone.core.rules.kind import RuleKind
from tickstone.core.rules.stop_and_go import WAY, StopAndGo
from tickstone.core.signal import Signal
from tickstone.core.stages.air_speed import MICROSECOND, AirSpeed
from tickstone.core.stages.bands import LAMPS
from tickstone.core.stages.echo_gate import EchoGate
from tickstone.core.stages.half_path import HalfPath
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.path_triangle import PathTriangle
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.stages.running_median import RunningMedian
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.core.surroundings import Surroundings

FIXED_SPEED = "fixed"
"""The air model under which `fixed_speed_m_per_s` is used as it stands."""
AIR_CHANGE_LIMIT_C = 5.0
"""A calibration made in air warmer or colder by more than this wants another look."""
LENGTHS = Wording(
    still_limit=0.005,
    small=small_length,
    sensor="a ranger",
    already="Air, triangle and mount are already taken into account",
    units="the unit of the echo times and of the marks",
    against="the ruler",
    elsewhere="air",
)
"""Marks on a ruler."""


def _air_models() -> tuple[Choice, ...]:
    return (
        *(
            Choice(model.name, f"{model.label}: {model.formula}", "this air")
            for model in AIR_MODELS.values()
        ),
        *(
            Choice(rule.name, rule.label, "a rule of thumb, whatever the air")
            for rule in FIXED_RULES.values()
        ),
        Choice(FIXED_SPEED, "a constant of my own", "a rule of thumb, whatever the air"),
    )


@dataclass(frozen=True, slots=True)
class RangerParameters:
    """What is known of one ranger and how it is mounted. Lengths m, times s or µs, angles rad.

    The defaults are common practice for a 40 kHz module; timeout, detection doubt and baseline are
    from memory.

    Raises ValueError naming the first parameter that cannot be.
    """

    air_model: str = choice("Speed of sound from", _air_models(), node="air")
    fixed_speed_m_per_s: float = number(
        "Constant", "m/s", 343.0, 250.0, 450.0, node="air", decimals=1,
        when=("air_model", FIXED_SPEED),
    )  # fmt: skip
    timeout_us: float = number(
        "Timeout", "µs", 38_000.0, 100.0, 1e6, "an echo this long means nothing was heard",
        node="echo", decimals=0,
    )  # fmt: skip
    tick_us: float = number("Timer tick, ±", "µs", 1.0, 0.0, 1e4, node="echo")
    detection_us: float = number(
        "Detection, ±", "µs", 12.5, 0.0, 1e4, "early or late by half a wave: 12.5 at 40 kHz",
        node="echo",
    )  # fmt: skip
    baseline_m: float = number(
        "Emitter to receiver", "m", 0.026, 0.0, 0.5,
        "between the centres; 0 leaves the triangle out",
        node="triangle", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    min_m: float = number("Nearest", "m", 0.02, 0.0, 20.0, node="range")
    max_m: float = number("Farthest", "m", 4.0, 0.0, 20.0, node="range")
    beam_rad: float = number(
        "Beam, edge to edge", "rad", math.radians(15.0), 1e-6, 3.14,
        "some datasheets print half of it", node="range", decimals=1,
    )  # fmt: skip
    mount_m: float = number(
        "Face behind the edge", "m", 0.0, -2.0, 2.0, "negative if it sticks out",
        node="mount", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    mount_tolerance_m: float = number(
        "Measured to, ±", "m", 0.001, 0.0, 1.0, node="mount", shown_as=SMALL_LENGTH, decimals=1
    )
    median_n: int = whole(
        "Readings to choose from",
        3,
        1,
        99,
        "odd; 1 is no filter",
        (1, 3, 5, 7, 9, 15),
        node="median",
    )
    blind_stop_s: float = number(
        "Blind after", "s", 0.25, 0.0, 60.0, "without any evidence for this long: stop",
        node="threshold", decimals=2,
    )  # fmt: skip
    smooth: str = words(
        "Filter", "", "such as kalman:q=1e-5,r=4e-5 or low-pass:hz=5; none when empty",
        node="smooth", is_rare=True,
    )  # fmt: skip
    silence_is_clear: bool = switch(
        "No echo means an empty way", False, "a soft or slanted thing is silent too",
        node="threshold",
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.min_m < self.max_m:
            raise ValueError("the range has to run from 0 m or more to a larger one, 20 m at most")
        if self.median_n % 2 != 1:
            raise ValueError("the median takes an odd number of readings, 1 to 99")
        check_words(self.smooth)

    @property
    def reads_the_air(self) -> bool:
        """False when a fixed constant stands in for the air."""
        return self.air_model in AIR_MODELS


def sound_speed(parameters: RangerParameters, air: AirConditions) -> SoundSpeed:
    """The speed of sound this ranger's chain uses in `air`."""
    if parameters.air_model == FIXED_SPEED:
        return sound_speed_fixed(parameters.fixed_speed_m_per_s)
    if parameters.air_model in FIXED_RULES:
        return sound_speed_from_rule(parameters.air_model)
    return sound_speed_from_air(parameters.air_model, air)


class EchoRanger(ChainKind):
    """An ultrasonic ranger.

    >>> kind = EchoRanger()
    >>> chain = kind.build(RangerParameters(mount_m=0.008), Surroundings(AirConditions(20.0, 0.5)))
    >>> steps = chain.explain(Signal.of([0.0], [5831]), 0)
    >>> round(steps[-1].value, 3), steps[-1].status.word
    (0.995, 'ok')
    """

    name: ClassVar[str] = "echo"
    label: ClassVar[str] = "Ultrasonic ranger"
    parameters: ClassVar[type] = RangerParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "echo",
            "Echo",
            (
                Form("time", "echo time", ECHO_TIME, {"µs": 1.0, "ms": 1e3, "s": 1e6}, option="us"),
                Form(
                    "distance",
                    "distance, already worked out",
                    DISTANCE,
                    {"cm": 0.01, "mm": 0.001, "m": 1.0, "in": 0.0254},
                    late="triangle",
                    loses=(
                        "The echo times are gone, so the air cannot be put right afterwards, and "
                        "what the program on the board assumed of it stays in every reading."
                    ),
                    option="distance-m",
                ),
            ),
            ("echo", "ping", "us", "t_us", "duration", "pulse_us", "echo_us"),
        ),
    )
    outputs: ClassVar[tuple[Output, ...]] = (
        Output("distance", "Distance", DISTANCE),
        Output("way", "Drive", WAY),
        Output("lamps", "Lamps", LAMPS),
    )
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (
        OffsetScaleKind(
            DISTANCE,
            usual_u=0.001,
            wording=LENGTHS,
            at=1.0,
            steady=0.01,
            values_within=(0.0, 20.0),
            guide=(
                "Press M: a stretch where the target stood still is proposed, or drag over "
                "another, and type what the ruler said. Two marks far apart give offset and "
                "scale; a third shows whether they agree."
            ),
        ),
    )
    rules: ClassVar[tuple[RuleKind, ...]] = (StopAndGo(), DistanceBands())
    unfiltered: ClassVar[Mapping[str, Any]] = {"median_n": 1, "smooth": ""}
    filtered: ClassVar[str] = "distance"
    digests: ClassVar[tuple[DigestKind, ...]] = (BesideAnother(),)
    sample: ClassVar[str] = "echoes"
    surroundings_node: ClassVar[str] = "air"

    def build(
        self,
        parameters: RangerParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Echo time in µs to distance in m."""
        stages: list[tuple[str, Stage]] = [
            ("echo", EchoGate(parameters.timeout_us, parameters.tick_us, parameters.detection_us)),
            ("half", HalfPath()),
            ("air", AirSpeed(sound_speed(parameters, surroundings.air))),
        ]
        if parameters.baseline_m > 0.0:
            stages.append(("triangle", PathTriangle(parameters.baseline_m)))
        stages.append(("range", RangeGate(parameters.min_m, parameters.max_m)))
        if parameters.mount_m != 0.0 or parameters.mount_tolerance_m > 0.0:
            stages.append(("mount", MountOffset(parameters.mount_m, parameters.mount_tolerance_m)))
        stages += [("calibration", stage) for stage in (calibrations or {}).values()]
        if parameters.median_n > 1:
            stages.append(("median", RunningMedian(parameters.median_n)))
        smooth = stage_from_words(parameters.smooth)
        if smooth is not None:
            stages.append(("smooth", smooth))
        form, entry = self.role("echo").entry(forms, lanes)
        late = "triangle" if form.late and parameters.baseline_m > 0.0 else form.late and "air"
        nodes = line_of(stages, entry, late)
        return Chain((entry,), nodes, (("distance", stages[-1][0]),))

    def grounds(self, parameters: RangerParameters) -> dict[str, float | str]:
        """Air model, baseline and mount."""
        grounds: dict[str, float | str] = {
            "air model": parameters.air_model,
            "baseline": parameters.baseline_m,
            "mount": parameters.mount_m,
        }
        if parameters.air_model == FIXED_SPEED:
            grounds["fixed speed"] = parameters.fixed_speed_m_per_s
        return grounds

    def rests_on_air(self, parameters: RangerParameters) -> bool:
        """Unless a constant stands in for it."""
        return parameters.reads_the_air

    def changed(
        self, made: Surroundings, now: Surroundings, parameters: RangerParameters
    ) -> tuple[str, str] | None:
        """When the air is warmer or colder by more than AIR_CHANGE_LIMIT_C."""
        warmer = air_change_c(made.air, now.air)
        if abs(warmer) <= AIR_CHANGE_LIMIT_C:
            return None
        sign = "+" if warmer > 0 else ""
        return (
            f"air {sign}{temperature_step(warmer, 0)}",
            _air_sentence(made.air, now.air, warmer, parameters.reads_the_air),
        )

    def calibration_said(
        self, kind: CalibrationKind, fit: Fit, day: str, surroundings: Surroundings
    ) -> str:
        """Its marks, the air it was made in, and its ±."""
        marks = sum(one.is_used for one in fit.spans)
        return (
            f"{marks} mark{'' if marks == 1 else 's'} on {day} at "
            f"{temperature(surroundings.air.temperature_c, 1)}: {kind.short(fit)} at "
            f"{typed_length(1.0)}."
        )

    def flagged_said(self, statuses: Mapping[Status, int], samples: int) -> tuple[str, str]:
        """Zeros are told as such when they are half of it or more."""
        silent = statuses.get(Status.NO_ECHO, 0) + statuses.get(Status.TIMED_OUT, 0)
        if silent < 0.5 * sum(statuses.values()):
            return super().flagged_said(statuses, samples)
        share = f"{100.0 * silent / samples:.0f} %"
        said = f"{share} of the readings in {{name}} are zeros: no echo came back"
        return f"{share} zeros", said

    def findings(
        self, parameters: RangerParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Silence, readings out of range, and how far a fixed speed of sound is off."""
        found = [] if signal is None else _flag_findings(signal)
        if not parameters.reads_the_air:
            found.append(_fixed_speed_finding(parameters, surroundings.air))
        return found

    def no_number(self, parameters: RangerParameters) -> str:
        """Its range and timeout do not go together."""
        span = typed_span(parameters.min_m, parameters.max_m)
        return (
            f"this ranger never reads a distance to stop by: its working line gives none within "
            f"its range, {span}, and its echo timeout of "
            f"{prefixed(parameters.timeout_us * MICROSECOND, 's')}. Open its cells and change "
            "what keeps it from reading"
        )

    def remedy(self, source: str) -> str:
        """For echo, thermometer and air."""
        return {
            "echo detection": "A harder, squarer target, or the mean of several readings,",
            "thermometer": "A thermometer four times as good, or a calibration against a ruler,",
            "air not asked": "Letting the chain use today’s air",
            "calibration": "More marks, farther apart and better placed,",
        }.get(source, "")

    def raw_for(
        self,
        value: float,
        parameters: RangerParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """The echo time, µs, that the uncalibrated chain would read as a distance it can take.

        >>> raw = EchoRanger().raw_for(
        ...     0.99537, RangerParameters(mount_m=0.008), Surroundings(AirConditions(20.0)))
        >>> round(raw["echo"].value[0])
        5834
        """
        speed = sound_speed(parameters, surroundings.air).value * MICROSECOND
        heard_m = speed * parameters.timeout_us / 2.0
        farthest_m = min(parameters.max_m, heard_m - parameters.mount_m - parameters.baseline_m)
        within_m = max(parameters.min_m, min(value, 0.99 * farthest_m))
        slant = math.hypot(within_m + parameters.mount_m, parameters.baseline_m / 2.0)
        return {"echo": Signal.of([0.0], [2.0 * slant / speed], ECHO_TIME)}

    def filter_lag_s(self, parameters: RangerParameters, sample_s: float) -> float:
        """That of the median and the filter."""
        return (parameters.median_n - 1) / 2 * sample_s + lag_s(parameters.smooth, sample_s)

    def beside(self, output: str, step: Step, parameters: RangerParameters) -> str:
        """How wide the beam is there."""
        if output != "distance" or not (math.isfinite(step.value) and step.value >= 0.0):
            return ""
        wide = footprint_diameter_m(step.value, parameters.beam_rad)
        return f"the beam is {small_length(wide, 0)} wide there"


def ranger_chain(
    parameters: RangerParameters,
    air: AirConditions,
    calibration: Stage | None = None,
    rule: Stage | None = None,
) -> Chain:
    """The chain of an ultrasonic ranger in plain terms."""
    calibrations = {} if calibration is None else {"offset-scale": calibration}
    kind = EchoRanger()
    chain = kind.build(parameters, Surroundings(air), calibrations)
    return chain if rule is None else kind.with_rules(chain, {StopAndGo.name: rule})


def air_change_c(then: AirConditions, now: AirConditions) -> float:
    """How much warmer the air is now, °C.

    >>> air_change_c(AirConditions(9.5), AirConditions(21.5))
    12.0
    """
    return round(now.temperature_c - then.temperature_c, 6)


def air_effect_at_1m_m(then: AirConditions, now: AirConditions) -> float:
    """How far apart, m, two echoes' worth of air put a target 1 m away.

    >>> round(air_effect_at_1m_m(AirConditions(9.5), AirConditions(21.5)), 3)
    0.022
    """
    return cramer.speed_of_sound(now) / cramer.speed_of_sound(then) - 1.0


def _air_sentence(then: AirConditions, now: AirConditions, warmer: float, is_read: bool) -> str:
    off = small_length(abs(air_effect_at_1m_m(then, now)), 0)
    direction = "warmer" if warmer > 0 else "colder"
    made = (
        f"It was made at {temperature(then.temperature_c, 1)}; the air is now "
        f"{temperature(now.temperature_c, 1)}, {temperature_step(abs(warmer), 0)} "
        f"{direction} (limit {temperature_step(AIR_CHANGE_LIMIT_C, 0)})."
    )
    if is_read:
        return (
            f"{made} At {typed_length(1.0)} that is {off}, and only the thermometer vouches for "
            "it: mark again."
        )
    return f"{made} At {typed_length(1.0)} that is {off}, and a fixed speed of sound corrects none."


def _fixed_speed_finding(parameters: RangerParameters, air: AirConditions) -> Finding:
    sound = sound_speed(parameters, air)
    true = cramer.speed_of_sound(air)
    off_m = sound.value / true - 1.0
    return Finding(
        "warning" if abs(off_m) >= 0.005 else "note",
        f"The fixed speed of sound puts {typed_length(1.0)} {small_length(abs(off_m), 0)} too "
        f"{'far' if off_m > 0 else 'near'}.",
        f"It stands at {said_speed(sound.value, 1)}; in air of "
        f"{temperature(air.temperature_c, 1)} sound does {said_speed(true, 1)}.",
        "Let the chain use the air instead.",
    )


def _flag_findings(signal: Signal) -> list[Finding]:
    findings = []
    flag, count = signal.flag, len(signal)
    silent = (flag == Status.NO_ECHO) | (flag == Status.TIMED_OUT)
    if silent.any():
        findings.append(silence_finding(signal, silent, count))
    for status, cause in (
        (Status.TOO_NEAR, "Closer than the stated range, the sensor hears its own pulse."),
        (Status.TOO_FAR, "Beyond the stated range an echo is weak and often another thing’s."),
    ):
        number_of = int((flag == status).sum())
        if number_of:
            findings.append(
                Finding(
                    "note",
                    f"{number_of} reading{'s are' if number_of > 1 else ' is'} {status.word}.",
                    cause,
                    "They are flagged, not used.",
                )
            )
    return findings


def silence_finding(signal: Signal, silent: Any, count: int) -> Finding:
    """How many readings have no echo, and where."""
    number_of = int(silent.sum())
    return Finding(
        "error" if number_of > 0.2 * count else "warning",
        f"{number_of} reading{'s have' if number_of > 1 else ' has'} no echo.",
        f"That is {share_said(number_of, count)}, {where_said(signal.time_s, silent)}. A soft, "
        "slanted or far target does that. They stay in place, never used as a distance.",
        "Look at what stood there; square the target to the sensor or use a hard one.",
    )
