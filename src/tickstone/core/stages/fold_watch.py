"""Where a voltage falls on both sides of a near limit: what reads far may be much nearer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import Kind, pick
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class FoldWatch:
    """Once something came to the near limit, what reads farther may be nearer: the same voltage
    comes again. It is known to be farther only once it reads beyond what anything that near can.

    near_m: the limit, m. twin_m: no thing nearer than the limit reads farther than this, m.
    State: whether it may have folded.

    >>> watch = FoldWatch(0.1, 0.3)
    >>> came = Signal.of([0, 1, 2, 3, 4], [0.2, 0.1, 0.2, 0.35, 0.2])
    >>> watch.run(watch.begin(), came)[0].flag.tolist()
    [0, 0, 29, 0, 0]
    """

    name: ClassVar[str] = "fold"
    own_times: ClassVar[bool] = False

    near_m: float
    twin_m: float

    def gives(self, *taken: Quantity) -> Quantity:
        """The same."""
        return taken[0]

    def begin(self) -> State:
        """Nothing came near yet."""
        return False

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The same values; flagged where they may be of a thing nearer."""
        signal = signals[0]
        if len(signal) == 0:
            return signal, state
        value = signal.value
        told = np.flatnonzero((value <= self.near_m) | (value > self.twin_m))
        came = value[told] <= self.near_m
        place = np.searchsorted(told, np.arange(len(value)), side="right") - 1
        may = np.where(place >= 0, came[np.maximum(place, 0)] if told.size else False, state)
        doubtful = np.flatnonzero(may & (value > self.near_m) & (value <= self.twin_m))
        after = bool(came[-1]) if told.size else bool(state)
        if doubtful.size == 0:
            return signal, after
        return (
            signal.replaced(signal.values, flagged(signal.status, doubtful, Status.TWO_VALUED)),
            after,
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = flow.lanes[0]
        folded = code.state("may_be_folded", 0.0, Kind.FLAG)
        came = code.let("came_near", first.value <= self.near_m)
        code.set(folded, pick(came | (first.value > self.twin_m), came, folded))
        doubtful = folded & (first.value > self.near_m) & (first.value <= self.twin_m)
        return flow.of(first.flagged((doubtful, Status.TWO_VALUED)), *flow.lanes[1:])

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading, and whether it may be of a thing nearer."""
        reading = readings[0]
        here = Signal.of([reading.time_s], [reading.value], reading.quantity, [int(reading.status)])
        result, _ = self.run(state, here)
        status = Status(int(result.flag[0]))
        typed = reading.quantity.typed
        return Step(
            stage=self.name,
            label="folds back",
            sign="∈",
            operand=Operand(None, "", 0.0, f"below {typed(self.near_m)}"),
            formula="two distances give one voltage on both sides of the near limit",
            filled=(
                f"{reading.quantity.said(reading.value)}: " + (
                    "it came to the limit before" if status == Status.TWO_VALUED
                    else "nothing came to the limit"
                )
            ),
            value=reading.value,
            quantity=reading.quantity,
            status=status,
            components=reading.components,
            source="triangulation; common practice",
            note=status.remark,
        )  # fmt: skip
