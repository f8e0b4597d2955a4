"""Times of edges themselves: every sample is one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import State
from tickstone.core.edges import FindsEdges, Found
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.edges import edges_of
from tickstone.core.signal import Signal


@dataclass(frozen=True, slots=True)
class TimeEdges(FindsEdges):
    """Samples to edges, whatever their values.

    timing_s: half width of what their times doubt, s.

    >>> stage = TimeEdges(timing_s=1e-6)
    >>> edges, _ = stage.run(stage.begin(), Signal.of([0.1, 0.35], [1, 1]))
    >>> edges.value.round(6).tolist(), edges.flag.tolist()
    ([nan, 0.25], [8, 0])
    """

    name: ClassVar[str] = "edges"
    label: ClassVar[str] = "edge"
    doubt: ClassVar[str] = "± one tick of the clock, rectangular"

    timing_s: float

    def found(self, kept: State, *signals: Signal) -> tuple[Found, State]:
        """Every good sample."""
        signal = signals[0]
        time_s = signal.time_s[signal.ok] if signal.flag.any() else signal.time_s
        return Found(time_s, self.timing_s), None

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return edges_of(code, entering[0], entering[0].ok, self.timing_s)
