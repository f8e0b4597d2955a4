"""An even part of a whole, such as one cell of a battery."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class EachOf(Pointwise):
    """x/n, any unit to itself. count: n; what: what the parts are called.

    Raises ValueError for fewer than one.

    >>> EachOf(3, "cells").apply(Signal.of([0], [12.6])).value.round(2).tolist()
    [4.2]
    """

    name: ClassVar[str] = "each"

    count: int
    what: str

    def __post_init__(self) -> None:
        if self.count < 1:
            raise ValueError(f"there is at least one of its {self.what}")

    def apply(self, *signals: Signal) -> Signal:
        """Every reading."""
        return signals[0].replaced(signals[0].values / self.count)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        return flow.with_values(*(one.value / float(self.count) for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading."""
        reading = readings[0]
        lanes = [
            Lane(
                lane.value / self.count, lane.status,
                tuple(part.through(1.0 / self.count) for part in lane.components),
            )
            for lane in reading.lanes
        ]  # fmt: skip
        return Step(
            stage=self.name,
            label="each",
            sign="÷",
            operand=Operand(float(self.count), "", 0.0, self.what),
            formula="x/n",
            filled=f"{reading.quantity.said(reading.value)} ÷ {self.count}",
            value=lanes[0].value,
            quantity=reading.quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="all parts taken as alike",
            note=f"The mean of its {self.what}: the weakest one is lower.",
            others=tuple(lanes[1:]),
        )
