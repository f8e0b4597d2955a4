"""What another input said last, at the times of this one."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class Align:
    """Two signals to one: at each time of the first, the latest of the other; first lanes only.

    longest_s: how old it may be, s; older than that it is flagged. drift_per_s: how much its
    standard uncertainty grows with every second of age, in its own unit.
    State: time, value and status of the latest of the other; None before any.

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
        return taken[1].in_lanes(taken[1].lanes[0])

    def begin(self) -> State:
        """Nothing was said yet."""
        return None

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The latest of the other at every time of the block."""
        asked, other = signals
        before = (-math.inf, math.nan, int(Status.NOT_YET)) if state is None else state
        times = np.concatenate(([before[0]], other.time_s))
        values = np.concatenate(([before[1]], other.value))
        codes = np.concatenate(([before[2]], other.flag)).astype(np.uint8)
        place = np.searchsorted(times, asked.time_s, side="right") - 1
        status = codes[place]
        age_s = asked.time_s - times[place]
        status[(status == Status.OK) & (age_s > self.longest_s)] = Status.OUTDATED
        after = state
        if len(other):
            after = (float(times[-1]), float(values[-1]), int(codes[-1]))
        quantity = self.gives(asked.quantity, other.quantity)
        return (
            Signal(asked.time_s, values[place][None], status[None], quantity, asked.until_s),
            after,
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """The latest of the other, and how old it is.

        Where it came before what is at hand its own doubt is not known, and nobody is told one.
        """
        asked, other = readings
        lane, said_s = other.lanes[0], other.time_s
        components = lane.components
        if said_s == -math.inf:
            said_s, value, code = (-math.inf, math.nan, Status.NOT_YET) if state is None else state
            lane = Lane(value, Status(code))
            components = (Component("from before", math.nan, "", math.nan, False, "not at hand"),)
        age_s = asked.time_s - said_s
        status = lane.status
        if status == Status.OK and age_s > self.longest_s:
            status = Status.OUTDATED
        if math.isfinite(age_s) and age_s > 0.0 and self.drift_per_s > 0.0:
            u = self.drift_per_s * age_s
            components = (*components, Component("its age", age_s, "s", u, False, "as stated"))
        age = prefixed(age_s, "s") if math.isfinite(age_s) else "never"
        return Step(
            stage=self.name,
            label="said last",
            sign="∈",
            operand=Operand(None, "", 0.0, f"{age} ago" if age_s > 0.0 else "now"),
            formula="the latest, as old as it is",
            filled=f"{other.quantity.said(lane.value)}, {age} old",
            value=lane.value,
            quantity=self.gives(asked.quantity, other.quantity),
            status=status,
            components=components,
            source="the latest value holds until the next; our choice",
            note=status.remark,
        )
