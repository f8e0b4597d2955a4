"""Two ways to measure a rate, and at every moment the one that doubts less."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.edges import TIMING
from tickstone.core.quantity import FREQUENCY, Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.gate_rate import COUNT_U
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

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
        crossing, of the gates those above it. `period` and `gate` take that one, whatever it costs.
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
        period, gate, edges = signals
        (timing_s,) = state
        timing = edges.values[TIMING]
        after = (float(timing[-1]),) if len(timing) else state
        if self.method == "period":
            return period, after
        if self.method == "gate":
            return gate, after
        places = np.searchsorted(edges.time_s, gate.time_s, side="right") - 1
        near = np.where(places >= 0, timing[places], timing_s) if len(timing) else timing_s
        by_period = ~(period.value > self._crossings(timing))
        by_gate = gate.value > self._crossings(np.broadcast_to(near, gate.time_s.shape))
        both = [_picked(period, by_period), _picked(gate, by_gate & (gate.flag == Status.OK))]
        time_s = np.concatenate([one.time_s for one in both])
        order = np.argsort(time_s, kind="stable")
        return (
            Signal(
                time_s[order],
                np.concatenate([one.values for one in both], axis=1)[:, order],
                np.concatenate([one.status for one in both], axis=1)[:, order],
                FREQUENCY,
                edges.until_s,
            ),
            after,
        )

    def _crossings(self, timing_s: FloatArray) -> FloatArray:
        with np.errstate(divide="ignore"):
            return np.sqrt(COUNT_U / (PERIOD_U * np.asarray(timing_s) * self.gate_s))

    def explain(self, state: State, *readings: Reading) -> Step:
        """Which of both it is, and why."""
        period, gate, edges = readings
        timing_s = edges.lanes[TIMING].value
        if math.isnan(timing_s):
            (timing_s,) = state
        crossing = crossing_hz(timing_s, self.gate_s)
        is_gate = self.method == "gate" or (
            self.method == "auto"
            and (math.isnan(period.value) or period.value > crossing)
            and not math.isnan(gate.value)
        )
        taken = gate if is_gate else period
        way = "counted in a gate" if is_gate else "one period"
        why = {
            "auto": f"they cross at {prefixed(crossing, 'Hz')}" if timing_s > 0.0 else "",
            "period": "chosen by hand",
            "gate": "chosen by hand",
        }[self.method]
        lane = taken.lanes[0]
        return Step(
            stage=self.name,
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
