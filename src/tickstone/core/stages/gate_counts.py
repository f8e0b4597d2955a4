"""The rate of pulses when the program counts them in a gate of its own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped, prefixed
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, pick
from tickstone.core.quantity import FREQUENCY, Quantity
from tickstone.core.signal import Signal
from tickstone.core.stages.gate_rate import COUNT_U
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class GateCounts(Pointwise):
    """N/T, counts of pulses to Hz, one or more less in each. No pulse at all is slow: below 1/T.

    gate_s: T, s, how long the program counted for each.

    >>> GateCounts(10.0).apply(Signal.of([0.0], [39.0])).value.tolist()
    [3.9]
    """

    name: ClassVar[str] = "gate-counts"

    gate_s: float

    def __post_init__(self) -> None:
        if not self.gate_s > 0.0:
            raise ValueError("gate_s: a gate has to be open for some time")

    def gives(self, *taken: Quantity) -> Quantity:
        """A frequency."""
        return FREQUENCY

    def apply(self, *signals: Signal) -> Signal:
        """Every count."""
        counts = signals[0]
        is_empty = counts.ok & (counts.value == 0.0)
        values = np.where(is_empty, 1.0, counts.value) / self.gate_s
        status = np.where(is_empty, Status.SLOW, counts.flag).astype(np.uint8)
        ran_back = (status == Status.OK) & (counts.value < 0.0)
        status[ran_back] = Status.RAN_BACK
        values[ran_back] = np.nan
        return Signal(
            counts.time_s, values[np.newaxis], status[np.newaxis], FREQUENCY, counts.until_s
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        counts = entering[0].lanes[0]
        empty = code.let("is_empty", counts.ok & counts.value.is_(0.0))
        back = code.let("ran_back", counts.ok & (counts.value < 0.0))
        value = pick(back, NOTHING, pick(empty, 1.0, counts.value) / self.gate_s)
        said = pick(empty, Status.SLOW, pick(back, Status.RAN_BACK, counts.status))
        return entering[0].of(EmittedLane(value, said))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One count over its gate."""
        lane = readings[0].lanes[0]
        count, status = lane.value, lane.status
        part = Component(
            "one pulse more or less", COUNT_U, "", COUNT_U / self.gate_s, False,
            "triangular over ± 1",
        )  # fmt: skip
        result = Lane(count / self.gate_s, status, (part,) if status == Status.OK else ())
        if status == Status.OK and count == 0.0:
            result = Lane(1.0 / self.gate_s, Status.SLOW)
        elif status == Status.OK and count < 0.0:
            result = Lane(float("nan"), Status.RAN_BACK)
        return Step(
            stage=self.name,
            label="in a gate",
            sign="÷",
            operand=Operand(self.gate_s, "s", 0.0),
            formula="f = N/T",
            filled=f"{grouped(count, 0)} pulses ÷ {prefixed(self.gate_s, 's')}",
            value=result.value,
            quantity=FREQUENCY,
            status=result.status,
            components=result.components,
            source="counting in a gate; common practice",
            note=result.status.remark,
        )
