"""What each lane tells at rest, taken off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class LaneShift(Pointwise):
    """x − b, lane by lane, any unit to itself.

    bias: b, one for each lane, in its unit. u: standard uncertainties; where above 0 they take the
    place of what was doubted of zero before. label: what they rest on. walk: what a sum over time
    of it scatters by, for each √s, where that was found with it.

    >>> from tickstone.core.quantity import ROTATION
    >>> turns = Signal.of([0], [[0.11], [0.2], [0.3]], ROTATION)
    >>> LaneShift((0.1, 0.2, 0.3), (0, 0, 0), "at rest").apply(turns).values[:, 0].round(3).tolist()
    [0.01, 0.0, 0.0]
    """

    name: ClassVar[str] = "bias"

    bias: tuple[float, ...]
    u: tuple[float, ...]
    label: str
    walk: float = 0.0

    def gives(self, *taken: Quantity) -> Quantity:
        """The same. Raises ValueError for another number of lanes."""
        if len(taken[0].lanes) != len(self.bias):
            raise ValueError(f"there is a bias for {len(self.bias)} lanes")
        return taken[0]

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        return signals[0].replaced(signals[0].values - np.array(self.bias)[:, None])

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        biases = [
            code.constant(f"bias_{n + 1}", value, None, u or None, self.label)
            for n, (value, u) in enumerate(zip(self.bias, self.u, strict=True))
        ]
        return flow.with_values(
            *(one.value - bias for one, bias in zip(flow.lanes, biases, strict=True))
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        quantity = reading.quantity
        lanes = []
        for place, lane in enumerate(reading.lanes):
            name = quantity.lanes[place]
            part = Component(
                f"bias, {name}", self.u[place], quantity.unit, -self.u[place], True, self.label
            )
            kept = tuple(one for one in lane.components if not one.name.startswith("zero"))
            parts = (*kept, part) if self.u[place] > 0.0 else lane.components
            lanes.append(Lane(lane.value - self.bias[place], lane.status, parts))
        bias = quantity.said(self.bias[0], 3)
        return Step(
            stage=self.name,
            label="bias",
            sign="−",
            operand=Operand(self.bias[0], quantity.unit, self.u[0], self.label),
            formula="x − b",
            filled=f"{quantity.said(reading.value, 3)} − {bias}",
            value=lanes[0].value,
            quantity=quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="what it tells at rest is its bias; common practice",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
