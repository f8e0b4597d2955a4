"""Made-up inertial units, stretches of them held still, and a drive up a ramp."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.axes import AXES, axis_vector, rotation
from tickstone.core.calibration.kind import Span
from tickstone.core.chain import Stage
from tickstone.core.chains.six_axis import SixAxis, SixAxisParameters
from tickstone.core.models.motion import driven
from tickstone.core.quantity import COUNTS, FORCE, ROTATION
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2 as G
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.lane_shift import LaneShift
from tickstone.core.surroundings import Surroundings

HZ = 50.0


def unit(rng: np.random.Generator) -> tuple[FloatArray, FloatArray]:
    """Offset, m/s², and S of x = o + S·a: scales within 3 %, cross-axis within 1 %."""
    scale = np.diag(rng.uniform(0.97, 1.03, 3)) + rng.uniform(-0.01, 0.01, (3, 3)) * (1 - np.eye(3))
    return rng.uniform(-0.05, 0.05, 3) * G, scale


def held(
    up: FloatArray,
    offset: FloatArray,
    scale: FloatArray,
    rng: np.random.Generator,
    seconds: float = 3.0,
    noise: float = 0.004 * G,
    start_s: float = 0.0,
) -> Signal:
    """A unit at rest with `up` pointing up."""
    n = int(seconds * HZ)
    read = offset + scale @ (G * up)
    values = read[:, None] + rng.normal(0.0, noise, (3, n))
    return Signal.of(start_s + np.arange(n) / HZ, values, FORCE)  # fmt: skip


def six_spans(
    offset: FloatArray,
    scale: FloatArray,
    rng: np.random.Generator,
    slant_rad: float = 0.0,
    faces: Sequence[str] = AXES,
) -> list[Span]:
    """Each face held once, aslant by as much as hands do it."""
    spans = []
    for face in faces:
        lean = rotation(*(rng.normal(0.0, slant_rad, 3))) if slant_rad else np.eye(3)
        spans.append(Span("any face", held(lean @ axis_vector(face), offset, scale, rng)))
    return spans  # fmt: skip


def one_log(parts: Sequence[Signal]) -> Signal:
    """Stretches one after the other, as one recording."""
    values = np.concatenate([part.values for part in parts], axis=1)
    return Signal.of(np.arange(values.shape[1]) / HZ, values, parts[0].quantity)


def resting(
    bias: FloatArray, rng: np.random.Generator, seconds: float, noise: float = 0.001
) -> Signal:
    """A gyroscope left alone."""
    n = int(seconds * HZ)
    values = bias[:, None] + rng.normal(0.0, noise, (3, n))
    return Signal.of(np.arange(n) / HZ, values, ROTATION)


ROOM = Surroundings(AirConditions(20.0))
CODES = COUNTS.in_lanes("x", "y", "z")
DEGREE = math.pi / 180.0


def codes(force_g: FloatArray, rate_dps: FloatArray, lsb_g=16_384.0, lsb_dps=131.0):
    """A module's codes at HZ."""
    n = force_g.shape[1]
    t = np.arange(n) / HZ
    clip = lambda v: np.clip(np.round(v), -32_768, 32_767)  # noqa: E731
    return {
        "accel": Signal.of(t, clip(force_g * lsb_g), CODES),
        "gyro": Signal.of(t, clip(rate_dps * lsb_dps), CODES),
    }


def chain(parameters: SixAxisParameters, calibrations: dict[str, Stage] | None = None):
    return SixAxis().build(parameters, ROOM, calibrations)


def ramp(seed: int = 1, shakes: float = 0.0) -> dict[str, Signal]:
    """Up a slope of 10°, a quarter turn to the left, and braking; with a gyroscope off by 1 °/s."""
    rng = np.random.default_rng(seed)
    motion = driven(
        [(3.0, 0.0), (1.0, 1.0), (4.0, 1.0), (0.5, 0.0), (8.0, 0.0)],
        [(3.0, 0.0), (1.0, -10.0), (12.5, -10.0)],
        [(9.0, 0.0), (2.0, 90.0), (5.5, 90.0)],
        1.0 / HZ, shakes, rng,
    )  # fmt: skip
    return codes(motion.force_g, motion.rate_dps + 1.0)


BIAS = LaneShift((DEGREE,) * 3, (1e-5,) * 3, "rest")
