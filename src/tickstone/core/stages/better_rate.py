"""Two ways to measure a rate, and at every moment the one that doubts less."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.edges import TIMING
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Kind, pick, root, size
from tickstone.core.quantity import FREQUENCY, Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.gate_rate import COUNT_U
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

_BY_GATE, _BY_PERIOD = "counted in a gate", "one period"
Method = Literal["auto", "period", "gate"]
PERIOD_U = math.sqrt(2.0 / 3.0)
"""Standard uncertainty of a gap whose two ends are each known to ± 1 s, rectangular."""


def crossing_hz(timing_s: float, gate_s: float) -> float:
    """The rate at which a period and a gate doubt the same, Hz; below it the period is better.

    Period: u(f)/f = f·t·√(2/3) for edges known to ± t; gate: u(f)/f = 1/(√6·f·T).

    With a timer of whole ticks, t is half a tick and this is √(f_tick/T), the usual closed form.

    >>> round(crossing_hz(0.5 * 4e-6, 1.0), 1)
    500.0
    """
    if timing_s <= 0.0:
        return math.inf
    return math.sqrt(COUNT_U / (PERIOD_U * timing_s * gate_s))


@dataclass(frozen=True, slots=True)
class BetterRate:
    """The rate by period, the rate by gate, and the edges, to one rate, at the times of whichever
    counts.

    method: `auto` takes the one with the smaller relative doubt, as the gates before tell it: by
        that, all periods until the next gate closes, or that gate. Were each judged by its own
        rate, then near the crossing only those would be left that happen to be far from it. With
        `period` and `gate` that one alone goes in, and is taken whatever it costs.
    gate_s: how long a gate is open, s.
    State: the timing doubt of the last edge, s, and whether the last gate was beyond the crossing.

    >>> stage = BetterRate("auto", 1.0)
    >>> stage.name
    'better'
    """

    name: ClassVar[str] = "better"
    own_times: ClassVar[bool] = True
    may_give_two: ClassVar[bool] = True
    """On a board: a gate and an edge may come with one line."""

    method: Method
    gate_s: float

    def gives(self, *taken: Quantity) -> Quantity:
        """A frequency."""
        return FREQUENCY

    def begin(self) -> State:
        """No edge yet, and no gate."""
        return (0.0, False)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The better of both over the block."""
        if self.method != "auto":
            return signals[0], state
        period, gate, edges = signals
        timing_s, was_beyond = state
        timing = edges.values[TIMING]
        last_s = float(timing[-1]) if len(timing) else timing_s
        places = np.searchsorted(edges.time_s, gate.time_s, side="right") - 1
        near = np.where(places >= 0, timing[places], timing_s) if len(timing) else timing_s
        is_good = gate.flag == Status.OK
        beyond = self._beyond(np.where(is_good, np.abs(gate.value), 0.0), near, was_beyond)
        after = (last_s, bool(beyond[-1]))
        if not beyond.any():
            return period, after
        by_gate = beyond[:-1] & is_good
        # What is flagged says something of the pulses, whichever way the rate is measured.
        by_period = ~beyond[np.searchsorted(gate.time_s, period.time_s)] | (
            (period.flag != Status.OK) & ~np.isin(period.time_s, gate.time_s[by_gate])
        )
        return _merged(_picked(period, by_period), _picked(gate, by_gate)), after

    def _beyond(
        self, rate: FloatArray, timing_s: FloatArray | float, was: bool
    ) -> npt.NDArray[np.bool_]:
        """Whether gates doubt less than periods, from before the block on and after each gate.

        It takes a pulse more a gate than the crossing to say so, and one less to take it back: the
        pulse more or less that every gate may count does not change the way.
        """
        with np.errstate(divide="ignore"):
            crossing = np.sqrt(COUNT_U / (PERIOD_U * self.gate_s * np.asarray(timing_s)))
        one = 1.0 / self.gate_s
        said = np.where(rate > crossing + one, 1, np.where(rate < crossing - one, 0, -1))
        said = np.concatenate(([int(was)], said))
        known = np.maximum.accumulate(np.where(said >= 0, np.arange(len(said)), 0))
        is_beyond: npt.NDArray[np.bool_] = said[known] == 1
        return is_beyond

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample; a gate that closed before the edge of a line comes earlier."""
        if self.method != "auto":
            return entering[0]
        period, gate, edges = entering
        beyond, timing = code.state("is_beyond", 0.0, Kind.FLAG), code.state("timing", 0.0)
        at_once = code.let("at_once", gate.at.is_(edges.at))
        fresh = edges.lanes[TIMING].value
        near = code.let("near", pick(edges.comes & at_once, fresh, timing))
        code.set(timing, pick(edges.comes, fresh, timing))
        was = code.variable("was_beyond", beyond)
        good = code.let("is_good", gate.ok)
        with code.when(gate.comes):
            crossing = code.variable("crossing", math.inf)
            with code.when(near > 0.0):
                code.set(crossing, root(COUNT_U / (PERIOD_U * self.gate_s) / near))
            rate = code.let("told", pick(good, size(gate.value), 0.0))
            one = 1.0 / self.gate_s
            code.set(beyond, (rate > crossing + one) | (beyond & ~(rate < crossing - one)))
        by_gate = code.let("by_gate", gate.comes & was & good)
        counts = pick(gate.comes & at_once, was, beyond)
        flagged = ~period.ok & ~(by_gate & at_once)
        by_period = code.let("by_period", period.comes & (~counts | flagged))
        told_by_gate = Emitted(gate.lanes, gate.at, by_gate)
        return Emitted(
            (
                EmittedLane(
                    pick(by_period, period.value, gate.value),
                    pick(by_period, period.status, gate.status),
                ),
            ),
            pick(by_period, period.at, gate.at),
            by_period | by_gate,
            replace(told_by_gate, is_new=by_gate & by_period),
        )

    def explain(self, state: State, *readings: Reading) -> Step:
        """Which of both it is, and why."""
        if self.method != "auto":
            return self._chosen(readings[0])
        period, gate, edges = readings
        timing_s = edges.lanes[TIMING].value
        was_timing_s, was_beyond = state
        if math.isnan(timing_s):
            timing_s = was_timing_s
        crossing = crossing_hz(timing_s, self.gate_s)
        is_gate = was_beyond and not math.isnan(gate.value)
        why = f"they cross at {prefixed(crossing, 'Hz')}" if timing_s > 0.0 else ""
        return self._step(gate if is_gate else period, _BY_GATE if is_gate else _BY_PERIOD, why)

    def _chosen(self, reading: Reading) -> Step:
        way = _BY_GATE if self.method == "gate" else _BY_PERIOD
        return self._step(reading, way, "chosen by hand")

    @staticmethod
    def _step(taken: Reading, way: str, why: str) -> Step:
        lane = taken.lanes[0]
        return Step(
            stage=BetterRate.name,
            label="the better way",
            sign="⇒",
            operand=Operand(None, "", 0.0, way),
            formula="the smaller of f·t·√(2/3) and 1/(√6·f·T)",
            filled=f"{way}; {why}" if why else way,
            value=lane.value,
            quantity=FREQUENCY,
            status=lane.status,
            components=lane.components,
            source="rectangular doubt of both edges, triangular of the count; JCGM 100 §4.3",
            below=why,
        )


def _picked(signal: Signal, places: np.ndarray) -> Signal:
    return replace(
        signal,
        time_s=signal.time_s[places],
        values=signal.values[:, places],
        status=signal.status[:, places],
    )


def _merged(one: Signal, other: Signal) -> Signal:
    """Two signals in the order of their times; the first first where they are the same."""
    if len(other) == 0:
        return one
    places = np.searchsorted(one.time_s, other.time_s, side="right")
    return replace(
        one,
        time_s=np.insert(one.time_s, places, other.time_s),
        values=np.insert(one.values, places, other.values, axis=1),
        status=np.insert(one.status, places, other.status, axis=1),
    )
