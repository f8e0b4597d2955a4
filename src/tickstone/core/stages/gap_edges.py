"""Gaps that the board measured itself: an edge a line, as fine as its timer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.edges import FindsEdges, Found
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.edges import Since, edges_of
from tickstone.core.emit.terms import NOTHING, pick
from tickstone.core.signal import Signal
from tickstone.core.status import Status

_REPEATED = 0.5


@dataclass(frozen=True, slots=True)
class GapEdges(FindsEdges):
    """Gap to edges.

    timing_s: half width of what each end of a gap doubts, s.
    A line that says the same gap again before half of it is over says nothing new and is passed
    over: many programs print the last gap with every line. A gap of 0 cannot be and is flagged.

    >>> stage = GapEdges(timing_s=4e-6)
    >>> signal = Signal.of([0.0, 0.05, 0.26], [0.25, 0.25, 0.26])
    >>> edges, _ = stage.run(stage.begin(), signal)
    >>> edges.time_s.tolist(), edges.value.tolist()
    ([0.0, 0.26], [0.25, 0.26])
    """

    name: ClassVar[str] = "timed"
    label: ClassVar[str] = "gap"
    doubt: ClassVar[str] = "± one tick of the board’s timer, rectangular"

    timing_s: float

    def found(self, kept: State, *signals: Signal) -> tuple[Found, State]:
        """One edge a line, but for what is only said again."""
        signal = signals[0]
        good = np.flatnonzero(signal.ok)
        time_s, gap = signal.time_s[good], signal.value[good]
        fresh = self._fresh(kept, time_s, gap)
        time_s, gap = time_s[fresh], gap[fresh]
        after = kept if len(gap) == 0 else (float(time_s[-1]), float(gap[-1]))
        impossible = ~(gap > 0.0)
        return (
            Found(
                time_s=time_s,
                pulses=np.where(impossible, 0.0, 1.0),
                status=np.where(impossible, Status.NO_GAP, Status.OK).astype(np.uint8),
                timing_s=np.full(len(gap), self.timing_s),
                gap_s=np.where(impossible, np.nan, gap),
            ),
            after,
        )

    def _fresh(self, kept: State, time_s: np.ndarray, gap: np.ndarray) -> np.ndarray:
        """Which lines say something new. Only lines that repeat a gap are looked at one by one."""
        fresh = np.ones(len(gap), dtype=np.bool_)
        last_s, last = kept if kept is not None else (-np.inf, np.nan)
        before = np.concatenate(([last], gap[:-1])) if len(gap) else gap
        for at in np.flatnonzero(gap == before).tolist():
            if at > 0 and fresh[at - 1]:
                last_s = float(time_s[at - 1])
            fresh[at] = not time_s[at] - last_s < _REPEATED * gap[at]
        return fresh

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        last, said = code.state("last_gap"), Since(code, "said")
        waited = said.seconds(flow.at)
        again = flow.value.is_(last) & (waited < flow.value * _REPEATED)
        fresh = code.let("is_fresh", flow.ok & ~again)
        with code.when(fresh):
            code.set(last, flow.value)
            said.note(flow.at)
        is_gap = code.let("is_gap", flow.value > 0.0)
        return edges_of(
            code,
            flow,
            fresh,
            self.timing_s,
            code.let("pulses", pick(is_gap, 1.0, 0.0)),
            pick(is_gap, Status.OK, Status.NO_GAP),
            pick(is_gap, flow.value, NOTHING),
        )
