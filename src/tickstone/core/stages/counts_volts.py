"""Codes of a converter to the volts at its pin."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped, prefixed
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import VOLTAGE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component

_PART = "reference"


@dataclass(frozen=True, slots=True)
class CountsVolts(Pointwise):
    """V = (N + ½)·V_ref/2ⁿ: the middle of the code.

    bits: n. reference_v: V_ref, V. reference_u: its standard uncertainty, V.

    >>> volts = CountsVolts(10, 5.0, 0.0).apply(Signal.of([0], [512]))
    >>> round(float(volts.value[0]), 4)
    2.5024
    """

    name: ClassVar[str] = "volts"

    bits: int
    reference_v: float
    reference_u: float

    @property
    def lsb_v(self) -> float:
        """Width of a code, V."""
        return float(self.reference_v / 2**self.bits)

    def gives(self, *taken: Quantity) -> Quantity:
        """Volts, in as many lanes."""
        return VOLTAGE.in_lanes(*taken[0].lanes)

    def apply(self, *signals: Signal) -> Signal:
        """Every code."""
        values = np.add(signals[0].values, 0.5)
        values *= self.lsb_v
        return signals[0].replaced(values, quantity=self.gives(signals[0].quantity))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        volts = code.constant(
            "lsb", self.lsb_v, "V", self.reference_u / 2**self.bits, "the converter’s reference"
        )
        flow = entering[0]
        return flow.with_values(*((one.value + 0.5) * volts for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One code of each lane."""
        reading, lanes = readings[0], []
        basis = f"± {2 * self.reference_u:g} V"
        part = Component(_PART, self.reference_u, "V", 0.0, True, basis)
        for lane in reading.lanes:
            sources = Sources()
            full = sources.known(part, self.reference_v)
            volts = (sources.of(lane) + 0.5) * full / 2**self.bits
            lanes.append(lane_of(volts, sources, lane))
        return Step(
            stage=self.name,
            label="volts",
            sign="×",
            operand=Operand(self.lsb_v * 1000.0, "mV", 0.0, "a code"),
            formula="V = (N + ½)·V_ref/2ⁿ",
            filled=(
                f"({grouped(reading.value, 0)} + ½) × {prefixed(self.reference_v, 'V')} ÷ "
                f"{grouped(2**self.bits, 0)}"
            ),
            value=lanes[0].value,
            quantity=self.gives(reading.quantity),
            status=lanes[0].status,
            components=lanes[0].components,
            source="ideal converter; dividing by 2ⁿ − 1 instead puts it up to one code higher",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
