"""The ultrasonic ranger: its parameters and its chain."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.fixed_rules import FIXED_RULES
from tickstone.core.air.sound_speed import (
    AIR_MODELS,
    SoundSpeed,
    sound_speed_fixed,
    sound_speed_from_air,
    sound_speed_from_rule,
)
from tickstone.core.chain import Chain, Stage
from tickstone.core.stages.air_speed import AirSpeed
from tickstone.core.stages.calibration import Calibration
from tickstone.core.stages.echo_gate import EchoGate
from tickstone.core.stages.half_path import HalfPath
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.path_triangle import PathTriangle
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.stages.running_median import RunningMedian
from tickstone.core.stages.stop_threshold import StopThreshold

FIXED_SPEED = "fixed"
"""The air model under which `fixed_speed_m_per_s` is used as it stands."""


@dataclass(frozen=True, slots=True)
class RangerParameters:
    """What is known of one ranger and how it is mounted. Lengths m, times s or µs, angles rad.

    The defaults are common practice for a 40 kHz module; timeout, detection doubt and baseline are
    from memory.

    air_model: `cramer`, `ideal`, `linear`, `fixed`, or a name in FIXED_RULES.

    Raises ValueError naming the first parameter that cannot be.
    """

    air_model: str = "cramer"
    fixed_speed_m_per_s: float = 343.0
    min_m: float = 0.02
    max_m: float = 4.0
    timeout_us: float = 38_000.0
    tick_us: float = 1.0
    detection_us: float = 12.5
    baseline_m: float = 0.026
    mount_m: float = 0.0
    mount_tolerance_m: float = 0.001
    median_n: int = 3
    blind_stop_s: float = 0.25
    silence_is_clear: bool = False
    beam_rad: float = math.radians(15.0)

    def __post_init__(self) -> None:
        if self.air_model not in {*AIR_MODELS, *FIXED_RULES, FIXED_SPEED}:
            raise ValueError(f"there is no air model called “{self.air_model}”")
        if not 0.0 <= self.min_m < self.max_m <= 20.0:
            raise ValueError("the range has to run from 0 m or more to a larger one, 20 m at most")
        if not 100.0 <= self.timeout_us <= 1e6:
            raise ValueError("the timeout has to lie from 100 to 1 000 000 µs")
        if not 0.0 <= self.baseline_m <= 0.5:
            raise ValueError("emitter and receiver stand 0 to 0.5 m apart")
        if not -2.0 <= self.mount_m <= 2.0:
            raise ValueError("the mount offset has to lie from −2 to 2 m")
        for name in ("tick_us", "detection_us", "mount_tolerance_m", "blind_stop_s"):
            if not (math.isfinite(getattr(self, name)) and getattr(self, name) >= 0.0):
                raise ValueError(f"{name} has to be 0 or more")
        if not (1 <= self.median_n <= 99 and self.median_n % 2 == 1):
            raise ValueError("the median takes an odd number of readings, 1 to 99")
        if not 0.0 < self.beam_rad < math.pi:
            raise ValueError("the beam’s full angle lies between 0 and 180°")

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


def ranger_chain(
    parameters: RangerParameters,
    air: AirConditions,
    calibration: Calibration | None = None,
    threshold: StopThreshold | None = None,
) -> Chain:
    """Echo time in µs to distance in m, and to a decision where there is a threshold.

    >>> from tickstone.core.signal import Signal
    >>> chain = ranger_chain(RangerParameters(mount_m=0.008), AirConditions(20.0, 0.5))
    >>> steps = chain.explain(Signal.of([0.0], [5831], "µs"), 0)
    >>> round(steps[-1].value, 3), steps[-1].status.word
    (0.995, 'ok')
    """
    stages: list[Stage] = [
        EchoGate(parameters.timeout_us, parameters.tick_us, parameters.detection_us),
        HalfPath(),
        AirSpeed(sound_speed(parameters, air)),
    ]
    if parameters.baseline_m > 0.0:
        stages.append(PathTriangle(parameters.baseline_m))
    stages.append(RangeGate(parameters.min_m, parameters.max_m))
    if parameters.mount_m != 0.0 or parameters.mount_tolerance_m > 0.0:
        stages.append(MountOffset(parameters.mount_m, parameters.mount_tolerance_m))
    if calibration is not None:
        stages.append(calibration)
    if parameters.median_n > 1:
        stages.append(RunningMedian(parameters.median_n))
    if threshold is not None:
        stages.append(threshold)
    return Chain(tuple(stages))


def calibration_grounds(parameters: RangerParameters) -> dict[str, float | str]:
    """The parameters a calibration rests on: when one changes, it no longer holds."""
    grounds: dict[str, float | str] = {
        "air model": parameters.air_model,
        "baseline": parameters.baseline_m,
        "mount": parameters.mount_m,
    }
    if parameters.air_model == FIXED_SPEED:
        grounds["fixed speed"] = parameters.fixed_speed_m_per_s
    return grounds
