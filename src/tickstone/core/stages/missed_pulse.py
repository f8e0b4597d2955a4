"""A gap of two or three where one was to be expected: a pulse was not heard."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.edges import COUNT, EDGES, GAP, TIMING, added_from
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import floor, is_number, pick, size
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step

_NEAR_A_WHOLE = 0.3
_MOST_MISSED = 2
_SLOWING = 1.25
_ENDS = 4.0
"""Two gaps have four ends: by so many doubts of an edge the two may differ with no pulse lost."""


@dataclass(frozen=True, slots=True)
class MissedPulse:
    """Edges to edges. A gap near two or three times the shorter of the two before it is flagged,
    unless those say that it is slowing down anyway, or edges are not known well enough to tell; the
    count takes the lost pulses in.

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
        return self.overwrite(state, signals[0].copied()) if self.is_on else (signals[0], state)

    def overwrite(self, state: State, signal: Signal) -> tuple[Signal, State]:
        """The same, in place."""
        if not self.is_on:
            return signal, state
        older, last, lost = state
        gap = signal.values[GAP]
        bad = (signal.status[GAP] != Status.OK).nonzero()[0]
        places = self._candidates(gap, bad)
        before = _good_before(gap, bad, np.append(places, len(gap)), (older, last))
        timing_s = signal.values[TIMING, places]
        times = self._times(gap[places], before[:-1, 1], before[:-1, 0], timing_s)
        is_lost = times > 1.0
        places, times = places[is_lost], times[is_lost]
        so_far = np.concatenate(([lost], lost + np.cumsum(times - 1.0)))
        if so_far[-1]:
            added_from(signal.values[COUNT], places, so_far)
        signal.status[GAP, places] = Status.MISSED_PULSE
        return signal, (float(before[-1, 0]), float(before[-1, 1]), float(so_far[-1]))

    @staticmethod
    def _candidates(gap: FloatArray, bad: npt.NDArray[np.intp]) -> npt.NDArray[np.intp]:
        """Where a good gap may be that of several pulses; hardly any is, and the rest is sure.

        What is flagged before a gap makes it a candidate, as the screen cannot look past it.
        """
        is_long = np.zeros(len(gap), dtype=np.bool_)
        is_long[:2] = True
        usual = np.minimum(gap[1:-1], gap[:-2])
        usual *= 2.0 - _NEAR_A_WHOLE
        np.greater(gap[2:], usual, out=is_long[2:])
        for near in (1, 2):
            behind = bad + near
            is_long[behind[behind < len(gap)]] = True
        is_long[bad] = False
        return is_long.nonzero()[0]

    @staticmethod
    def _times(
        gap: FloatArray, last: FloatArray, older: FloatArray, timing_s: FloatArray
    ) -> FloatArray:
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
                & (gap - usual > _ENDS * timing_s)
            )
        return np.where(is_missed, whole, 1.0)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        if not self.is_on:
            return entering[0]
        gap, count, timing = entering[0].lanes
        older, last, lost = code.state("older"), code.state("last"), code.state("lost", 0.0)
        usual = code.let("usual", pick(last < older, last, older))
        ratio = code.let("ratio", gap.value / usual)
        times = code.let("times", pick(ratio < 2.0 + _MOST_MISSED, floor(ratio + 0.5), 0.0))
        missed = code.let(
            "is_missed",
            gap.ok
            & is_number(older)
            & (times >= 2.0)
            & (times <= 1.0 + _MOST_MISSED)
            & (size(ratio - times) <= _NEAR_A_WHOLE)
            & ~(last > older * _SLOWING)
            & (gap.value - usual > timing.value * _ENDS),
        )
        code.set(lost, pick(missed, lost + times - 1.0, lost))
        code.set(older, pick(gap.ok, last, older))
        code.set(last, pick(gap.ok, gap.value, last))
        status = pick(missed, Status.MISSED_PULSE, gap.status)
        return entering[0].of(EmittedLane(gap.value, status), count.of(count.value + lost), timing)

    def explain(self, state: State, *readings: Reading) -> Step:
        """Whether one gap is that of several pulses."""
        older, last, lost = state
        gap, count, timing = readings[0].lanes
        times = 1.0
        if self.is_on and gap.status == Status.OK:
            one = [np.array([x]) for x in (gap.value, last, older, timing.value)]
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


def _good_before(
    gap: FloatArray,
    bad: npt.NDArray[np.intp],
    places: npt.NDArray[np.intp],
    earlier: tuple[float, float],
) -> FloatArray:
    """The last two good gaps before each place, shape (k, 2). earlier: those before the block."""
    found = np.empty((len(places), 2))
    rank = places - np.searchsorted(bad, places)
    gone = bad - np.arange(bad.size)
    for back, column in ((1, 1), (2, 0)):
        number = rank - back
        # Good gap number r stands at r and as many places on as bad ones come before it.
        at = number + np.searchsorted(gone, number, side="right")
        inside = number >= 0
        found[inside, column] = gap[at[inside]]
        # Before the block: -1 is the last good one there, -2 the one before it.
        found[~inside, column] = np.array(earlier)[2 + number[~inside]]
    return found
