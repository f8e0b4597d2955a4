"""Time times the speed of sound in this air is a length."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.air.sound_speed import SoundSpeed
from tickstone.core.chain import Pointwise, State
from tickstone.core.display import decimals_for, grouped
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import DISTANCE, Quantity
from tickstone.core.reading_units import sound_speed
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step

MICROSECOND = 1e-6


@dataclass(frozen=True, slots=True)
class AirSpeed(Pointwise):
    """c·t, µs to m.

    sound: the speed of sound with its budget, m/s.

    >>> from tickstone.core.air.sound_speed import sound_speed_fixed
    >>> stage = AirSpeed(sound_speed_fixed(344.0))
    >>> stage.apply(Signal.of([0.0], [2915.5])).value.round(6).tolist()
    [1.002932]
    """

    name: ClassVar[str] = "air"

    sound: SoundSpeed

    def gives(self, *taken: Quantity) -> Quantity:
        """A distance."""
        return DISTANCE

    def apply(self, *signals: Signal) -> Signal:
        """Every one-way time as a length in m."""
        factor = self.sound.value * MICROSECOND
        return signals[0].replaced(signals[0].values * factor, quantity=DISTANCE)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        factor = code.constant(
            "speed", self.sound.value, "m/s", self.sound.u, f"speed of sound, {self.sound.label}"
        )
        flow = entering[0]
        return flow.with_values(*(one.value * (factor * MICROSECOND) for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One one-way time as a length, with the air's part of the budget."""
        reading, sources = readings[0], Sources()
        time_us = sources.of(reading.lanes[0])
        speed = self.sound.value + sum(
            sources.known(part, 0.0) * (part.contribution / part.u_input)
            for part in self.sound.components
            if part.u_input > 0.0
        )
        lane = lane_of(time_us * MICROSECOND * speed, sources, reading.lanes[0])
        digits = decimals_for(self.sound.u)
        return Step(
            stage=self.name,
            label="sound, this air",
            sign="×",
            operand=Operand(self.sound.value, "m/s", self.sound.u, self.sound.label),
            formula=f"d = c·t/2,  {self.sound.formula}",
            filled=(
                f"{sound_speed(self.sound.value, digits)} × {grouped(reading.value, 1)} µs; "
                f"{self.sound.filled}"
            ),
            value=lane.value,
            quantity=DISTANCE,
            status=lane.status,
            components=lane.components,
            source=self.sound.source,
            note=self.sound.note,
            below=self.sound.label,
        )
