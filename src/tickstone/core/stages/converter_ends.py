"""Codes at the very ends of a converter: the truth may lie beyond."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular

_PART = "one code"


@dataclass(frozen=True, slots=True)
class ConverterEnds(Pointwise):
    """Flags 0 and 2ⁿ − 1, and what lies outside, as clipped. Values stay as they are.

    bits: n. Codes are whole, so each is known to ± ½. is_signed: codes run from −2ⁿ⁻¹ to
    2ⁿ⁻¹ − 1. remedy: what to do about it, a sentence.

    >>> ConverterEnds(10).apply(Signal.of([0, 1, 2], [0, 512, 1023])).flag.tolist()
    [20, 0, 20]
    """

    name: ClassVar[str] = "counts"

    bits: int
    is_signed: bool = False
    remedy: str = ""

    @property
    def bottom(self) -> int:
        """The first code."""
        return -(1 << (self.bits - 1)) if self.is_signed else 0

    @property
    def top(self) -> int:
        """The last code."""
        return self.bottom + (1 << self.bits) - 1

    def apply(self, *signals: Signal) -> Signal:
        """The same values; flagged at both ends."""
        signal = signals[0]
        if signal.values.size == 0 or (
            signal.values.min() > self.bottom and signal.values.max() < self.top
        ):
            return signal
        ends = np.flatnonzero((signal.values <= self.bottom) | (signal.values >= self.top))
        return signal.replaced(signal.values, flagged(signal.status, ends, Status.CLIPPED))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        return flow.of(
            *(
                lane.flagged(
                    ((lane.value <= self.bottom) | (lane.value >= self.top), Status.CLIPPED)
                )
                for lane in flow.lanes
            )
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """One code of each lane."""
        reading = readings[0]
        lanes = [self._lane(lane) for lane in reading.lanes]
        return Step(
            stage=self.name,
            label="converter",
            sign="",
            operand=Operand(lanes[0].value, reading.quantity.unit, 0.0, "as it came"),
            formula="−2ⁿ⁻¹ < N < 2ⁿ⁻¹ − 1" if self.is_signed else "0 < N < 2ⁿ − 1",
            filled=(
                f"{grouped(self.bottom, 0)} < {grouped(lanes[0].value, 0)} < {grouped(self.top, 0)}"
            ),
            value=lanes[0].value,
            quantity=reading.quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="ideal converter: 2ⁿ codes",
            note=self._note(lanes),
            others=tuple(lanes[1:]),
        )

    def _note(self, lanes: list[Lane]) -> str:
        clipped = any(lane.status == Status.CLIPPED for lane in lanes)
        return f"{lanes[0].status.remark} {self.remedy if clipped else ''}".strip()

    def _lane(self, lane: Lane) -> Lane:
        status = lane.status
        if status == Status.OK and not self.bottom < lane.value < self.top:
            status = Status.CLIPPED
        half = rectangular(0.5)
        part = Component(_PART, half, "", half, False, "which volts of the code, ± ½")
        return Lane(lane.value, status, (*lane.components, part))
