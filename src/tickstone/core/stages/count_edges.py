"""A running count of pulses, read now and then: edges are where it rose."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.edges import FindsEdges, Found
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.edges import Since, edges_of
from tickstone.core.emit.terms import Name, is_number, pick
from tickstone.core.signal import Signal
from tickstone.core.status import Status


@dataclass(frozen=True, slots=True)
class CountEdges(FindsEdges):
    """Count to edges. A rise of k stands for k pulses, evenly spread since the last rise.

    bits: of the counter, which wraps at 2^bits; a fall is undone by that when the rise it leaves is
        less than half of it. 0: it never wraps. Any other fall is flagged: the count ran back.
    A rise was somewhere between this sample and the one before, which is what its timing doubts.

    >>> stage = CountEdges(bits=8)
    >>> signal = Signal.of([0.0, 0.1, 0.2, 0.3], [254, 255, 255, 1])
    >>> edges, _ = stage.run(stage.begin(), signal)
    >>> edges.time_s.tolist(), edges.values[1].tolist()
    ([0.1, 0.3], [1.0, 3.0])
    """

    name: ClassVar[str] = "counted"
    label: ClassVar[str] = "count rose"
    doubt: ClassVar[str] = "somewhere between two lines, rectangular"

    bits: int = 0

    def found(self, kept: State, *signals: Signal) -> tuple[Found, State]:
        """Where it rose, and where it ran back."""
        signal = signals[0]
        good = np.flatnonzero(signal.ok)
        if good.size == 0:
            return _nothing(), kept
        time_s, count = signal.time_s[good], signal.value[good]
        last_s, last = kept if kept is not None else (time_s[0], count[0])
        steps = np.diff(count, prepend=last)
        if self.bits:
            size = 2.0**self.bits
            wrapped = (steps < 0.0) & (steps + size < size / 2.0)
            steps = np.where(wrapped, steps + size, steps)
        waited = np.diff(time_s, prepend=last_s)
        at = np.flatnonzero(steps != 0.0)
        rise = steps[at]
        status = np.where(rise < 0.0, Status.RAN_BACK, Status.OK).astype(np.uint8)
        return (
            Found(
                time_s=time_s[at],
                pulses=np.maximum(rise, 0.0),
                status=status,
                timing_s=waited[at] / 2.0,
            ),
            (float(time_s[-1]), float(count[-1])),
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        rises, pulses, verdict, timing = self.rise(code, entering[0])
        return edges_of(code, entering[0], rises, timing, pulses, verdict)

    def rise(self, code: Code, flow: Emitted) -> tuple[Name, Name, Name, Name]:
        """Whether the count moved, by how much, a verdict, and half the time since it was read."""
        last, read = code.state("counted"), Since(code, "read")
        step, timing = code.variable("step", 0.0), code.variable("timing", 0.0)
        with code.when(flow.ok & is_number(last)):
            code.set(step, flow.value - last)
            if self.bits:
                size = 2.0**self.bits
                wraps = (step < 0.0) & (step + size < size / 2.0)
                code.set(step, pick(wraps, step + size, step))
            code.set(timing, read.seconds(flow.at) / 2.0)
        with code.when(flow.ok):
            code.set(last, flow.value)
            read.note(flow.at)
        return (
            code.let("rises", step.is_not(0.0)),
            code.let("pulses", pick(step > 0.0, step, 0.0)),
            code.let("verdict", pick(step < 0.0, Status.RAN_BACK, Status.OK)),
            timing,
        )


def _nothing() -> Found:
    return Found(np.empty(0), np.empty(0), np.empty(0), np.empty(0, np.uint8))
