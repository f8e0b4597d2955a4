"""A level that is high or low: edges are where it rose."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.edges import FindsEdges, Found, intervals, pauses, since_last
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.edges import Pauses, Since, edges_of
from tickstone.core.emit.terms import Kind, is_number, pick
from tickstone.core.signal import Signal
from tickstone.core.status import Status

_BEFORE_ANY = (None, None, float("nan"), False)


@dataclass(frozen=True, slots=True)
class LevelEdges(FindsEdges):
    """Level, or counts of a converter, to edges.

    low, high: two thresholds: high at `high` or above, low at `low` or below, as before in between.
        For a level of 0 and 1 both are 0.5.
    is_exact: whether samples stand where the level changed (a log of changes) and not at times of
        their own; then `timing_s` is what their times doubt either way, s, else half the time since
        the last sample.

    Where levels that are read time after time were not read for long, pulses passed unseen: the gap
    that holds such a pause is flagged.

    >>> stage = LevelEdges(0.5, 0.5, is_exact=True, timing_s=1e-6)
    >>> edges, _ = stage.run(stage.begin(), Signal.of([0, 1, 2, 3, 4], [0, 1, 0, 0, 1]))
    >>> edges.time_s.tolist()
    [1.0, 4.0]
    """

    name: ClassVar[str] = "levels"
    label: ClassVar[str] = "level rose"
    doubt: ClassVar[str] = "somewhere between two samples, rectangular"

    low: float
    high: float
    is_exact: bool
    timing_s: float

    def __post_init__(self) -> None:
        if not self.low <= self.high:
            raise ValueError("the lower threshold has to lie below the upper one")

    def found(self, kept: State, *signals: Signal) -> tuple[Found, State]:
        """Where it rose."""
        signal = signals[0]
        last_s, was_high, last_wait_s, was_pause = kept if kept is not None else _BEFORE_ANY
        good = np.flatnonzero(signal.ok)
        time_s, value = signal.time_s[good], signal.value[good]
        side = np.where(value >= self.high, 1, np.where(value <= self.low, 0, -1))
        if self.low == self.high:
            side = (value > self.high).astype(np.int64)
        known = np.maximum.accumulate(np.where(side >= 0, np.arange(len(side)), -1))
        first = -1 if was_high is None else int(was_high)
        level = np.where(known >= 0, side[known], first)
        before = np.concatenate(([first], level[:-1])) if len(level) else level
        rose = np.flatnonzero((level == 1) & (before == 0))
        waited = intervals(time_s, last_s)
        timing = (
            np.full(len(rose), self.timing_s)
            if self.is_exact
            else np.nan_to_num(waited[rose], nan=0.0) / 2.0
        )
        if len(level) == 0:
            return Found(time_s, time_s), kept
        paused = np.zeros(len(level), dtype=np.bool_)
        if not self.is_exact:
            paused = pauses(waited, last_wait_s)
        unseen, is_pause = since_last(paused, rose, was_pause)
        after = (
            float(time_s[-1]),
            None if level[-1] < 0 else bool(level[-1]),
            float(waited[-1]),
            is_pause,
        )
        status = np.where(unseen, Status.LINE_GAP, Status.OK).astype(np.uint8)
        return Found(time_s[rose], timing, status=status), after

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        was, read, pauses_ = code.state("was", -1.0, Kind.WHOLE), Since(code, "read"), Pauses(code)
        if self.low == self.high:
            side = pick(flow.value > self.high, 1, 0)
        else:
            low = pick(flow.value <= self.low, 0, was)
            side = pick(flow.value >= self.high, 1, low)
        rose, timing = code.variable("rose", False), code.variable("timing", self.timing_s)
        unseen = code.variable("is_unseen", False)
        with code.when(flow.ok):
            level = code.let("level", side)
            code.set(rose, level.is_(1) & was.is_(0))
            code.set(was, level)
            waited = read.seconds(flow.at)
            if not self.is_exact:
                code.set(timing, pick(is_number(waited), waited / 2.0, 0.0))
                pauses_.look(waited)
                code.set(unseen, pauses_.unseen(rose))
            read.note(flow.at)
        verdict = pick(unseen, Status.LINE_GAP, Status.OK)
        return edges_of(code, flow, rose, timing, verdict=verdict)
