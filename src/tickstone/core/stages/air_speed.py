"""Time times the speed of sound in this air is a length."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from tickstone.core.air.sound_speed import SoundSpeed
from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.display import decimals_for, grouped
from tickstone.core.reading_units import sound_speed
from tickstone.core.signal import Signal

MICROSECOND = 1e-6


@dataclass(frozen=True, slots=True)
class AirSpeed:
    """c·t, µs to m.

    sound: the speed of sound with its budget, m/s.

    >>> from tickstone.core.air.sound_speed import sound_speed_fixed
    >>> stage = AirSpeed(sound_speed_fixed(344.0))
    >>> stage.apply(Signal.of([0.0], [2915.5], "µs")).values.round(6).tolist()
    [1.002932]
    """

    name: ClassVar[str] = "air"
    pointwise: ClassVar[bool] = True

    sound: SoundSpeed

    def apply(self, signal: Signal) -> Signal:
        """Every one-way time as a length in m."""
        return signal.replaced(signal.values * (self.sound.value * MICROSECOND), "m")

    def explain(self, reading: Reading) -> Step:
        """One one-way time as a length, with the air's part of the budget."""
        factor = self.sound.value * MICROSECOND
        value = reading.value * factor
        seconds = reading.value * MICROSECOND
        carried = tuple(part.through(factor) for part in reading.components)
        air = tuple(
            replace(part, contribution=part.contribution * seconds)
            for part in self.sound.components
        )
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
            value=value,
            unit="m",
            status=reading.status,
            components=carried + air,
            source=self.sound.source,
            note=self.sound.note,
        )
