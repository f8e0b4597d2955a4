"""What the sensor is stated to reach: nearer and farther readings are flagged."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.reading_units import length, typed_length, typed_span
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status


@dataclass(frozen=True, slots=True)
class RangeGate:
    """Flags distances below min_m as too near and above max_m as too far. Values stay as they are.

    min_m, max_m: m, measured from the sensor's face.

    >>> gate = RangeGate(min_m=0.02, max_m=4.0)
    >>> gate.apply(Signal.of([0, 1, 2], [0.01, 1.0, 5.0], "m")).status.tolist()
    [3, 0, 4]
    """

    name: ClassVar[str] = "range"
    pointwise: ClassVar[bool] = True

    min_m: float
    max_m: float

    def apply(self, signal: Signal) -> Signal:
        """The same values; flagged outside the range."""
        outside = np.flatnonzero((signal.values < self.min_m) | (signal.values > self.max_m))
        if outside.size == 0:
            return signal
        near = signal.values[outside] < self.min_m
        verdict = np.where(near, Status.TOO_NEAR, Status.TOO_FAR)
        return signal.replaced(signal.values, signal.unit, flagged(signal.status, outside, verdict))

    def explain(self, reading: Reading) -> Step:
        """Whether one distance is within the stated range."""
        status = reading.status
        if status == Status.OK and reading.value < self.min_m:
            status = Status.TOO_NEAR
        elif status == Status.OK and reading.value > self.max_m:
            status = Status.TOO_FAR
        low, high = typed_length(self.min_m), typed_length(self.max_m)
        return Step(
            stage=self.name,
            label="within range",
            sign="∈",
            operand=Operand(None, "", 0.0, typed_span(self.min_m, self.max_m)),
            formula="min ≤ d ≤ max",
            filled=f"{low} ≤ {length(reading.value, 3)} ≤ {high}",
            value=reading.value,
            unit=reading.unit,
            status=status,
            components=reading.components,
            source="the sensor’s datasheet",
            note=status.meaning,
        )
