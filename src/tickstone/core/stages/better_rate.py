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

    method: `auto` takes the one with the smaller relative doubt: of the periods those below the
        crossing, of the gates those above it. With `period` and `gate` that one alone goes in, and
        is taken whatever it costs.
    gate_s: how long a gate is open, s.
    State: the timing doubt of the last edge, s.

    >>> stage = BetterRate("auto", 1.0)
    >>> stage.name
    'better'
    """

    name: ClassVar[str] = "better"
    own_times: ClassVar[bool] = True

    method: Method
    gate_s: float

    def gives(self, *taken: Quantity) -> Quantity:
        """A frequency."""
        return FREQUENCY

    def begin(self) -> State:
        """No edge yet."""
        return (0.0,)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The better of both over the block."""
        if self.method != "auto":
            return signals[0], state
        period, gate, edges = signals
        (timing_s,) = state
        timing = edges.values[TIMING]
        after = (float(timing[-1]),) if len(timing) else state
        # What is flagged says something of the pulses, whichever way the rate is measured.
        by_period = ~self._is_beyond(period.value, timing) | (period.flag != Status.OK)
        kept = period if by_period.all() else _picked(period, by_period)
        places = np.searchsorted(edges.time_s, gate.time_s, side="right") - 1
        near = np.where(places >= 0, timing[places], timing_s) if len(timing) else timing_s
        by_gate = self._is_beyond(gate.value, near) & (gate.flag == Status.OK)
        return _merged(kept, _picked(gate, by_gate)), after

    def _is_beyond(self, rate: FloatArray, timing_s: FloatArray | float) -> npt.NDArray[np.bool_]:
        """Whether the gate doubts less than the period, see `crossing_hz`."""
        limit = COUNT_U / (PERIOD_U * self.gate_s)
        is_beyond: npt.NDArray[np.bool_] = rate * rate * timing_s > limit
        return is_beyond

    def explain(self, state: State, *readings: Reading) -> Step:
        """Which of both it is, and why."""
        if self.method != "auto":
            return self._chosen(readings[0])
        period, gate, edges = readings
        timing_s = edges.lanes[TIMING].value
        if math.isnan(timing_s):
            (timing_s,) = state
        crossing = crossing_hz(timing_s, self.gate_s)
        is_gate = (math.isnan(period.value) or abs(period.value) > crossing) and not math.isnan(
            gate.value
        )
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
