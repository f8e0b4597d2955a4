"""Whole codes of a digital sensor to the amount they stand for."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class CodeScale(Pointwise):
    """x = N/S·one + offset, lane by lane.

    per_one: S, codes for each `one`; one: in the unit of `becomes`. u_share: standard uncertainty
    of S, as a share of it; each lane has its own. zero_u: of what it tells of nothing, in the unit
    of `becomes`. basis: where these are from.

    >>> from tickstone.core.quantity import FORCE
    >>> force = CodeScale(16384.0, 9.80665, FORCE, 0.01, "as stated").apply(
    ...     Signal.of([0], [[16384], [0], [-8192]], FORCE))
    >>> force.values[:, 0].tolist()
    [9.80665, 0.0, -4.903325]
    """

    name: ClassVar[str] = "scale"

    per_one: float
    one: float
    becomes: Quantity
    u_share: float = 0.0
    basis: str = "as stated"
    offset: float = 0.0
    zero_u: float = 0.0

    def __post_init__(self) -> None:
        if not self.per_one > 0.0:
            raise ValueError("the codes for one unit have to lie above 0")

    def gives(self, *taken: Quantity) -> Quantity:
        """What it becomes, in as many lanes."""
        return self.becomes.in_lanes(*taken[0].lanes)

    def apply(self, *signals: Signal) -> Signal:
        """Every code."""
        values = np.multiply(signals[0].values, self.one / self.per_one)
        if self.offset:
            values += self.offset
        return signals[0].replaced(values, quantity=self.gives(signals[0].quantity))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        scale = code.constant(
            "one_code", self.one / self.per_one, self.becomes.unit,
            self.u_share * self.one / self.per_one, self.basis,
        )  # fmt: skip
        flow = entering[0]
        return flow.with_values(*(one.value * scale + self.offset for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One code of each lane."""
        reading = readings[0]
        quantity = self.gives(reading.quantity)
        lanes = []
        for name, lane in zip(quantity.lanes, reading.lanes, strict=True):
            sources = Sources()
            label = f"sensitivity, {name}" if name else "sensitivity"
            scale = sources.known(Component(label, self.u_share, "", 0.0, True, self.basis), 1.0)
            zero = Component(
                f"zero, {name}" if name else "zero", self.zero_u, quantity.unit, 0.0, True,
                self.basis,
            )  # fmt: skip
            result = sources.of(lane) * (self.one / self.per_one) * scale + self.offset
            result = result + sources.known(zero, 0.0)
            lanes.append(lane_of(result, sources, lane))
        one = quantity.typed(self.one)
        offset = f" + {quantity.said(self.offset, 2)}" if self.offset else ""
        return Step(
            stage=self.name,
            label="scale",
            sign="÷",
            operand=Operand(self.per_one, "", 0.0, f"codes for {one}"),
            formula="x = N/S" + (" + x₀" if self.offset else ""),
            filled=f"{_count(reading.value)} ÷ {_count(self.per_one)} × {one}{offset}",
            value=lanes[0].value,
            quantity=quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="the range set, over the codes of it; common practice",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )


def _count(value: float) -> str:
    is_whole = math.isfinite(value) and value == round(value)
    return grouped(value, 0) if is_whole else f"{value:g}".replace("-", "−")
