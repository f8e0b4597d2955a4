"""What filters that go lane by lane, sample after sample, have in common."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Name, Term, is_number
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

BUDGET_SAYS = "The budget is kept as for one reading, which is on the safe side."


class LaneFilter:
    """A filter of any quantity: flagged samples are neither used nor changed.

    fresh: the state of a lane before anything came. State: one such for each lane.
    """

    __slots__ = ()
    own_times: ClassVar[bool] = False
    name: ClassVar[str]
    label: ClassVar[str]
    formula: ClassVar[str]
    source: ClassVar[str]
    sign: ClassVar[str] = "∿"
    fresh: ClassVar[tuple[float, ...]] = ()

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """Write over the good values of one lane; the state after. good: True where good."""
        raise NotImplementedError

    def operand(self) -> Operand:
        """What it is set to."""
        raise NotImplementedError

    def note(self) -> str:
        """By how much it is late."""
        return ""

    def filled(self, state: State, reading: Reading, told: float) -> str:
        """Its formula with the numbers of one good reading. state: as it was before."""
        said = reading.quantity.said
        return f"{said(reading.value, 3)} → {said(told, 3)}"

    def gives(self, *taken: Quantity) -> Quantity:
        """The same quantity."""
        return taken[0]

    def begin(self) -> State:
        """Nothing yet; as many lanes as the first block has."""
        return ()

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """Every lane."""
        signal = signals[0]
        values = np.ascontiguousarray(signal.values).copy()
        time_s = np.ascontiguousarray(signal.time_s)
        after = []
        for place in range(len(values)):
            before = state[place] if place < len(state) else self.fresh
            good = (signal.status[place] == Status.OK) & ~np.isnan(values[place])
            after.append(tuple(self.lane(values[place], good, time_s, before)))
        return signal.replaced(values), tuple(after)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample of every lane."""
        flow, lanes = entering[0], []
        for lane in flow.lanes:
            value = code.variable("value", lane.value)
            with code.when(lane.ok & is_number(lane.value)):
                self.emit_lane(code, value, flow.at)
            lanes.append(EmittedLane(value, lane.status))
        return flow.of(*lanes)

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same as `lane` for one good sample. value: what it is, and is to become."""
        raise NotImplementedError

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        told = self.run(state, one_sample(reading))[0]
        lanes = [
            replace(lane, value=float(value))
            for lane, value in zip(reading.lanes, told.values[:, 0], strict=True)
        ]
        is_good = reading.status == Status.OK
        return Step(
            stage=self.name,
            label=self.label,
            sign=self.sign,
            operand=self.operand(),
            formula=self.formula,
            filled=(
                self.filled(state, reading, lanes[0].value)
                if is_good
                else "flagged: passed on as it is"
            ),
            value=lanes[0].value,
            quantity=reading.quantity,
            status=reading.status,
            components=lanes[0].components,
            source=self.source,
            note=f"{self.note()} {BUDGET_SAYS}".strip(),
            others=tuple(lanes[1:]),
        )


def recent_of(
    values: FloatArray, good: Any, earlier: tuple[float, ...], n: int
) -> tuple[FloatArray, int, tuple[float, ...]]:
    """The good values with those before them, how many these were, and the n − 1 last of all."""
    fresh = values[good]
    recent = np.concatenate((np.array(earlier, dtype=np.float64), fresh))
    keep = recent[max(0, len(recent) - n + 1) :] if n > 1 else recent[:0]
    return recent, len(earlier), tuple(keep.tolist())


def fading(good: Any, time_s: FloatArray, last_s: float, over_s: float) -> tuple[FloatArray, float]:
    """Share of each good sample in a mean that fades over so long, 1 − e^(−dt/τ), 0 elsewhere; and
    the time of the last good one. last_s: of the one before; NaN where there was none.

    >>> share, last_s = fading(np.array([True, False, True]), np.array([0.0, 1.0, 2.0]), -1.0, 1.0)
    >>> share.round(3).tolist(), last_s
    ([0.632, 0.0, 0.865], 2.0)
    """
    share = np.zeros(len(time_s))
    times = time_s[good]
    if times.size:
        dt_s = np.diff(times, prepend=times[0] if math.isnan(last_s) else last_s)
        share[good] = -np.expm1(-dt_s / over_s)
        last_s = float(times[-1])
    return share, last_s
