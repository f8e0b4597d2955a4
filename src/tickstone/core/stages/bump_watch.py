"""Bumps: what is felt jumps away from what it has been."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import Kind, faded, is_number, pick, seconds_between, size
from tickstone.core.emit.timing import fading_share
from tickstone.core.loops.smoothing import exponential
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.signal import Signal
from tickstone.core.smoothing import fading
from tickstone.core.step import Operand, Reading, Step

BUMP = Quantity(
    "bump",
    "",
    states=(DecisionState("calm", "calm"), DecisionState("bump", "bump", is_alarm=True)),
)


@dataclass(frozen=True, slots=True)
class BumpWatch:
    """A bump where x is more than `above` off its own mean, and for `hold_s` after the last such.

    above: in the unit of what enters. over_s: the mean fades over so long, s.
    State: the mean, the time of the last good sample, and that of the last jump.

    Raises ValueError unless all are above 0.

    >>> felt = Signal.of(np.arange(5) * 0.1, [9.8, 9.8, 15.0, 9.8, 9.8])
    >>> stage = BumpWatch(3.0, 1.0, 0.1)
    >>> stage.run(stage.begin(), felt)[0].value.tolist()
    [0.0, 0.0, 1.0, 1.0, 0.0]
    """

    name: ClassVar[str] = "bump"
    own_times: ClassVar[bool] = False

    above: float
    over_s: float
    hold_s: float

    def __post_init__(self) -> None:
        if not min(self.above, self.over_s, self.hold_s) > 0.0:
            raise ValueError("a bump is above 0, off a mean over some time, and held for some time")

    def gives(self, *taken: Quantity) -> Quantity:
        """Calm, or a bump."""
        return BUMP

    def begin(self) -> State:
        """Nothing felt."""
        return (math.nan, math.nan, -math.inf)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """At every sample."""
        signal = signals[0]
        mean, last_s, jumped_s = state
        values = signal.value
        good = signal.ok & ~np.isnan(values)
        places = np.flatnonzero(good)
        share, last_s = fading(good, signal.time_s, last_s, self.over_s)
        means, kept = np.ascontiguousarray(values).copy(), np.array([mean])
        exponential(means, good, share, kept)
        # Off the mean before it: one jump does not hide itself in its own mean.
        before = np.empty(len(places))
        if places.size:
            first = values[places[0]] if math.isnan(mean) else mean
            before = np.concatenate(([first], means[places][:-1]))
        jumped = np.zeros(len(signal), dtype=np.bool_)
        jumped[places] = np.abs(values[places] - before) > self.above
        at = np.maximum.accumulate(np.where(jumped, np.arange(len(signal)), -1))
        since = np.where(at >= 0, signal.time_s[np.maximum(at, 0)], jumped_s)
        told = (signal.time_s - since <= self.hold_s * (1.0 + 1e-9)).astype(np.float64)
        after = (float(kept[0]), last_s, float(since[-1]) if len(since) else jumped_s)
        return signal.replaced(told[None], signal.status[:1], BUMP), after

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = flow.lanes[0]
        mean, last = code.state("mean"), code.state("last_us", 0.0, Kind.CLOCK)
        jumped = code.state("has_jumped", 0.0, Kind.FLAG)
        since = code.state("jumped_us", 0.0, Kind.CLOCK)
        with code.when(first.ok & is_number(first.value)):
            # Off the mean before it: one jump does not hide itself in its own mean.
            jump = is_number(mean) & (size(first.value - mean) > self.above)
            code.set(since, pick(jump, flow.at, since))
            code.set(jumped, jumped | jump)
            share = fading_share(code, flow.at, last, self.over_s)
            code.set(mean, faded(mean, share, first.value))
            code.set(last, flow.at)
        held = seconds_between(flow.at, since) <= self.hold_s * (1.0 + 1e-9)
        told = code.let("told", pick(jumped & held, 1.0, 0.0))
        # A jump of long ago is forgotten, so that the clock may wrap.
        code.set(jumped, jumped & held)
        return flow.of(first.of(told))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        place = int(self.run(state, one_sample(reading))[0].value[0])
        mean = state[0]
        off = reading.quantity.said(abs(reading.value - mean)) if mean == mean else "–"
        limit = reading.quantity.typed(self.above)
        return Step(
            stage=self.name,
            label="bump above",
            sign="→",
            operand=Operand(None, "", 0.0, limit),
            formula="bump if |x − mean| > limit; held for a while",
            filled=f"{off} off its mean, limit {limit}",
            value=float(place),
            quantity=BUMP,
            status=reading.status,
            components=(),
            source="a jump beyond the noise; common practice",
            note=BUMP.states[place].word,
        )
