"""A ladder of thresholds: the nearer, the more lamps."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import Kind, is_number, pick
from tickstone.core.emit.timing import Heard
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

MOST_LAMPS = 8
LAMPS = Quantity(
    "lamps",
    "",
    states=(
        DecisionState("lamps_0", "no lamp"),
        DecisionState("lamps_1", "1 lamp"),
        *(DecisionState(f"lamps_{n}", f"{n} lamps") for n in range(2, MOST_LAMPS + 1)),
        DecisionState("blind", "blind", is_alarm=True),
    ),
)
_BLIND = MOST_LAMPS + 1


@dataclass(frozen=True, slots=True)
class Bands:
    """As many lamps as there are edges above the value; a lamp goes out only once the value is
    `band` beyond the edge it came on at, and comes on only that much below it.

    edges: rising. band: half the hysteresis, in the same unit. blind_after_s: without a measurement
    for longer, blind; until then as before. Blind, too, before the first.
    State: lamps that are on, None before any; when it last measured.

    >>> stage = Bands((0.1, 0.2, 0.3), 0.01, 1.0)
    >>> near = Signal.of([0, 1, 2, 3], [0.35, 0.295, 0.285, 0.305])
    >>> stage.run(stage.begin(), near)[0].value.tolist()
    [0.0, 0.0, 1.0, 1.0]
    """

    name: ClassVar[str] = "bands"
    own_times: ClassVar[bool] = False

    edges: tuple[float, ...]
    band: float
    blind_after_s: float

    def __post_init__(self) -> None:
        if not 1 <= len(self.edges) <= MOST_LAMPS:
            raise ValueError(f"a ladder has 1 to {MOST_LAMPS} steps")
        steps = np.diff(self.edges)
        if (steps <= 0.0).any():
            raise ValueError("the steps of a ladder have to rise")
        if len(steps) and not self.band < float(steps.min()) / 2.0:
            raise ValueError("the band has to be narrower than half a step")

    def gives(self, *taken: Quantity) -> Quantity:
        """How many lamps."""
        return LAMPS

    def begin(self) -> State:
        """None yet."""
        return (None, None)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """How many lamps at each sample."""
        signal = signals[0]
        n = len(signal)
        if n == 0:
            empty = np.empty((1, 0))
            return signal.replaced(empty, np.empty((1, 0), np.uint8), LAMPS), state
        lit, heard_s = state
        good = signal.ok & ~np.isnan(signal.value)
        value = np.where(good, signal.value, np.nan)
        first = np.flatnonzero(good)
        lamps = np.zeros(n)
        for place_of, edge in enumerate(self.edges):
            # Each lamp has its own two thresholds; what lies between keeps it as it was, and
            # before that it goes by the edge itself.
            told = np.flatnonzero((value < edge - self.band) | (value > edge + self.band))
            place = np.searchsorted(told, np.arange(n), side="right") - 1
            if lit is not None:
                was = lit >= len(self.edges) - place_of
            else:
                was = bool(first.size) and bool(value[first[0]] < edge)
            on = value[told[np.maximum(place, 0)]] < edge if told.size else np.zeros(n, np.bool_)
            lamps += np.where(place >= 0, on, was)
        places = np.maximum.accumulate(np.where(good, np.arange(n), -1))
        since = signal.time_s[0] if heard_s is None else heard_s
        heard = np.where(places >= 0, signal.time_s[places], since)
        result = np.where(signal.time_s - heard > self.blind_after_s, float(_BLIND), lamps)
        if lit is None:
            result[: first[0] if first.size else n] = _BLIND
        after = int(lamps[-1]) if lit is not None or good.any() else None
        return (
            signal.replaced(result[None], signal.status[:1], LAMPS),
            (after, float(heard[-1])),
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = flow.lanes[0]
        good = code.let("is_good", first.ok & is_number(first.value))
        has_begun = code.state("has_begun", 0.0, Kind.FLAG)
        heard = Heard(code, good, flow.at)
        lamps = code.variable("lamps", 0.0)
        for edge in self.edges:
            on = code.state("is_on", 0.0, Kind.FLAG)
            below = pick(
                has_begun, pick(first.value > edge + self.band, False, on), first.value < edge
            )
            code.set(on, pick(good, pick(first.value < edge - self.band, True, below), on))
            code.set(lamps, lamps + pick(on, 1.0, 0.0))
        code.set(has_begun, has_begun | good)
        blind = ~has_begun | heard.is_older_than(self.blind_after_s)
        return flow.of(first.of(pick(blind, float(_BLIND), lamps)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        here = Signal.of([reading.time_s], [reading.value], reading.quantity, [int(reading.status)])
        place = int(self.run(state, here)[0].value[0])
        count = len(self.edges)
        lit = 0 if place == _BLIND else place
        picture = "●" * lit + "○" * (count - lit)
        is_good = reading.status == Status.OK and math.isfinite(reading.value)
        value = reading.quantity.said(reading.value) if is_good else reading.status.word
        return Step(
            stage=self.name,
            label="lamps",
            sign="→",
            operand=Operand(None, "", 0.0, picture),
            formula="one for each step of the ladder that lies above",
            filled=f"{value}: {LAMPS.states[place].word}",
            value=float(place),
            quantity=LAMPS,
            status=reading.status,
            components=(),
            source="a ladder of thresholds with hysteresis; common practice",
        )
