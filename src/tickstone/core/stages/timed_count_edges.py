"""A running count beside the gap that the board measured: the count says how many, the gap how
long.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.edges import FindsEdges, Found
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.edges import edges_of
from tickstone.core.emit.terms import NOTHING, pick
from tickstone.core.signal import Signal
from tickstone.core.stages.count_edges import CountEdges
from tickstone.core.status import Status


@dataclass(frozen=True, slots=True)
class TimedCountEdges(FindsEdges):
    """Count and gap to edges. A rise by one takes its gap from the board, to a tick; a rise by more
    from the lines between which it came, for the gap is only that of the last.

    bits: of the counter; see `CountEdges`. timing_s: half width of what a told gap doubts at either
    end, s. shortest_s: when of several between two lines the last came sooner than this after the
    one before, it is bounce, and is not counted: no gap of its own is left to flag it by.

    >>> stage = TimedCountEdges(bits=16, timing_s=4e-6)
    >>> times = [0.0, 0.04, 0.08, 0.12]
    >>> count, gap = Signal.of(times, [7, 8, 8, 9]), Signal.of(times, [0.07, 0.071, 0.071, 0.069])
    >>> edges, _ = stage.run(stage.begin(), count, gap)
    >>> edges.value.tolist(), edges.values[2].tolist()
    ([0.071, 0.069], [4e-06, 4e-06])
    """

    name: ClassVar[str] = "timed-count"
    label: ClassVar[str] = "count rose"
    doubt: ClassVar[str] = "± one tick of the board’s timer, rectangular"

    bits: int
    timing_s: float
    shortest_s: float = 0.0

    def found(self, kept: State, *signals: Signal) -> tuple[Found, State]:
        """Where the count rose, with the gap told there."""
        count, gap = signals
        found, after = CountEdges(self.bits).found(kept, count)
        places = np.searchsorted(gap.time_s, found.time_s, side="right") - 1
        told = gap.value[places] if len(places) else np.empty(0)
        assert found.pulses is not None
        is_known = told > 0.0
        if len(places):
            is_known &= gap.flag[places] == Status.OK
        is_told = (found.pulses == 1.0) & is_known
        chattered = (found.pulses > 1.0) & is_known & (told < self.shortest_s)
        return (
            replace(
                found,
                pulses=found.pulses - chattered,
                gap_s=np.where(is_told, told, np.nan),
                timing_s=np.where(is_told, self.timing_s, found.timing_s),
            ),
            after,
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        count, gap = entering
        rises, pulses, verdict, timing = CountEdges(self.bits).rise(code, count)
        known = code.let("is_known", gap.ok & (gap.value > 0.0))
        told = code.let("is_told", pulses.is_(1.0) & known)
        chatters = (pulses > 1.0) & known & (gap.value < self.shortest_s)
        return edges_of(
            code,
            count,
            rises,
            pick(told, self.timing_s, timing),
            code.let("fewer", pulses - pick(chatters, 1.0, 0.0)),
            verdict,
            pick(told, gap.value, NOTHING),
        )
