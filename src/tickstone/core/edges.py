"""What every way of hearing pulses comes to: edges, each with the time since the one before."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import BLOCK_SAMPLES, State
from tickstone.core.display import grouped, prefixed
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import MILLISECONDS
from tickstone.core.signal import FloatArray, Signal, StatusArray
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular

EDGES = Quantity(
    "gap between pulses",
    "s",
    shown_as=MILLISECONDS,
    lanes=("", "count", "timing"),
    quiet=("count", "timing"),
)
"""Three lanes: the time since the edge before, s; how many edges there were so far; and the half
width of the doubt about when an edge was, s."""
GAP, COUNT, TIMING = range(3)
_ONE_TWO_THREE = np.arange(1.0, BLOCK_SAMPLES + 1.0)
"""As many as a block has at most, so that they need not be counted anew each time."""


@dataclass(frozen=True, slots=True)
class Found:
    """Edges found in a block: their times, s, how many each stands for, and a verdict on each.

    timing_s: half width of the doubt about each time. pulses: one for each edge when None. status:
    all are fine when None. gap_s: the time since the edge before where it was told, NaN where the
    times say it; None where they say it everywhere.
    """

    time_s: FloatArray
    timing_s: FloatArray | float
    pulses: FloatArray | None = None
    status: StatusArray | None = None
    gap_s: FloatArray | None = None


NOTHING_YET: State = (None, 0.0)
"""The time of the last edge, and how many there were: what every stage that finds edges keeps."""


def as_edges(found: Found, last: State, until_s: float) -> tuple[Signal, State]:
    """Found edges as a signal, and what is to be kept. The first has no gap."""
    last_s, count = last
    time_s, n = found.time_s, len(found.time_s)
    values, lanes = np.empty((3, n)), np.zeros((3, n), dtype=np.uint8)
    signal = Signal(time_s, values, lanes, EDGES, until_s)
    if n == 0:
        return signal, last
    gap, status = values[GAP], lanes[GAP]
    gap[0] = np.nan if last_s is None else time_s[0] - last_s
    np.subtract(time_s[1:], time_s[:-1], out=gap[1:])
    if found.pulses is None:
        if n <= len(_ONE_TWO_THREE):
            np.add(_ONE_TWO_THREE[:n], count, out=values[COUNT])
        else:
            values[COUNT] = np.arange(count + 1.0, count + n + 1.0)
    else:
        np.cumsum(found.pulses, out=values[COUNT])
        values[COUNT] += count
        has_any = found.pulses > 0.0
        gap[~has_any] = np.nan
        np.divide(gap, found.pulses, out=gap, where=has_any)
    values[TIMING] = found.timing_s
    if found.gap_s is not None:
        np.copyto(gap, found.gap_s, where=~np.isnan(found.gap_s))
    if found.status is not None:
        status[:] = found.status
    if last_s is None or found.pulses is not None:
        status[np.isnan(gap) & (status == Status.OK)] = Status.FIRST_PULSE
    return signal, (float(time_s[-1]), float(values[COUNT, -1]))


def passed(edges: Signal) -> float:
    """How many passed in a stretch, whichever way: from its first edge to its last, and half a gap
    more at either end.

    >>> passed(Signal.of([1.0, 2.0], [[1.0, 1.0], [4.0, 5.0], [0.0, 0.0]], EDGES))
    2.0
    """
    counts = edges.values[COUNT]
    return float(abs(counts[-1] - counts[0])) + 1.0 if len(counts) else 0.0


class FindsEdges:
    """What stages share that find edges in samples: each has its own times, and is told alike.

    found: the edges of a block, given what is kept of before. The state is a pair: what the stage
    itself keeps, and `NOTHING_YET` or later.
    """

    __slots__ = ()
    own_times: ClassVar[bool] = True
    name: ClassVar[str]
    label: ClassVar[str]
    source: ClassVar[str] = "common practice"
    doubt: ClassVar[str]

    def gives(self, *taken: Quantity) -> Quantity:
        """Edges."""
        return EDGES

    def begin(self) -> State:
        """Nothing was heard yet."""
        return (None, NOTHING_YET)

    def found(self, kept: State, *signals: Signal) -> tuple[Found, State]:
        """The edges of a block, and what is kept after it."""
        raise NotImplementedError

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The edges of a block."""
        kept, last = state
        found, kept = self.found(kept, *signals)
        edges, last = as_edges(found, last, signals[0].until_s)
        return edges, (kept, last)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One edge: its gap, with the doubt of both its ends."""
        edges, _ = self.run(state, *map(_sample, readings))
        gap, count, timing = (
            Lane(float(edges.values[lane, -1]), Status(int(edges.status[lane, -1])))
            for lane in range(3)
        )
        u = rectangular(timing.value) * 2.0**0.5
        part = Component("edge timing", u, "s", u, False, self.doubt)
        has_gap = not math.isnan(gap.value)
        said = prefixed(gap.value, "s", 6) if has_gap else gap.status.word
        return Step(
            stage=self.name,
            label=self.label,
            sign="",
            operand=(
                Operand(1e3 * gap.value, "ms", 0.0)
                if has_gap
                else Operand(None, "", 0.0, gap.status.word)
            ),
            formula="Δt from one pulse to the next",
            filled=f"Δt = {said}",
            value=gap.value,
            quantity=EDGES,
            status=gap.status,
            components=(part,) if has_gap and u > 0.0 else (),
            source=self.source,
            note=gap.status.remark,
            below=f"pulse {grouped(count.value, 0)}",
            others=(count, timing),
        )


def _sample(reading: Reading) -> Signal:
    """A reading as the signal of one sample."""
    return Signal.of(
        [reading.time_s],
        [[lane.value] for lane in reading.lanes],
        reading.quantity,
        [[int(lane.status)] for lane in reading.lanes],
    )


SHORTEST_PAUSE_S = 0.5
TIMES_THE_LAST = 10.0


def pauses(waited_s: FloatArray, last_wait_s: float) -> npt.NDArray[np.bool_]:
    """Where levels that are read time after time were not read for so long that pulses may have
    passed unseen: half a second, and ten times as long as between the two reads before.

    waited_s: see `intervals`. last_wait_s: the interval before the first, NaN when there was none.

    >>> pauses(np.array([0.1, 0.1, 3.0, 0.1]), 0.1).tolist()
    [False, False, True, False]
    """
    before = np.concatenate(([last_wait_s], waited_s[:-1]))
    long = waited_s > np.maximum(SHORTEST_PAUSE_S, TIMES_THE_LAST * before)
    found: npt.NDArray[np.bool_] = long & ~np.isnan(before)
    return found


def since_last(
    marked: npt.NDArray[np.bool_], at: npt.NDArray[np.intp], was: bool
) -> tuple[npt.NDArray[np.bool_], bool]:
    """Whether anything is marked since the place before, for each place of `at`, and since the last
    of them. was: whether something was before the block.

    >>> marked = np.array([False, True, False, False, True])
    >>> after = since_last(marked, np.array([0, 2, 3]), False)
    >>> after[0].tolist(), after[1]
    ([False, True, False], True)
    """
    so_far = np.concatenate(([0], np.cumsum(marked))) + int(was)
    counts = np.concatenate(([0], so_far[at + 1]))
    return np.diff(counts) > 0, bool(so_far[-1] > counts[-1])


def added_from(
    values: FloatArray, places: npt.NDArray[np.intp], amounts: npt.NDArray[np.float64]
) -> None:
    """Adds amounts[0] to the values before the first place, amounts[1] from there on, and so on.

    >>> values = np.zeros(5)
    >>> added_from(values, np.array([2, 4]), np.array([0.0, 1.0, 3.0]))
    >>> values.tolist()
    [0.0, 0.0, 1.0, 1.0, 3.0]
    """
    ends = np.concatenate(([0], places, [len(values)]))
    values += np.repeat(amounts, ends[1:] - ends[:-1])


def intervals(time_s: FloatArray, last_s: float | None) -> FloatArray:
    """From the sample before each sample to it, s; NaN for the very first."""
    before: npt.NDArray[np.float64] = np.empty(len(time_s))
    if len(time_s):
        before[0] = np.nan if last_s is None else last_s
        before[1:] = time_s[:-1]
    return time_s - before
