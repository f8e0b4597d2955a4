"""The echo goes out and back: half of it is the way there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.display import grouped
from tickstone.core.signal import Signal


@dataclass(frozen=True, slots=True)
class HalfPath:
    """t/2, µs to µs. Forgetting it doubles every distance.

    >>> HalfPath().apply(Signal.of([0.0], [5831], "µs")).values.tolist()
    [2915.5]
    """

    name: ClassVar[str] = "half"
    pointwise: ClassVar[bool] = True

    def apply(self, signal: Signal) -> Signal:
        """Half of every echo time."""
        return signal.replaced(signal.values * 0.5, signal.unit)

    def explain(self, reading: Reading) -> Step:
        """Half of one echo time."""
        value = reading.value * 0.5
        return Step(
            stage=self.name,
            label="there, not back",
            sign="÷",
            operand=Operand(2.0, "", 0.0),
            formula="t/2",
            filled=f"{grouped(reading.value, 1)} µs ÷ 2",
            value=value,
            unit=reading.unit,
            status=reading.status,
            components=tuple(part.through(0.5) for part in reading.components),
            source="time of flight, out and back",
        )
