"""What another input said last, at the times of this one."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class Align:
    """Two signals to one: at each time of the first, the latest of the other, all its lanes.

    longest_s: how old it may be, s; older than that it is flagged. drift_per_s: how much its
    standard uncertainty grows with every second of age, in its own unit.
    State: time, values and statuses of the latest of the other; None before any.

    >>> stage = Align(1.0, 0.0)
    >>> asked = Signal.of([0.5, 1.0, 3.0], [0, 0, 0])
    >>> other = Signal.of([0.8, 1.0], [20.0, 21.0])
    >>> held, _ = stage.run(stage.begin(), asked, other)
    >>> held.value.tolist(), held.flag.tolist()
    ([nan, 21.0, 21.0], [14, 0, 19])
    """

    name: ClassVar[str] = "align"
    own_times: ClassVar[bool] = True
    takes_latest: ClassVar[bool] = True

    longest_s: float
    drift_per_s: float

    def __post_init__(self) -> None:
        if not self.longest_s >= 0.0 or not self.drift_per_s >= 0.0:
            raise ValueError("neither an age nor a drift can lie below 0")

    def gives(self, *taken: Quantity) -> Quantity:
        """What the other is."""
        return taken[1]

    def begin(self) -> State:
        """Nothing was said yet."""
        return None

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The latest of the other at every time of the block."""
        asked, other = signals
        lanes = len(other.values)
        before_s, value, code = _nothing_said(lanes) if state is None else state
        times = np.concatenate(([before_s], other.time_s))
        values = np.concatenate((np.array(value)[:, None], other.values), axis=1)
        codes = np.concatenate((np.array(code, np.uint8)[:, None], other.status), axis=1)
        place = np.searchsorted(times, asked.time_s, side="right") - 1
        status = codes[:, place]
        age_s = asked.time_s - times[place]
        status[(status == Status.OK) & (age_s > self.longest_s)] = Status.OUTDATED
        after = state
        if len(other):
            after = (float(times[-1]), tuple(values[:, -1].tolist()), tuple(codes[:, -1].tolist()))
        quantity = self.gives(asked.quantity, other.quantity)
        return Signal(asked.time_s, values[:, place], status, quantity, asked.until_s), after

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The other as it is: on a board both are read for the same line."""
        asked, other = entering
        return Emitted(other.lanes, asked.at)

    def explain(self, state: State, *readings: Reading) -> Step:
        """The latest of the other, and how old it is.

        Where it came before what is at hand its own doubt is not known, and nobody is told one.
        """
        asked, other = readings
        lanes, said_s = other.lanes, other.time_s
        if said_s == -math.inf:
            said_s, values, codes = _nothing_said(len(lanes)) if state is None else state
            before = (Component("from before", math.nan, "", math.nan, False, "not at hand"),)
            lanes = tuple(
                Lane(value, Status(code), before) for value, code in zip(values, codes, strict=True)
            )
        age_s = asked.time_s - said_s
        told = []
        for lane in lanes:
            status, components = lane.status, lane.components
            if status == Status.OK and age_s > self.longest_s:
                status = Status.OUTDATED
            if math.isfinite(age_s) and age_s > 0.0 and self.drift_per_s > 0.0:
                u = self.drift_per_s * age_s
                components = (*components, Component("its age", age_s, "s", u, False, "as stated"))
            told.append(Lane(lane.value, status, components))
        age = prefixed(age_s, "s") if math.isfinite(age_s) else "never"
        return Step(
            stage=self.name,
            label="said last",
            sign="∈",
            operand=Operand(None, "", 0.0, f"{age} ago" if age_s > 0.0 else "now"),
            formula="the latest, as old as it is",
            filled=f"{other.quantity.said(told[0].value)}, {age} old",
            value=told[0].value,
            quantity=self.gives(asked.quantity, other.quantity),
            status=told[0].status,
            components=told[0].components,
            source="the latest value holds until the next; our choice",
            note=told[0].status.remark,
            others=tuple(told[1:]),
        )


def _nothing_said(lanes: int) -> tuple[float, tuple[float, ...], tuple[int, ...]]:
    return -math.inf, (math.nan,) * lanes, (int(Status.NOT_YET),) * lanes
