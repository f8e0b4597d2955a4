"""What a digital sensor is stated to be right to, and the values by which it says it failed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import any_of
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class StatedAccuracy(Pointwise):
    """The same value; flagged where it is one of `failures`.

    within: ± it is stated to be right to; step: of what it prints; both in its unit.

    >>> stage = StatedAccuracy(0.5, 0.0625, (85.0, -127.0))
    >>> stage.apply(Signal.of([0, 1], [21.5, -127.0])).flag.tolist()
    [0, 30]
    """

    name: ClassVar[str] = "accuracy"

    within: float
    step: float
    failures: tuple[float, ...] = ()

    def apply(self, *signals: Signal) -> Signal:
        """Flagged where it failed."""
        signal = signals[0]
        if not self.failures:
            return signal
        places = np.flatnonzero(np.isin(signal.values, self.failures))
        if places.size == 0:
            return signal
        status = flagged(signal.status, places, Status.SENSOR_SAYS_NO)
        return signal.replaced(signal.values, status)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        if not self.failures:
            return flow
        return flow.of(
            *(
                lane.flagged(
                    (any_of([lane.value.is_(one) for one in self.failures]), Status.SENSOR_SAYS_NO)
                )
                for lane in flow.lanes
            )
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading with what is doubted of it."""
        reading = readings[0]
        quantity = reading.quantity
        u, step_u = rectangular(self.within), rectangular(self.step / 2.0)
        lanes = []
        for lane in reading.lanes:
            failed = lane.status == Status.OK and lane.value in self.failures
            parts = (
                *lane.components,
                Component("accuracy", u, quantity.unit, u, True, f"± {self.within:g} stated"),
                Component("its steps", step_u, quantity.unit, step_u, False, f"of {self.step:g}"),
            )
            status = Status.SENSOR_SAYS_NO if failed else lane.status
            lanes.append(Lane(lane.value, status, tuple(p for p in parts if p.contribution)))
        return Step(
            stage=self.name,
            label="as it says",
            sign="=",
            operand=Operand(None, "", 0.0, f"right to ± {self.within:g} {quantity.unit}"),
            formula="x",
            filled=quantity.said(reading.value, 2),
            value=lanes[0].value,
            quantity=quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source="the sensor’s datasheet",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )
