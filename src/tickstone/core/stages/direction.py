"""Which way it turns: the sign of its rate."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import is_number, pick, term
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

DIRECTION = Quantity(
    "direction",
    "",
    states=(
        DecisionState("forward", "forward"),
        DecisionState("backward", "backward"),
        DecisionState("unknown", "standing, or slow"),
    ),
)
_FORWARD, _BACKWARD, _UNKNOWN = 0.0, 1.0, 2.0


@dataclass(frozen=True, slots=True)
class Direction(Pointwise):
    """A rate with a sign to a direction. What is flagged has none.

    >>> Direction().apply(Signal.of([0, 1], [2.0, -3.0])).value.tolist()
    [0.0, 1.0]
    """

    name: ClassVar[str] = "direction"

    def gives(self, *taken: Quantity) -> Quantity:
        """A state."""
        return DIRECTION

    def apply(self, *signals: Signal) -> Signal:
        """The way at every sample."""
        rate = signals[0]
        way = np.where(rate.value < 0.0, _BACKWARD, _FORWARD)
        way[(rate.flag != Status.OK) | np.isnan(rate.value)] = _UNKNOWN
        return rate.replaced(way[np.newaxis], np.zeros_like(rate.status[:1]), DIRECTION)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = flow.lanes[0]
        known = first.ok & is_number(first.value)
        way = pick(first.value < 0.0, float(_BACKWARD), float(_FORWARD))
        return flow.of(EmittedLane(pick(known, way, float(_UNKNOWN)), term(Status.OK)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """The way of one sample."""
        reading = readings[0]
        way = _UNKNOWN
        if reading.status == Status.OK and reading.value == reading.value:
            way = _BACKWARD if reading.value < 0.0 else _FORWARD
        said = reading.quantity.said(reading.value)
        return Step(
            stage=self.name,
            label="which way",
            sign="∈",
            operand=Operand(None, "", 0.0, "above 0"),
            formula="the sign of the rate",
            filled=f"{said} {'<' if way == _BACKWARD else '≥'} 0" if way != _UNKNOWN else "none",
            value=way,
            quantity=DIRECTION,
            status=Status.OK,
            components=(),
            source="the order in which the channels change; common practice",
        )
