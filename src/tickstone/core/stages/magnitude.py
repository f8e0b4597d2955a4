"""How much, whichever way."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import size
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class Magnitude(Pointwise):
    """|x|, so that a limit holds both ways.

    >>> Magnitude().apply(Signal.of([0.0, 1.0], [-2.0, 1.0])).value.tolist()
    [2.0, 1.0]
    """

    name: ClassVar[str] = "magnitude"

    def apply(self, *signals: Signal) -> Signal:
        """Every lane without its sign."""
        return signals[0].replaced(np.abs(signals[0].values))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        return flow.with_values(*(size(one.value) for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample without its sign."""
        reading = readings[0]
        first, *others = (replace(lane, value=abs(lane.value)) for lane in reading.lanes)
        return Step(
            stage=self.name,
            label="either way",
            sign="",
            operand=Operand(None, "", 0.0, "without sign"),
            formula="|x|",
            filled=f"|{reading.quantity.said(reading.value)}|",
            value=first.value,
            quantity=reading.quantity,
            status=first.status,
            components=first.components,
            source="a limit holds both ways",
            others=tuple(others),
        )
