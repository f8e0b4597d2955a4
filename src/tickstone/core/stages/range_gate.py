"""What the sensor is stated to reach: readings below and above are flagged."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class RangeGate(Pointwise):
    """Flags distances below min_m as too near and above max_m as too far. Values stay as they are.

    min_m, max_m: m, measured from the sensor's face.

    >>> gate = RangeGate(min_m=0.02, max_m=4.0)
    >>> gate.apply(Signal.of([0, 1, 2], [0.01, 1.0, 5.0])).flag.tolist()
    [3, 0, 4]
    """

    name: ClassVar[str] = "range"

    min_m: float
    max_m: float

    def apply(self, *signals: Signal) -> Signal:
        """The same values; flagged outside the range."""
        values = signals[0].values
        outside = np.flatnonzero((values < self.min_m) | (values > self.max_m))
        if outside.size == 0:
            return signals[0]
        near = values.reshape(-1)[outside] < self.min_m
        verdict = np.where(near, Status.TOO_NEAR, Status.TOO_FAR)
        return signals[0].replaced(values, flagged(signals[0].status, outside, verdict))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        return flow.of(
            *(
                lane.flagged(
                    (lane.value < self.min_m, Status.TOO_NEAR),
                    (lane.value > self.max_m, Status.TOO_FAR),
                )
                for lane in flow.lanes
            )
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """Whether one distance is within the stated range."""
        reading = readings[0]
        status, quantity = reading.status, reading.quantity
        if status == Status.OK and reading.value < self.min_m:
            status = Status.TOO_NEAR
        elif status == Status.OK and reading.value > self.max_m:
            status = Status.TOO_FAR
        low, high = quantity.typed(self.min_m), quantity.typed(self.max_m)
        span = f"{low.rpartition(' ')[0]} to {high}"
        return Step(
            stage=self.name,
            label="within range",
            sign="∈",
            operand=Operand(None, "", 0.0, span),
            formula="min ≤ d ≤ max",
            filled=f"{low} ≤ {quantity.said(reading.value, 3)} ≤ {high}",
            value=reading.value,
            quantity=quantity,
            status=status,
            components=reading.components,
            source="the sensor’s datasheet",
            note=status.meaning,
        )
