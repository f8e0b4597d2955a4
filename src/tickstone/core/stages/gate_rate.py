"""The rate of pulses from how many come while a gate is open."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import grouped, prefixed
from tickstone.core.edges import COUNT
from tickstone.core.emit.code import CannotEmitError, Code, Emitted, EmittedLane
from tickstone.core.emit.routine import NOW
from tickstone.core.emit.terms import LONGEST_AGO_US, NOTHING, Kind, Number, pick
from tickstone.core.quantity import FREQUENCY, Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component

_MANY_EMPTY = 10_000
COUNT_U = 1.0 / math.sqrt(6.0)
"""Standard uncertainty of a count that may be one more or less, the nearer the likelier: triangular
over ± 1 (JCGM 100 §4.3.9)."""


@dataclass(frozen=True, slots=True)
class GateRate:
    """N/T, edges to Hz, with a result at the end of every gate: good when fast.

    gate_s: T, s. Gates follow each other without a break from the first pulse on, at whole
        multiples of T. The first gate without a pulse is slow: the rate is below 1/T. Those after
        it say no more, and are left out.
    State: number of the gate that is open, the count when it opened, the count now, and whether the
    last gate was empty.

    >>> from tickstone.core.edges import EDGES
    >>> times = np.arange(1, 41) * 0.25641
    >>> edges = Signal.of(times, [np.full(40, 0.25641), np.arange(1.0, 41), np.zeros(40)], EDGES)
    >>> rates, _ = GateRate(2.0).run(GateRate(2.0).begin(), edges)
    >>> rates.time_s.tolist(), rates.value.tolist()
    ([4.0, 6.0, 8.0, 10.0], [4.0, 4.0, 4.0, 4.0])
    """

    name: ClassVar[str] = "gate"
    own_times: ClassVar[bool] = True

    gate_s: float

    def gives(self, *taken: Quantity) -> Quantity:
        """A frequency."""
        return FREQUENCY

    def begin(self) -> State:
        """No gate is open before the first pulse."""
        return (None, 0.0, 0.0, False)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The gates that closed by the end of the block."""
        edges = signals[0]
        gate, opened_at, now, was_empty = state
        time_s, count = edges.time_s, edges.values[COUNT]
        if gate is None:
            if len(time_s) == 0:
                return self._rates(np.empty(0), np.empty(0), edges.until_s), state
            # The first whole gate opens after the first pulse.
            gate = self._closed_by(float(time_s[0])) + 1
            opened_at = None
        first = gate + 1 if opened_at is not None else gate
        last = self._closed_by(edges.until_s) if math.isfinite(edges.until_s) else first - 1
        ends = self._numbers(first, last, time_s) * self.gate_s
        places = np.searchsorted(time_s, ends, side="right")
        counts = np.where(places > 0, count[np.maximum(places - 1, 0)] if len(count) else now, now)
        latest = float(count[-1]) if len(count) else now
        if len(ends) == 0:
            return self._rates(ends, counts, edges.until_s), (gate, opened_at, latest, was_empty)
        if opened_at is None:
            opened_at, ends, counts = float(counts[0]), ends[1:], counts[1:]
        pulses = np.diff(counts, prepend=opened_at)
        kept = float(counts[-1]) if len(counts) else opened_at
        is_empty = pulses == 0.0
        after = (float(last), kept, latest, bool(is_empty[-1]) if len(is_empty) else was_empty)
        told = ~(is_empty & np.concatenate(([was_empty], is_empty))[: len(is_empty)])
        return self._rates(ends[told], pulses[told], edges.until_s), after

    def _numbers(self, first: int, last: int, time_s: FloatArray) -> FloatArray:
        """The gates that close from one to another; of a long silence only the first and the last.

        A clock that jumps by years must not make a gate for every second of them.
        """
        if last - first <= _MANY_EMPTY + 4 * len(time_s):
            return np.arange(first, last + 1, dtype=np.float64)
        inside = np.ceil(time_s / self.gate_s)
        near = np.concatenate(([first, first + 1.0], *(inside + n for n in (-1, 0, 1, 2)), [last]))
        return np.unique(near[(near >= first) & (near <= last)])

    def _closed_by(self, until_s: float) -> int:
        """The number of the last gate whose end is not later, whatever a division rounds to."""
        number = math.floor(until_s / self.gate_s)
        if number * self.gate_s > until_s:
            return number - 1
        return number + 1 if (number + 1) * self.gate_s <= until_s else number

    def _rates(self, ends_s: np.ndarray, pulses: np.ndarray, until_s: float) -> Signal:
        empty = pulses == 0.0
        values = np.where(empty, 1.0, pulses) / self.gate_s
        status = np.where(empty, Status.SLOW, Status.OK).astype(np.uint8)
        return Signal(ends_s, values[np.newaxis], status[np.newaxis], FREQUENCY, until_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample, from the time of the first line on; of several gates that closed
        since the line before, the last that says anything.
        """
        edges = entering[0]
        gate_us = round(self.gate_s * 1e6)
        if gate_us > LONGEST_AGO_US:
            raise CannotEmitError(f"a gate of {self.gate_s:g} s is more than a counter can tell")
        begun, is_open = (
            code.state("is_begun", 0.0, Kind.FLAG),
            code.state("is_open", 0.0, Kind.FLAG),
        )
        has_edges = code.state("has_edges", 0.0, Kind.FLAG)
        opened = code.state("opened_us", 0.0, Kind.CLOCK)
        at_opening, now = code.state("at_opening", 0.0), code.state("counted", 0.0)
        was_empty = code.state("was_empty", 0.0, Kind.FLAG)
        with code.when(~begun):
            code.set(begun, True)
            code.set(opened, NOW)
        closes, value = code.variable("closes", False), code.variable("rate", NOTHING)
        said, end = code.variable("said", Status.OK), code.variable("closed_us", NOW)
        latest = edges.lanes[COUNT].value
        with code.while_((NOW - opened) >= Number(gate_us, Kind.CLOCK)):
            code.set(opened, opened + Number(gate_us, Kind.CLOCK))
            # An edge at the very end of a gate is in it; one that came after it is in the next.
            with code.when(edges.comes & opened.is_(NOW)):
                code.set(now, latest)
                code.set(has_edges, True)
            pulses = code.let("pulses", now - at_opening)
            empty = code.let("is_empty", pulses.is_(0.0))
            with code.when(is_open):
                with code.when(~(empty & was_empty)):
                    code.set(closes, True)
                    code.set(value, pick(empty, 1.0, pulses) / self.gate_s)
                    code.set(said, pick(empty, Status.SLOW, Status.OK))
                    code.set(end, opened)
                code.set(was_empty, empty)
            code.set(at_opening, now)
            # The first whole gate opens after the first pulse.
            code.set(is_open, is_open | has_edges)
        with code.when(edges.comes):
            code.set(has_edges, True)
            code.set(now, latest)
        return Emitted((EmittedLane(value, said),), end, closes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One gate: its pulses over its time."""
        _, opened_at, now, _ = state
        reading = readings[0]
        count = reading.lanes[COUNT].value
        if not math.isnan(count):
            now = count
        pulses = now - (opened_at or 0.0)
        is_slow = pulses == 0.0
        u = COUNT_U / self.gate_s
        part = Component("one pulse more or less", COUNT_U, "", u, False, "triangular over ± 1")
        return Step(
            stage=self.name,
            label="in a gate",
            sign="÷",
            operand=Operand(self.gate_s, "s", 0.0),
            formula="f = N/T",
            filled=f"{grouped(pulses, 0)} pulses ÷ {prefixed(self.gate_s, 's')}",
            value=(1.0 if is_slow else pulses) / self.gate_s,
            quantity=FREQUENCY,
            status=Status.SLOW if is_slow else Status.OK,
            components=() if is_slow else (part,),
            source="counting in a gate; common practice",
        )
