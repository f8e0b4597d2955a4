"""A number that the program on the board had already worked out, and what is doubted of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class WorkedOut(Pointwise):
    """The same values: whatever they were worked out from, its scale and its zero came along.

    u_share: standard uncertainty of the scale, as a share; zero_u: of what is told of nothing, in
    the unit of what comes; each lane has its own.

    >>> from tickstone.core.quantity import FORCE
    >>> stage = WorkedOut(0.015, 0.3)
    >>> stage.apply(Signal.of([0], [[9.8], [0.0], [0.1]], FORCE)).values[:, 0].tolist()
    [9.8, 0.0, 0.1]
    """

    name: ClassVar[str] = "worked-out"

    u_share: float = 0.0
    zero_u: float = 0.0

    def apply(self, *signals: Signal) -> Signal:
        """As they came."""
        return signals[0]

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return entering[0]

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading with what is doubted of it."""
        reading = readings[0]
        quantity = reading.quantity
        lanes = []
        for name, lane in zip(quantity.lanes, reading.lanes, strict=True):
            sources, axis = Sources(), f", {name}" if name else ""
            basis = "until it is calibrated"
            share = Component(f"sensitivity{axis}", self.u_share, "", 0.0, True, basis)
            zero = Component(f"zero{axis}", self.zero_u, quantity.unit, 0.0, True, basis)
            result = sources.of(lane) * sources.known(share, 1.0) + sources.known(zero, 0.0)
            lanes.append(lane_of(result, sources, lane))
        return Step(
            stage=self.name,
            label="worked out",
            sign="=",
            operand=Operand(None, "", 0.0, "on the board"),
            formula="x",
            filled=quantity.said(reading.value, 2),
            value=lanes[0].value,
            quantity=quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="what an uncalibrated unit may be off by; from memory",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
