"""A place in a chain where something could stand: what goes in comes out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class Untouched(Pointwise):
    """x, any unit to itself; holds the place of a calibration that is not made yet.

    >>> Untouched().apply(Signal.of([0.0], [2.5])).value.tolist()
    [2.5]
    """

    name: ClassVar[str] = "untouched"

    def apply(self, *signals: Signal) -> Signal:
        """The same."""
        return signals[0]

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return entering[0]

    def explain(self, state: State, *readings: Reading) -> Step:
        """The same."""
        reading = readings[0]
        return Step(
            stage=self.name,
            label="not calibrated",
            sign="=",
            operand=Operand(None, "", 0.0, "as read"),
            formula="x",
            filled=reading.quantity.said(reading.value),
            value=reading.value,
            quantity=reading.quantity,
            status=reading.status,
            components=reading.components,
            source="nothing is done",
            others=reading.lanes[1:],
        )
