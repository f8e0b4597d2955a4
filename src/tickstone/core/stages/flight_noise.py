"""What a time-of-flight sensor's own millimetres are worth."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class FlightNoise(Pointwise):
    """The same distance, with its doubt: half a step, and noise that grows beyond a distance.

    step_m: of what it prints, m. near_u, far_u: standard uncertainty up to near_m, and for each
    metre beyond that, m.

    >>> reading = FlightNoise(0.001, 0.002, 0.3, 0.02)
    >>> round(reading.u_at(0.8), 4)
    0.012
    """

    name: ClassVar[str] = "flight"

    step_m: float
    near_u: float
    near_m: float
    far_u: float

    def u_at(self, distance_m: float) -> float:
        """Standard uncertainty of a reading."""
        return self.near_u + self.far_u * max(0.0, distance_m - self.near_m)

    def apply(self, *signals: Signal) -> Signal:
        """As it came."""
        return signals[0]

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return entering[0]

    def explain(self, state: State, *readings: Reading) -> Step:
        """One distance."""
        reading = readings[0]
        half = rectangular(self.step_m / 2.0)
        parts: list[Component] = [
            Component("step", half, "m", half, False, f"± half of {self.step_m * 1000:g} mm")
        ]
        if math.isfinite(reading.value):
            noise = self.u_at(reading.value)
            parts.append(Component("flight noise", noise, "m", noise, False, "as stated"))
        return Step(
            stage=self.name,
            label="flight",
            sign="",
            operand=Operand(reading.value, reading.quantity.key, 0.0, "as it came"),
            formula="the sensor works out d = c·t/2 by itself",
            filled=reading.quantity.said(reading.value),
            value=reading.value,
            quantity=reading.quantity,
            status=reading.status,
            components=(*reading.components, *parts),
            source="common practice: 1 mm steps, precise to about 0.3 m",
            note=reading.status.remark,
        )
