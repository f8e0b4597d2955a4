"""From the sensor's face to the edge of the rig that would touch first."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.reading_units import length, typed_small_length
from tickstone.core.signal import Signal
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class MountOffset:
    """d − m, m to m.

    offset_m: m, how far the sensor's face sits behind the rig's edge; negative if it sticks out.
    tolerance_m: half width, how well that was measured.

    >>> MountOffset(0.008, 0.001).apply(Signal.of([0.0], [1.003], "m")).values.round(6).tolist()
    [0.995]
    """

    name: ClassVar[str] = "mount"
    pointwise: ClassVar[bool] = True

    offset_m: float
    tolerance_m: float

    def apply(self, signal: Signal) -> Signal:
        """Every distance, counted from the rig's edge."""
        return signal.replaced(signal.values - self.offset_m, signal.unit)

    def explain(self, reading: Reading) -> Step:
        """One distance, counted from the rig's edge."""
        u = rectangular(self.tolerance_m)
        basis = f"± {typed_small_length(self.tolerance_m)}, rectangular"
        own = Component("mount", u, "m", u, True, basis)
        return Step(
            stage=self.name,
            label="mount",
            sign="−" if self.offset_m >= 0 else "+",
            operand=Operand(abs(self.offset_m) * 1000.0, "mm", u * 1000.0, "face to edge"),
            formula="d − m",
            filled=f"{length(reading.value, 4)} − {length(self.offset_m, 4)}".replace("− −", "+ "),
            value=reading.value - self.offset_m,
            unit=reading.unit,
            status=reading.status,
            components=(*reading.components, own) if u > 0 else reading.components,
            source="measured on the rig",
        )
