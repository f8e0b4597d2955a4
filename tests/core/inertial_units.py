"""Made-up inertial units, and stretches of them held still."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tickstone.core.axes import AXES, axis_vector, rotation
from tickstone.core.calibration.kind import Span
from tickstone.core.quantity import FORCE, ROTATION
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2 as G
from tickstone.core.signal import FloatArray, Signal

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
