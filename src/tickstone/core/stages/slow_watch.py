"""When no pulse comes, the last rate is not the rate: it is below one over the wait."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.emit.code import CannotEmitError, Code, Emitted, EmittedLane
from tickstone.core.emit.routine import NOW
from tickstone.core.emit.terms import LONGEST_AGO_US, Kind, Number, carried, pick, real, size
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step

_LIVELY = 0.99
_EVEN = 64
"""How many are put in one `after_s` after the other; a clock that jumps by years would make no end
of them."""


@dataclass(frozen=True, slots=True)
class SlowWatch:
    """A rate to itself, with a sample put in whenever none came for `after_s`, and again after each
    further `after_s`, and ever more rarely once it stood for long: flagged slow, its value what the
    rate lies below. Rates below 1/`after_s`,
    either way, are flagged so too.

    State: the time of the last sample, s, and how many were put in since.

    >>> watch = SlowWatch(2.0)
    >>> seen, _ = watch.run(watch.begin(), Signal.of([0.0, 1.0], [1.0, 1.0], until_s=5.5))
    >>> seen.time_s.tolist(), seen.value.tolist(), seen.flag.tolist()
    ([0.0, 1.0, 3.0, 5.0], [1.0, 1.0, 0.5, 0.25], [0, 0, 11, 11])
    """

    name: ClassVar[str] = "slow"
    own_times: ClassVar[bool] = True

    after_s: float

    def gives(self, *taken: Quantity) -> Quantity:
        """The same quantity."""
        return taken[0]

    def begin(self) -> State:
        """Nothing came yet, and nothing is missed."""
        return (None, 0)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The block with what did not come put in."""
        rate = signals[0]
        last_s, put_in = state
        if self._is_lively(rate, last_s):
            return rate, (float(rate.time_s[-1]), 0)
        status = np.where(
            (rate.flag == Status.OK) & (np.abs(rate.value) < 1.0 / self.after_s),
            Status.SLOW,
            rate.flag,
        ).astype(np.uint8)
        ends = np.append(rate.time_s, rate.until_s)
        starts = np.concatenate(([np.nan if last_s is None else last_s], rate.time_s))
        skipped = np.zeros(len(starts), dtype=np.int64)
        skipped[0] = put_in
        due = self._due(starts, ends)
        # A sample that comes just when one is due is there instead of it.
        in_time = (starts + self._wait(due) >= ends) & (due > 0)
        due[:-1] -= in_time[:-1]
        fresh = np.maximum(due - skipped, 0)
        kept_s = float(rate.time_s[-1]) if len(rate) else last_s
        after = (kept_s, int(due[-1]) if len(rate) or last_s is not None else 0)
        if not fresh.any():
            return rate.replaced(rate.values, status[np.newaxis]), after
        at, values = [], []
        for place in np.flatnonzero(fresh).tolist():
            numbers = np.arange(skipped[place] + 1, due[place] + 1)
            waits = self._wait(numbers)
            at.append(starts[place] + waits)
            values.append(1.0 / waits)
        time_s = np.concatenate([rate.time_s, *at])
        order = np.argsort(time_s, kind="stable")
        slow = np.full(len(time_s) - len(rate), Status.SLOW, dtype=np.uint8)
        return (
            Signal(
                time_s[order],
                np.concatenate([rate.value, *values])[order][np.newaxis],
                np.concatenate([status, slow])[order][np.newaxis],
                rate.quantity,
                rate.until_s,
            ),
            after,
        )

    def _is_lively(self, rate: Signal, last_s: float | None) -> bool:
        """Whether nothing is slow, nor near it, anywhere in the block: as good as always."""
        if len(rate) == 0 or last_s is None:
            return False
        longest = max(rate.time_s[0] - last_s, rate.until_s - rate.time_s[-1])
        if len(rate) > 1:
            longest = max(longest, float(np.subtract(rate.time_s[1:], rate.time_s[:-1]).max()))
        if longest >= _LIVELY * self.after_s:
            return False
        limit = 1.0 / (_LIVELY * self.after_s)
        # Most turn forward only, and need no second look.
        return not np.fmin.reduce(rate.value) < limit or not (
            np.fmin.reduce(np.abs(rate.value)) < limit
        )

    def _wait(self, number: npt.NDArray[np.int64]) -> FloatArray:
        """How long after the last sample each is put in: so many times `after_s`, and from
        `_EVEN` on twice as long as the one before.
        """
        even, twice = np.minimum(number, _EVEN), np.maximum(number - _EVEN, 0)
        waits: FloatArray = even * self.after_s * 2.0**twice
        return waits

    def _due(self, starts: FloatArray, ends: FloatArray) -> npt.NDArray[np.int64]:
        """How many were due by each end since each start, whatever a division rounds to."""
        with np.errstate(invalid="ignore", divide="ignore"):
            times = (ends - starts) / self.after_s
            times = np.where(np.isfinite(times), np.maximum(times, 0.0), 0.0)
            due = np.where(times < _EVEN, times, _EVEN + np.log2(np.maximum(times, 1.0) / _EVEN))
            due = np.maximum(np.floor(due), 0.0).astype(np.int64)
            due -= starts + self._wait(due) > ends
            due += starts + self._wait(due + 1) <= ends
        return np.maximum(due, 0)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample; of several that are put in since the line before, the last."""
        rate = entering[0]
        after_us = round(self.after_s * 1e6)
        if after_us * _EVEN > LONGEST_AGO_US:
            raise CannotEmitError(f"{_EVEN} times {self.after_s:g} s are more than a counter tells")
        last = code.state("last_us", 0.0, Kind.CLOCK)
        known = code.state("is_known", 0.0, Kind.FLAG)
        wait, put_in = code.state("wait_us", after_us, Kind.CLOCK), code.state("n", 0.0, Kind.WHOLE)
        value, said = code.variable("rate", rate.value), code.variable("said", rate.status)
        at, comes = code.variable("put_us", rate.at), code.variable("comes", rate.comes)
        with code.when(rate.comes):
            slow = rate.ok & (size(rate.value) < 1.0 / self.after_s)
            code.set(said, pick(slow, Status.SLOW, rate.status))
            code.set(last, rate.at)
            code.set(known, True)
            code.set(wait, Number(after_us, Kind.CLOCK))
            code.set(put_in, 0)
        # No more is put in when the counter could tell no longer.
        with code.while_(
            known & ((NOW - last) >= wait) & (wait <= Number(LONGEST_AGO_US // 2, Kind.CLOCK))
        ):
            code.set(value, 1.0 / (real(wait) * 1e-6))
            code.set(said, Status.SLOW)
            code.set(at, last + wait)
            code.set(comes, True)
            code.set(put_in, put_in + 1)
            further = pick(put_in < _EVEN, Number(after_us, Kind.CLOCK), wait)
            code.set(wait, wait + further)
        code.set(last, carried(last, NOW))
        return Emitted((EmittedLane(value, said),), at, comes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """A rate that came, or what can be said while none comes."""
        _, put_in = state
        reading, wait = readings[0], prefixed(self.after_s, "s")
        if math.isnan(reading.value) and reading.status == Status.MISSING:
            wait_s = float(self._wait(np.array(put_in + 1)))
            lane = Lane(1.0 / wait_s, Status.SLOW)
            waited = prefixed(wait_s, "s")
            filled = f"no pulse for {waited}: below 1 ÷ {waited}"
        else:
            lane = reading.lanes[0]
            if lane.status == Status.OK and abs(lane.value) < 1.0 / self.after_s:
                lane = Lane(lane.value, Status.SLOW)
            filled = "a pulse came in time" if lane.status != Status.SLOW else "too slow to tell"
        return Step(
            stage=self.name,
            label="not too slow",
            sign="∈",
            operand=Operand(None, "", 0.0, f"one in {wait}"),
            formula="f < 1/Δt since the last pulse",
            filled=filled,
            value=lane.value,
            quantity=reading.quantity,
            status=lane.status,
            components=lane.components,
            source="common practice",
            note=lane.status.remark,
        )
