"""Whether what is felt is gravity alone: only then does it say which way is up."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import root, size
from tickstone.core.quantity import FORCE
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class RestWatch(Pointwise):
    """Flags as moving where the size is off 1 g by more than `within`, m/s².

    >>> watch = RestWatch(0.5)
    >>> watch.apply(Signal.of([0, 1], [[0, 4], [0, 0], [9.8, 9.8]], FORCE)).flag.tolist()
    [0, 34]
    """

    name: ClassVar[str] = "rest"

    within: float

    def apply(self, *signals: Signal) -> Signal:
        """The same values; flagged where it moves."""
        signal = signals[0]
        x, y, z = signal.values
        # Term by term, so that one sample is worked out as many are.
        off = np.abs(np.sqrt(x * x + y * y + z * z) - STANDARD_GRAVITY_M_PER_S2) > self.within
        if not off.any():
            return signal
        places = np.flatnonzero(np.broadcast_to(off, signal.status.shape))
        return signal.replaced(signal.values, flagged(signal.status, places, Status.MOVING))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        x, y, z = (one.value for one in flow.lanes)
        off = code.let(
            "is_off", size(root(x * x + y * y + z * z) - STANDARD_GRAVITY_M_PER_S2) > self.within
        )
        return flow.of(*(lane.flagged((off, Status.MOVING)) for lane in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        x, y, z = (lane.value for lane in reading.lanes)
        size = math.sqrt(x * x + y * y + z * z)
        moves = abs(size - STANDARD_GRAVITY_M_PER_S2) > self.within
        lanes = tuple(
            replace(lane, status=Status.MOVING) if moves and lane.status == Status.OK else lane
            for lane in reading.lanes
        )
        return Step(
            stage=self.name,
            label="at rest",
            sign="≈",
            operand=Operand(None, "", 0.0, f"1 g ± {FORCE.typed(self.within)}"),
            formula="| |a| − 1 g | ≤ limit",
            filled=f"|a| = {FORCE.said(size)}",
            value=lanes[0].value,
            quantity=reading.quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="at rest only gravity is felt; common practice",
            note=lanes[0].status.remark,
            others=lanes[1:],
        )
