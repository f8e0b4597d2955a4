"""How fast an amount changes: over a while, and so later than the change itself."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, Kind, is_among, is_number, pick, seconds_between
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component

_UNSEEN = (Status.SLOW, Status.MISSING)

MOST_KEPT = 32
"""Readings a board keeps to compare with; where more come within the time, it has none yet."""


@dataclass(frozen=True, slots=True)
class RateOfChange:
    """(x − x₀)/(t − t₀), where x₀ is the newest that is at least `over_s` old; the first lane only.

    It is the mean slope between the two, so it lags by half the time between them. What is flagged
    has no slope, and nothing is compared across what is slow or missing: it changed unseen.
    becomes: the quantity of the result.
    State: times and values of what may still be compared with.

    >>> from tickstone.core.quantity import ACCELERATION, SPEED
    >>> stage = RateOfChange(0.5, ACCELERATION)
    >>> speed = Signal.of([0.0, 0.5, 1.0], [1.0, 1.5, 2.5], SPEED)
    >>> stage.run(stage.begin(), speed)[0].value.tolist()
    [nan, 1.0, 2.0]
    """

    name: ClassVar[str] = "change"
    own_times: ClassVar[bool] = False

    over_s: float
    becomes: Quantity

    def __post_init__(self) -> None:
        if not self.over_s > 0.0:
            raise ValueError("the time a change is looked at over has to lie above 0")

    def gives(self, *taken: Quantity) -> Quantity:
        """The quantity it becomes."""
        return self.becomes

    def begin(self) -> State:
        """Nothing to compare with."""
        return ((), ())

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The slope at every sample that has one."""
        first = signals[0].lane(0)
        good = np.flatnonzero(first.ok & ~np.isnan(first.value))
        kept_s, kept = np.array(state[0]), np.array(state[1])
        time_s = np.concatenate((kept_s, first.time_s[good]))
        values = np.concatenate((kept, first.value[good]))
        # What went unseen between two good ones parts them: those before it are not looked at.
        unseen = np.isin(first.flag, _UNSEEN)
        parts = np.concatenate((np.zeros(len(kept)), np.cumsum(unseen)[good]))
        earlier = np.searchsorted(time_s, time_s - self.over_s, side="right") - 1
        has = (earlier >= 0) & (parts[np.maximum(earlier, 0)] == parts)
        slope = np.full(len(time_s), np.nan)
        at, since = np.flatnonzero(has), earlier[has]
        slope[at] = (values[at] - values[since]) / (time_s[at] - time_s[since])
        result = np.full(len(first), np.nan)
        result[good] = slope[len(kept) :]
        status = first.flag.copy()
        status[good[~has[len(kept) :]]] = Status.NOT_YET
        return (
            Signal(first.time_s, result[None], status[None], self.becomes, first.until_s),
            self._after(time_s, values, parts, int(unseen.sum())),
        )

    def _after(self, time_s: np.ndarray, values: np.ndarray, parts: np.ndarray, part: int) -> State:
        """What is still to be compared with; nothing when something went unseen since."""
        if len(time_s) == 0 or parts[-1] != part:
            return ((), ())
        since = int(np.searchsorted(time_s, time_s[-1] - self.over_s, side="right")) - 1
        keep = slice(max(since, int(np.searchsorted(parts, parts[-1]))), None)
        return (tuple(time_s[keep].tolist()), tuple(values[keep].tolist()))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = flow.lanes[0]
        values, times = code.array("x", MOST_KEPT), code.array("x_us", MOST_KEPT, Kind.CLOCK)
        count = code.state("kept", 0.0, Kind.WHOLE)
        with code.when(is_among(first.status, tuple(Status(int(one)) for one in _UNSEEN))):
            code.set(count, 0)
        slope = code.variable("slope", NOTHING)
        good = code.let("is_good", first.ok & is_number(first.value))
        with code.when(good):
            # Only the newest that is old enough, and what is younger, may still be wanted.
            old = code.variable("old", 0)
            with (
                code.each("n", count) as n,
                code.when(seconds_between(flow.at, times[n]) >= self.over_s),
            ):
                code.set(old, n)
            code.set(old, pick(count.is_(MOST_KEPT) & old.is_(0), 1, old))
            with code.each("n", count - old) as n:
                code.set(values[n], values[n + old])
                code.set(times[n], times[n + old])
            code.set(count, count - old)
            with code.when(count > 0):
                dt = code.let("dt", seconds_between(flow.at, times[0]))
                with code.when(dt >= self.over_s):
                    code.set(slope, (first.value - values[0]) / dt)
            code.set(values[count], first.value)
            code.set(times[count], flow.at)
            code.set(count, count + 1)
        status = pick(good & ~is_number(slope), Status.NOT_YET, first.status)
        return flow.of(EmittedLane(slope, status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One slope, and by how much it lags."""
        reading = readings[0]
        lane = reading.lanes[0]
        one = Signal.of([reading.time_s], [[lane.value]], reading.quantity, [[int(lane.status)]])
        result, _ = self.run(state, one)
        value, status = float(result.value[0]), Status(int(result.flag[0]))
        parts: tuple[Component, ...] = ()
        filled, below = status.word, ""
        if not math.isnan(value):
            place = int(np.searchsorted(state[0], reading.time_s - self.over_s, side="right")) - 1
            then_s, then = state[0][place], state[1][place]
            over = reading.time_s - then_s
            share = value / lane.value if lane.value else 0.0
            # What both ends share stays a share of the change; the rest doubts twice, once an end.
            parts = tuple(
                part.through(share if part.shared else 2**0.5 / over) for part in lane.components
            )
            said = reading.quantity.said
            filled = f"({said(lane.value)} − {said(then)}) ÷ {prefixed(over, 's')}"
            below = f"lags {prefixed(over / 2.0, 's', 2)}"
        return Step(
            stage=self.name,
            label="changes over",
            sign="Δ",
            operand=Operand(self.over_s, "s", 0.0),
            formula="a = (v − v₀)/(t − t₀), half that time late",
            filled=filled,
            value=value,
            quantity=self.becomes,
            status=status,
            components=parts,
            source="mean slope; common practice",
            note=status.remark,
            below=below,
        )
