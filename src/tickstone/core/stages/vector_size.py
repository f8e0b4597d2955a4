"""How large a vector is, whichever way it points."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from uncertainties import umath

from tickstone.core.axes import told_apart
from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import root
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.stages.axes_matrix import first_flag, first_flag_of, flag_of
from tickstone.core.step import Lane, Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class VectorSize(Pointwise):
    """√(x² + y² + z²), any unit to itself.

    >>> from tickstone.core.quantity import FORCE
    >>> VectorSize().apply(Signal.of([0], [[3.0], [0.0], [4.0]], FORCE)).value.tolist()
    [5.0]
    """

    name: ClassVar[str] = "size"

    def gives(self, *taken: Quantity) -> Quantity:
        """The same, in one lane."""
        return taken[0].in_lanes("")

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        x, y, z = signals[0].values
        size = np.sqrt(x * x + y * y + z * z)
        return Signal(
            signals[0].time_s, size[None], first_flag(signals[0].status)[None],
            self.gives(signals[0].quantity), signals[0].until_s,
        )  # fmt: skip

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        x, y, z = (one.value for one in flow.lanes)
        return flow.of(EmittedLane(root(x * x + y * y + z * z), first_flag_of(flow)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        lanes = told_apart(reading.lanes, reading.quantity.lanes)
        status, sources = flag_of(lanes), Sources()
        size = math.sqrt(sum(lane.value**2 for lane in lanes))
        lane = Lane(size, status)
        if size > 0.0:
            x, y, z = (sources.of(one) for one in lanes)
            lane = lane_of(umath.sqrt(x * x + y * y + z * z), sources, Lane(0.0, status))
        said = [reading.quantity.said(one.value) for one in reading.lanes]
        return Step(
            stage=self.name,
            label="size",
            sign="",
            operand=Operand(None, "", 0.0, "of all three"),
            formula="√(x² + y² + z²)",
            filled=f"√(({said[0]})² + ({said[1]})² + ({said[2]})²)",
            value=lane.value,
            quantity=self.gives(reading.quantity),
            status=status,
            components=lane.components,
            source="Pythagoras",
            note=status.remark,
        )
