"""An amount times a number that is known exactly, or nearly so."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import shown
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class Ratio(Pointwise):
    """x·a, or x/a, to another quantity, the first lane only.

    factor: a, above 0. u: its standard uncertainty, shared by all samples. is_divided: x/a.
    becomes: the quantity of the result. label, formula: of the cell. shown_as: how `factor` is
    read, a key of `reading_units`. part: what its doubt is called; basis: where that is from.

    >>> from tickstone.core.quantity import FREQUENCY, TURN_RATE
    >>> stage = Ratio(4.0, 0.0, True, TURN_RATE, "pulses a turn", "n = f/m", "", "", "exact", "")
    >>> stage.apply(Signal.of([0.0], [8.0], FREQUENCY)).value.tolist()
    [2.0]
    """

    name: ClassVar[str] = "ratio"

    factor: float
    u: float
    is_divided: bool
    becomes: Quantity
    label: str
    formula: str
    shown_as: str
    part: str
    basis: str
    source: str
    below: str = ""

    def __post_init__(self) -> None:
        if not self.factor > 0.0:
            raise ValueError(f"{self.label} has to lie above 0, not at {self.factor:g}")

    def gives(self, *taken: Quantity) -> Quantity:
        """The quantity it becomes."""
        return self.becomes

    def apply(self, *signals: Signal) -> Signal:
        """Every sample, times or divided by."""
        first = signals[0]
        factor = 1.0 / self.factor if self.is_divided else self.factor
        return Signal(
            first.time_s, first.values[:1] * factor, first.status[:1], self.becomes, first.until_s
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        factor = code.constant("factor", self.factor, "", self.u or None, self.basis or self.label)
        flow = entering[0]
        first = flow.lanes[0]
        value = first.value / factor if self.is_divided else first.value * factor
        return flow.of(first.of(value))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        lane, sources = readings[0].lanes[0], Sources()
        part = Component(self.part, self.u, self.shown_as, self.u, True, self.basis)
        factor = sources.known(part, self.factor)
        x = sources.of(lane)
        result = lane_of(x / factor if self.is_divided else x * factor, sources, lane)
        value, unit = shown(self.factor, self.shown_as)
        sign = "÷" if self.is_divided else "×"
        said = readings[0].quantity.said(lane.value, 4)
        exact = 0 if self.factor == int(self.factor) else 4
        return Step(
            stage=self.name,
            label=self.label,
            sign=sign,
            operand=Operand(self.factor, self.shown_as, self.u),
            formula=self.formula,
            filled=f"{said} {sign} {grouped(value, exact)} {unit}".rstrip(),
            value=result.value,
            quantity=self.becomes,
            status=result.status,
            components=result.components,
            source=self.source,
            below=self.below,
        )
