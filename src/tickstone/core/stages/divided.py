"""Volts at the middle of a divider to those over all of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import prefixed
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class Divided(Pointwise):
    """U = V·(R₁ + R₂)/R₂. top_ohm: R₁; bottom_ohm: R₂, Ω; within: tolerance of both, a share.

    Raises ValueError when the bottom one is not above 0.

    >>> Divided(20e3, 10e3, 0.01).apply(Signal.of([0], [2.5])).value.tolist()
    [7.5]
    """

    name: ClassVar[str] = "divider"

    top_ohm: float
    bottom_ohm: float
    within: float

    def __post_init__(self) -> None:
        if not self.bottom_ohm > 0.0 or not self.top_ohm >= 0.0:
            raise ValueError("a divider has a resistor to ground, and one above it or none")

    @property
    def ratio(self) -> float:
        """(R₁ + R₂)/R₂."""
        return (self.top_ohm + self.bottom_ohm) / self.bottom_ohm

    def apply(self, *signals: Signal) -> Signal:
        """Every reading."""
        return signals[0].replaced(signals[0].values * self.ratio)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        ratio = code.constant("ratio", self.ratio, "", None, "its two resistors")
        flow = entering[0]
        return flow.with_values(*(one.value * ratio for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading."""
        reading, lanes = readings[0], []
        u, basis = rectangular(self.within), f"± {100.0 * self.within:g} %"
        for lane in reading.lanes:
            sources = Sources()
            top = self.top_ohm * sources.known(Component("R₁", u, "", 0.0, True, basis), 1.0)
            bottom = self.bottom_ohm * sources.known(Component("R₂", u, "", 0.0, True, basis), 1.0)
            lanes.append(lane_of(sources.of(lane) * ((top + bottom) / bottom), sources, lane))
        return Step(
            stage=self.name,
            label="divider",
            sign="×",
            operand=Operand(self.ratio, "", u * self.top_ohm / self.bottom_ohm, "R₁ and R₂"),
            formula="U = V·(R₁ + R₂)/R₂",
            filled=(
                f"{reading.quantity.said(reading.value)} × ({prefixed(self.top_ohm, 'Ω')} + "
                f"{prefixed(self.bottom_ohm, 'Ω')}) ÷ {prefixed(self.bottom_ohm, 'Ω')}"
            ),
            value=lanes[0].value,
            quantity=reading.quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="unloaded divider",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
