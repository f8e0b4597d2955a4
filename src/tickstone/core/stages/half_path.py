"""The echo goes out and back: half of it is the way there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class HalfPath(Pointwise):
    """t/2, µs to µs. Forgetting it doubles every distance.

    >>> HalfPath().apply(Signal.of([0.0], [5831])).value.tolist()
    [2915.5]
    """

    name: ClassVar[str] = "half"

    def apply(self, *signals: Signal) -> Signal:
        """Half of every echo time."""
        return signals[0].replaced(signals[0].values * 0.5)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        return flow.with_values(*(one.value * 0.5 for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """Half of one echo time."""
        reading, sources = readings[0], Sources()
        lane = lane_of(sources.of(reading.lanes[0]) * 0.5, sources, reading.lanes[0])
        return Step(
            stage=self.name,
            label="there, not back",
            sign="÷",
            operand=Operand(2.0, "", 0.0),
            formula="t/2",
            filled=f"{grouped(reading.value, 1)} µs ÷ 2",
            value=lane.value,
            quantity=reading.quantity,
            status=lane.status,
            components=lane.components,
            source="time of flight, out and back",
        )
