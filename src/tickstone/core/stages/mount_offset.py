"""From the sensor's face to the edge of the rig that would touch first."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.reading_units import length, typed_small_length
from tickstone.core.signal import Signal
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class MountOffset(Pointwise):
    """d − m, m to m.

    offset_m: m, how far the sensor's face sits behind the rig's edge; negative if it sticks out.
    tolerance_m: half width, how well that was measured.

    >>> MountOffset(0.008, 0.001).apply(Signal.of([0.0], [1.003])).value.round(6).tolist()
    [0.995]
    """

    name: ClassVar[str] = "mount"

    offset_m: float
    tolerance_m: float

    def apply(self, *signals: Signal) -> Signal:
        """Every distance, counted from the rig's edge."""
        return signals[0].replaced(signals[0].values - self.offset_m)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        u = rectangular(self.tolerance_m)
        offset = code.constant("offset", self.offset_m, "m", u, "measured on the rig")
        flow = entering[0]
        return flow.with_values(*(one.value - offset for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One distance, counted from the rig's edge."""
        reading, sources = readings[0], Sources()
        u = rectangular(self.tolerance_m)
        basis = f"± {typed_small_length(self.tolerance_m)}, rectangular"
        distance = sources.of(reading.lanes[0])
        mount = sources.known(Component("mount", u, "m", u, True, basis), self.offset_m)
        lane = lane_of(distance - mount, sources, reading.lanes[0])
        return Step(
            stage=self.name,
            label="mount",
            sign="−" if self.offset_m >= 0 else "+",
            operand=Operand(abs(self.offset_m) * 1000.0, "mm", u * 1000.0, "face to edge"),
            formula="d − m",
            filled=f"{length(reading.value, 4)} − {length(self.offset_m, 4)}".replace("− −", "+ "),
            value=lane.value,
            quantity=reading.quantity,
            status=lane.status,
            components=lane.components,
            source="measured on the rig",
        )
