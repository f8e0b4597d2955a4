"""A scale for each lane, from something turned by a known amount."""

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
class LaneScale(Pointwise):
    """s·x, lane by lane, any unit to itself.

    scale: s, one for each lane. u: standard uncertainties; where above 0 they take the place of
    what was doubted of the sensitivity before. label: what they rest on.

    >>> from tickstone.core.quantity import ROTATION
    >>> turns = Signal.of([0], [[1.0], [1.0], [1.0]], ROTATION)
    >>> LaneScale((1.0, 1.0, 1.02), (0, 0, 0.001), "turns").apply(turns).values[:, 0].tolist()
    [1.0, 1.0, 1.02]
    """

    name: ClassVar[str] = "turn-scale"

    scale: tuple[float, ...]
    u: tuple[float, ...]
    label: str

    def gives(self, *taken: Quantity) -> Quantity:
        """The same. Raises ValueError for another number of lanes."""
        if len(taken[0].lanes) != len(self.scale):
            raise ValueError(f"there is a scale for {len(self.scale)} lanes")
        return taken[0]

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        return signals[0].replaced(signals[0].values * np.array(self.scale)[:, None])

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        scales = [
            code.constant(f"scale_{lane or n + 1}", value, "", u or None, self.label)
            for n, (value, u, lane) in enumerate(zip(self.scale, self.u, "xyz", strict=False))
        ]
        return flow.with_values(
            *(one.value * scale for one, scale in zip(flow.lanes, scales, strict=True))
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        lanes = []
        for place, lane in enumerate(reading.lanes):
            scale, u = self.scale[place], self.u[place]
            parts = tuple(
                part.through(scale)
                for part in lane.components
                if not (u > 0.0 and part.name.startswith("sensitivity"))
            )
            if u > 0.0:
                name = f"turn scale, {reading.quantity.lanes[place]}"
                parts = (*parts, Component(name, u, "", u * lane.value, True, self.label))
            lanes.append(Lane(scale * lane.value, lane.status, parts))
        return Step(
            stage=self.name,
            label="turn scale",
            sign="×",
            operand=Operand(self.scale[0], "", self.u[0], self.label),
            formula="s·x",
            filled=f"{self.scale[0]:.4f} × {reading.quantity.said(reading.value, 3)}",
            value=lanes[0].value,
            quantity=reading.quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="whole turns by hand; common practice",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
