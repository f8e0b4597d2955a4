"""A gap of two or three where one was to be expected: a pulse was not heard."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.edges import COUNT, EDGES, GAP
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step

_NEAR_A_WHOLE = 0.3
_MOST_MISSED = 2
_SLOWING = 1.25


@dataclass(frozen=True, slots=True)
class MissedPulse:
    """Edges to edges. A gap near two or three times the shorter of the two before it is flagged,
    unless those say that it is slowing down anyway; the count takes the lost pulses in.

    is_on: False lets everything through.
    State: the last two good gaps, s, the last one last, and how many pulses were lost so far.

    >>> from tickstone.core.stages.time_edges import TimeEdges
    >>> times = [0, 1, 2, 3, 5, 6]
    >>> edges, _ = TimeEdges(0.0).run((None, (None, 0.0)), Signal.of(times, times))
    >>> found, _ = MissedPulse().run(MissedPulse().begin(), edges)
    >>> found.flag.tolist(), found.values[1].tolist()
    ([8, 0, 0, 0, 10, 0], [1.0, 2.0, 3.0, 4.0, 6.0, 7.0])
    """

    name: ClassVar[str] = "missed"
    own_times: ClassVar[bool] = False

    is_on: bool = True

    def gives(self, *taken: Quantity) -> Quantity:
        """Edges."""
        return EDGES

    def begin(self) -> State:
        """No gaps yet."""
        return (float("nan"), float("nan"), 0.0)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The block, with gaps flagged that a lost pulse made."""
        edges = signals[0]
        if not self.is_on:
            return edges, state
        older, last, lost = state
        good = np.flatnonzero(edges.status[GAP] == Status.OK)
        gap = np.concatenate(([older, last], edges.values[GAP, good]))
        times = self._times(gap[2:], gap[1:-1], gap[:-2])
        after = (float(gap[-2]), float(gap[-1]), lost + float((times - 1.0).sum()))
        if lost == 0.0 and not (times > 1.0).any():
            return edges, after
        values = np.array(edges.values, order="C")
        extra = np.zeros(len(edges))
        extra[good] = times - 1.0
        values[COUNT] += lost + np.cumsum(extra)
        status = np.array(edges.status, order="C")
        status[GAP] = flagged(status[GAP], good[times > 1.0], Status.MISSED_PULSE)
        return Signal(edges.time_s, values, status, EDGES, edges.until_s), after

    @staticmethod
    def _times(gap: FloatArray, last: FloatArray, older: FloatArray) -> FloatArray:
        """How many gaps each stands for: 1, or 2 or 3 when pulses were lost."""
        usual = np.fmin(last, older)
        with np.errstate(invalid="ignore", divide="ignore"):
            ratio = gap / usual
            whole = np.rint(ratio)
            is_missed = (
                (whole >= 2.0)
                & (whole <= 1.0 + _MOST_MISSED)
                & (np.abs(ratio - whole) <= _NEAR_A_WHOLE)
                & ~(last > _SLOWING * older)
                & ~np.isnan(older)
            )
        return np.where(is_missed, whole, 1.0)

    def explain(self, state: State, *readings: Reading) -> Step:
        """Whether one gap is that of several pulses."""
        older, last, lost = state
        gap, count, timing = readings[0].lanes
        times = 1.0
        if self.is_on and gap.status == Status.OK:
            one = [np.array([x]) for x in (gap.value, last, older)]
            times = float(self._times(*one)[0])
        status = Status.MISSED_PULSE if times > 1.0 else gap.status
        usual = np.fmin(last, older)
        filled = (
            f"{gap.value / usual:.2f} times {prefixed(float(usual), 's', 4)}"
            if self.is_on and usual > 0.0 and gap.value == gap.value
            else "nothing to compare with"
        )
        return Step(
            stage=self.name,
            label="none missed" if self.is_on else "not looked at",
            sign="∈",
            operand=Operand(None, "", 0.0, "one gap"),
            formula="a gap of two or three is a pulse not heard",
            filled=filled,
            value=gap.value,
            quantity=EDGES,
            status=status,
            components=gap.components,
            source="common practice",
            note=status.remark,
            others=(Lane(count.value + lost + times - 1.0, count.status), timing),
        )
