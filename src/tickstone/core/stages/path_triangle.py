"""Emitter and receiver stand side by side, so the way out and back is a thin triangle."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.reading_units import length
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status


@dataclass(frozen=True, slots=True)
class PathTriangle:
    """d = √(s² − (b/2)²) for a slant s and a baseline b, m to m.

    A slant shorter than half the baseline has no triangle: the sample is flagged too near.

    baseline_m: b, m, between the centres of emitter and receiver.

    >>> stage = PathTriangle(baseline_m=0.026)
    >>> stage.apply(Signal.of([0, 1], [0.02, 1.0], "m")).values.round(4).tolist()
    [0.0152, 0.9999]
    """

    name: ClassVar[str] = "triangle"
    pointwise: ClassVar[bool] = True

    baseline_m: float

    def apply(self, signal: Signal) -> Signal:
        """Every slant as a straight distance, m."""
        half = 0.5 * self.baseline_m
        square = signal.values * signal.values
        square -= half * half
        impossible = np.flatnonzero(square <= 0.0)
        square[impossible] = np.nan
        distance = np.sqrt(square, out=square)
        if impossible.size == 0:
            return signal.replaced(distance, signal.unit)
        verdict = np.full(impossible.size, Status.TOO_NEAR)
        return signal.replaced(distance, signal.unit, flagged(signal.status, impossible, verdict))

    def explain(self, reading: Reading) -> Step:
        """One slant as a straight distance."""
        half = 0.5 * self.baseline_m
        square = reading.value * reading.value - half * half
        status = reading.status
        if square <= 0.0:
            value, slope = float("nan"), float("nan")
            status = Status.TOO_NEAR if status == Status.OK else status
        else:
            value = math.sqrt(square)
            slope = reading.value / value
        return Step(
            stage=self.name,
            label="path triangle",
            sign="△",
            operand=Operand(self.baseline_m * 1000.0, "mm", 0.0, "between emitter and receiver"),
            formula="d = √(s² − (b/2)²)",
            filled=f"√(({length(reading.value, 4)})² − ({length(half, 4)})²)",
            value=value,
            unit=reading.unit,
            status=status,
            components=tuple(part.through(slope) for part in reading.components),
            source="geometry of an isosceles triangle",
        )
