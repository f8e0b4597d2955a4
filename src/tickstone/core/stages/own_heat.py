"""What a sensor's own warmth, or that of a part beside it, adds to what it reads."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.reading_units import temperature_step
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class OwnHeat(Pointwise):
    """T − heat. heat_k: K; within_k: ± it is known to.

    >>> OwnHeat(0.5, 0.3).apply(Signal.of([0], [21.5])).value.tolist()
    [21.0]
    """

    name: ClassVar[str] = "own-heat"

    heat_k: float
    within_k: float

    def apply(self, *signals: Signal) -> Signal:
        """Every reading."""
        return signals[0].replaced(signals[0].values - self.heat_k)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        heat = code.constant("heat", self.heat_k, "K", None, "measured")
        flow = entering[0]
        return flow.with_values(*(one.value - heat for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading."""
        reading, u = readings[0], rectangular(self.within_k)
        part = Component("own warmth", u, "K", -u, True, f"± {temperature_step(self.within_k, 1)}")
        lanes = [
            Lane(
                lane.value - self.heat_k, lane.status,
                (*lane.components, part) if u > 0.0 else lane.components,
            )
            for lane in reading.lanes
        ]  # fmt: skip
        return Step(
            stage=self.name,
            label="own warmth",
            sign="−",
            operand=Operand(self.heat_k, "K", u),
            formula="T − heat",
            filled=(
                f"{reading.quantity.said(reading.value, 2)} − {temperature_step(self.heat_k, 2)}"
            ),
            value=lanes[0].value,
            quantity=reading.quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="self-heating, as stated",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
