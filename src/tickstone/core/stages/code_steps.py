"""Two or three channels whose levels go round in a fixed order: steps, with their direction."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.edges import COUNT, EDGES, GAP, TIMING, FindsEdges, pauses, since_last
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.edges import Pauses, Since
from tickstone.core.emit.terms import (
    NOTHING,
    Kind,
    Term,
    all_of,
    floor,
    is_number,
    pick,
    real,
    term,
    whole,
)
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status

Whole = npt.NDArray[np.int64]

QUADRATURE = (0b00, 0b01, 0b11, 0b10)
"""Channel A is bit 0, B is bit 1: turning forward A comes a quarter before B."""
COMMUTATION_120 = (0b101, 0b001, 0b011, 0b010, 0b110, 0b100)
"""A, B, C are bits 0, 1, 2. Each is high for half an electrical turn, each a third after the one
before it: common practice. Never seen: 000 and 111."""
COMMUTATION_60 = (0b001, 0b011, 0b111, 0b110, 0b100, 0b000)
"""The same with each a sixth after the one before it. Never seen: 101 and 010."""


def places_of(cycle: tuple[int, ...], channels: int) -> Whole:
    """The place in the cycle of every code; -1 of one that cannot be.

    >>> places_of(COMMUTATION_120, 3).tolist()
    [-1, 1, 3, 2, 5, 0, 4, -1]
    """
    places = np.full(1 << channels, -1, dtype=np.int64)
    places[list(cycle)] = np.arange(len(cycle))
    return places


def codes_of(signal: Signal) -> tuple[Whole, Whole]:
    """Where every lane is fine, and the code there: bit n is lane n, high above a half."""
    good = np.flatnonzero((signal.status == Status.OK).all(axis=0))
    bits = (signal.values[:, good] > 0.5).astype(np.int64)
    weights = 1 << np.arange(len(signal.values))
    codes: Whole = weights @ bits
    return good, codes


@dataclass(frozen=True, slots=True)
class CodeSteps(FindsEdges):
    """Levels of several channels to edges whose gaps and counts have a sign: below 0 backward.

    cycle: the codes in the order in which they come when turning forward, see `codes_of`.
    each: how many steps of the cycle make one that counts: 1 counts all, the length of the cycle
        one for each time round, of one channel's rising only, which no unevenness of the others
        touches.
    swapped: whether forward is the other way round.
    is_exact, timing_s: as for `LevelEdges`.

    Two steps at once are one that was not seen: flagged, and counted as it can only have been, or
    as it last went where both ways are as far. A step back after one forward measures no rate. A
    code that cannot be is flagged and moves nothing.
    State: time of the last sample, place in the cycle, steps since the beginning, which way the
    last went, time of the last that counted, which way it went, whether the last code was none, the
    last wait between samples, and whether there was a long one since the last step.

    >>> stage = CodeSteps(QUADRATURE, 1, False, True, 1e-6)
    >>> levels = Signal.of(range(5), [[0, 1, 1, 0, 1], [0, 0, 1, 1, 1]],
    ...                    EDGES.in_lanes("A", "B"))
    >>> steps, _ = stage.run(stage.begin(), levels)
    >>> steps.values[1].tolist(), steps.flag.tolist()
    ([1.0, 2.0, 3.0, 2.0], [8, 0, 0, 15])
    """

    name: ClassVar[str] = "steps"
    label: ClassVar[str] = "step came"
    doubt: ClassVar[str] = "somewhere between two samples, rectangular"

    cycle: tuple[int, ...]
    each: int
    swapped: bool
    is_exact: bool
    timing_s: float

    def begin(self) -> State:
        """Nothing was heard yet."""
        return (None, None, 0, 0, None, 0, False, float("nan"), False)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The steps of a block."""
        signal = signals[0]
        sample_s, place, walked, way, last_s, last_way, was_none, last_wait_s, was_pause = state
        good, codes = codes_of(signal)
        if good.size == 0:
            return _edges(np.empty(0), np.empty((3, 0)), np.empty(0), signal.until_s), state
        time_s = signal.time_s[good]
        at = places_of(self.cycle, len(signal.values))[codes]
        is_none = at < 0
        legal = np.flatnonzero(~is_none)
        steps, ways, is_jump = self._walk(at[legal], place, way)
        walk = np.zeros(len(good), dtype=np.int64)
        walk[legal] = steps
        if place is None and legal.size:
            # Nothing is counted yet, and where in the cycle it stands is kept.
            walked = int(at[legal[0]])
            walked -= self.each * int(_counted(walked, self.each))
        position = walked + np.cumsum(walk)
        before = np.concatenate(([walked], position[:-1]))
        count = _counted(position, self.each)
        rise = count - _counted(before, self.each)
        jumped = np.zeros(len(good), dtype=np.bool_)
        jumped[legal] = is_jump
        fresh_none = is_none & ~np.concatenate(([was_none], is_none[:-1]))
        events = np.flatnonzero((rise != 0) | jumped | fresh_none)
        waited = time_s - np.concatenate(([np.nan if sample_s is None else sample_s], time_s[:-1]))
        values = np.empty((3, len(events)))
        sign = -1.0 if self.swapped else 1.0
        values[COUNT] = sign * count[events]
        values[TIMING] = self.timing_s if self.is_exact else np.nan_to_num(waited[events]) / 2.0
        values[GAP], status, last = _gaps(
            time_s[events], rise[events], (last_s, last_way), jumped[events], fresh_none[events]
        )
        values[GAP] *= sign
        paused = np.zeros(len(good), dtype=np.bool_)
        if not self.is_exact:
            paused = pauses(waited, last_wait_s)
        unseen, is_pause = since_last(paused, events, was_pause)
        status[unseen] = Status.LINE_GAP
        values[GAP, unseen] = np.nan
        after = (
            float(time_s[-1]),
            int(at[legal[-1]]) if legal.size else place,
            int(position[-1]),
            int(ways[-1]) if len(ways) else way,
            *last,
            bool(is_none[-1]),
            float(waited[-1]),
            is_pause,
        )
        return _edges(time_s[events], values, status, signal.until_s), after

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        n, each = len(self.cycle), self.each
        place = code.state("place", -1.0, Kind.WHOLE)
        walked, way = code.state("walked", 0.0, Kind.WHOLE), code.state("way", 0.0, Kind.WHOLE)
        last_way = code.state("last_way", 0.0, Kind.WHOLE)
        was_none = code.state("was_none", 0.0, Kind.FLAG)
        read, last, paused = Since(code, "read"), Since(code, "last"), Pauses(code)
        rise, jumps = code.variable("rise", 0), code.variable("jumps", False)
        fresh_none, count = code.variable("fresh_none", False), code.variable("count", 0.0)
        timing, unseen = code.variable("timing", self.timing_s), code.variable("is_unseen", False)
        gap, said = code.variable("gap", NOTHING), code.variable("said", Status.OK)
        happens = code.variable("happens", False)
        good = code.let("is_good", all_of([lane.ok for lane in flow.lanes]))
        with code.when(good):
            at = code.let("at", place_in(code, self.cycle, flow))
            with code.when((at >= 0) & (place < 0)):
                code.set(walked, at - counted_of(at, each) * each)
                code.set(place, at)
            before = code.variable("before", counted_of(walked, each))
            with code.when(at >= 0):
                step = code.variable("step", at - place + n // 2)
                code.set(step, pick(step < 0, step + n, pick(step >= n, step - n, step)) - n // 2)
                even = code.let("is_even", step.is_(-(n // 2)) | step.is_(n // 2))
                turned = pick(step > 0, 1, pick(step < 0, -1, way))
                code.set(way, pick(even, way, turned))
                code.set(step, pick(even, way * (n // 2), step))
                code.set(jumps, even | (step > 1) | (step < -1))
                code.set(walked, walked + step)
                code.set(place, at)
            after = code.let("after", counted_of(walked, each))
            code.set(rise, after - before)
            code.set(count, real(after))
            code.set(fresh_none, (at < 0) & ~was_none)
            code.set(was_none, at < 0)
            code.set(happens, rise.is_not(0) | jumps | fresh_none)
            waited = read.seconds(flow.at)
            if not self.is_exact:
                code.set(timing, pick(is_number(waited), waited / 2.0, 0.0))
                paused.look(waited)
                code.set(unseen, paused.unseen(happens))
            read.note(flow.at)
        with code.when(rise.is_not(0)):
            now_way = code.let("now_way", pick(rise > 0, 1, -1))
            turns = code.let("turns", last_way.is_not(0) & last_way.is_not(now_way))
            passed = last.seconds(flow.at)
            code.set(gap, pick(turns, NOTHING, passed / real(rise)))
            is_first = ~is_number(passed)
            code.set(
                said, pick(is_first, Status.FIRST_PULSE, pick(turns, Status.REVERSED, Status.OK))
            )
            last.note(flow.at)
            code.set(last_way, now_way)
        said_late = pick(jumps, Status.SKIPPED_STEP, said)
        verdict = pick(unseen, Status.LINE_GAP, pick(fresh_none, Status.NO_STATE, said_late))
        sign = -1.0 if self.swapped else 1.0
        value = pick(unseen, NOTHING, gap * sign)
        lanes = (
            EmittedLane(code.let("gap_told", value), code.let("verdict", verdict)),
            EmittedLane(count * sign, code.let("verdict", verdict)),
            EmittedLane(timing, code.let("verdict", verdict)),
        )
        return Emitted(lanes, flow.at, happens)

    def _walk(
        self, at: Whole, place: int | None, way: int
    ) -> tuple[Whole, Whole, npt.NDArray[np.bool_]]:
        """Steps from each place to the next, which way it went last, and where two came at once."""
        n = len(self.cycle)
        if len(at) == 0:
            return np.empty(0, np.int64), np.empty(0, np.int64), np.empty(0, np.bool_)
        before = np.concatenate(([at[0] if place is None else place], at[:-1]))
        steps: Whole = (at - before + n // 2) % n - n // 2
        is_even = np.abs(steps) == n // 2
        known = np.where(is_even, 0, np.sign(steps))
        last = np.maximum.accumulate(np.where(known != 0, np.arange(len(at)), -1))
        ways: Whole = np.where(last >= 0, known[last], way)
        steps = np.where(is_even, ways * (n // 2), steps)
        return steps, ways, is_even | (np.abs(steps) > 1)


def place_in(code: Code, cycle: tuple[int, ...], flow: Emitted) -> Term:
    """The place in the cycle of what the levels say on a board; -1 of a code that cannot be."""
    number: Term = term(0)
    for n, lane in enumerate(flow.lanes):
        number = number + pick(lane.value > 0.5, 1 << n, 0)
    places = places_of(cycle, len(flow.lanes))
    table = code.table("places", [float(one) for one in places], Kind.WHOLE)
    return table[number]


def counted_of(position: Term, each: int) -> Term:
    """`_counted` on a board, where whole numbers may be divided towards 0."""
    if each == 1:
        return position
    return whole(floor(real(position + (each - 1)) / float(each)))


def _counted(position: Any, each: int) -> Any:
    """How many that count lie at or below a position: those at 1, each + 1, and so on."""
    return (position + each - 1) // each


def _gaps(
    time_s: FloatArray,
    rise: Whole,
    last: tuple[float | None, int],
    jumped: npt.NDArray[np.bool_],
    fresh_none: npt.NDArray[np.bool_],
) -> tuple[FloatArray, npt.NDArray[np.uint8], tuple[float | None, int]]:
    """Gaps from one that counted to the next, a verdict on each, and the last that counted."""
    gap = np.full(len(time_s), np.nan)
    status = np.zeros(len(time_s), dtype=np.uint8)
    moved = np.flatnonzero(rise != 0)
    if moved.size:
        at, way = time_s[moved], np.sign(rise[moved])
        last_s, last_way = last
        gap[moved] = (at - np.append(np.nan if last_s is None else last_s, at[:-1])) / rise[moved]
        turned = way != np.append(last_way if last_way else way[0], way[:-1])
        status[moved[turned]] = Status.REVERSED
        gap[moved[turned]] = np.nan
        if last_s is None:
            status[moved[0]] = Status.FIRST_PULSE
        last = (float(at[-1]), int(way[-1]))
    status[jumped] = Status.SKIPPED_STEP
    status[fresh_none] = Status.NO_STATE
    return gap, status, last


def _edges(
    time_s: FloatArray, values: FloatArray, status: npt.NDArray[np.generic], until_s: float
) -> Signal:
    lanes = np.broadcast_to(status.astype(np.uint8), (3, len(time_s))).copy()
    return Signal(time_s, values, lanes, EDGES, until_s)
