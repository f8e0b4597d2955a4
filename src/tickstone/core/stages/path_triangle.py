"""Emitter and receiver stand side by side, so the way out and back is a thin triangle."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import NOTHING, pick, root
from tickstone.core.reading_units import length
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class PathTriangle(Pointwise):
    """d = √(s² − (b/2)²) for a slant s and a baseline b, m to m.

    A slant shorter than half the baseline has no triangle: the sample is flagged too near.

    baseline_m: b, m, between the centres of emitter and receiver.

    >>> stage = PathTriangle(baseline_m=0.026)
    >>> stage.apply(Signal.of([0, 1], [0.02, 1.0])).value.round(4).tolist()
    [0.0152, 0.9999]
    """

    name: ClassVar[str] = "triangle"

    baseline_m: float

    def apply(self, *signals: Signal) -> Signal:
        """Every slant as a straight distance, m."""
        slant, half = signals[0], 0.5 * self.baseline_m
        square = slant.values * slant.values
        square -= half * half
        impossible = np.flatnonzero(square <= 0.0)
        if impossible.size == 0:
            return slant.replaced(np.sqrt(square, out=square))
        square.reshape(-1)[impossible] = np.nan
        return slant.replaced(
            np.sqrt(square, out=square), flagged(slant.status, impossible, Status.TOO_NEAR)
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        half = code.constant("half_baseline", 0.5 * self.baseline_m, "m", None, "its datasheet")
        flow = entering[0]
        lanes = []
        for lane in flow.lanes:
            square = code.let("square", lane.value * lane.value - half * half)
            impossible = code.let("is_impossible", square <= 0.0)
            value = code.let("value", pick(impossible, NOTHING, root(square)))
            lanes.append(lane.flagged((impossible, Status.TOO_NEAR)).of(value))
        return flow.of(*lanes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One slant as a straight distance."""
        reading, sources = readings[0], Sources()
        half = 0.5 * self.baseline_m
        lane = reading.lanes[0]
        value, status, components = math.nan, lane.status, lane.components
        if lane.value * lane.value - half * half > 0.0:
            slant = sources.of(lane)
            straight = lane_of((slant * slant - half * half) ** 0.5, sources, lane)
            value, components = straight.value, straight.components
        elif status == Status.OK:
            status = Status.TOO_NEAR
        return Step(
            stage=self.name,
            label="path triangle",
            sign="△",
            operand=Operand(self.baseline_m * 1000.0, "mm", 0.0, "between emitter and receiver"),
            formula="d = √(s² − (b/2)²)",
            filled=f"√(({length(reading.value, 4)})² − ({length(half, 4)})²)",
            value=value,
            quantity=reading.quantity,
            status=status,
            components=components,
            source="geometry of an isosceles triangle",
        )
