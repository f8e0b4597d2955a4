"""An amount in, a decision out: two thresholds with a dead band, and what silence means."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import is_among, pick, size, term
from tickstone.core.emit.timing import Heard, settled_of
from tickstone.core.quantity import Quantity
from tickstone.core.settling import settled
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

CALM, ALARM, BLIND = 0, 1, 2
Mask = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Words:
    """What the two thresholds are called, such as “stop” and “go again”. letter: in the formula."""

    alarm: str
    calm: str
    letter: str = "x"


@dataclass(frozen=True, slots=True)
class TwoThresholds:
    """Alarm beyond one threshold, calm again beyond the other; in between the last decision stands,
    so a reading on the edge cannot dither.

    alarm_at, calm_at: in the unit of what enters. Alarm is below `alarm_at` when that is the
        smaller, above it when it is the larger.
    decision: the states it gives: calm, alarm, blind.
    blind_after_s: s without any evidence after which the decision is blind; None: never.
    alarm_status, calm_status: flagged samples that are evidence all the same.
    dwell_s: s for which a new decision has to stand before it counts.
    is_either_way: whether the value counts without its sign.
    Before the first evidence the decision is alarm.

    Raises ValueError when the two are the same, or no numbers.

    >>> from tickstone.core.quantity import DecisionState as Can
    >>> decision = Quantity("way", "", states=(Can("go", "go"), Can("stop", "stop")))
    >>> stage = TwoThresholds(0.42, 0.50, decision, Words("stop", "go again"))
    >>> distance = Signal.of([0, 0.05, 0.1, 0.15], [0.6, 0.45, 0.4, 0.45])
    >>> stage.run(stage.begin(), distance)[0].value.tolist()
    [0.0, 0.0, 1.0, 1.0]
    """

    name: ClassVar[str] = "threshold"
    own_times: ClassVar[bool] = False

    alarm_at: float
    calm_at: float
    decision: Quantity
    words: Words
    blind_after_s: float | None = None
    alarm_status: tuple[Status, ...] = ()
    calm_status: tuple[Status, ...] = ()
    dwell_s: float = 0.0
    is_either_way: bool = False

    def __post_init__(self) -> None:
        if not abs(self.alarm_at - self.calm_at) > 0.0:
            raise ValueError(
                f"{self.words.alarm} at {self.alarm_at:g} and {self.words.calm} at "
                f"{self.calm_at:g} leave no band between"
            )

    @property
    def is_below(self) -> bool:
        """Whether the alarm lies below its threshold."""
        return self.alarm_at < self.calm_at

    def gives(self, *taken: Quantity) -> Quantity:
        """The decision."""
        return self.decision

    def begin(self) -> State:
        """Last evidence, when it last heard anything, the decision that counts, and the one that
        waits with the time since when: nothing of it yet.
        """
        return (None, None, None, None, None)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The decision at each sample."""
        signal = signals[0]
        if len(signal) == 0:
            empty = np.empty((1, 0))
            return signal.replaced(empty, np.empty((1, 0), np.uint8), self.decision), state
        verdict, heard_s, counts, waits, since_s = state
        time_s = signal.time_s
        alarm, calm = self._evidence(signal)
        hears = alarm | calm | signal.ok
        start_s = float(time_s[0]) if heard_s is None else heard_s
        places = np.maximum.accumulate(np.where(hears, np.arange(len(signal)), -1))
        heard = np.where(places >= 0, time_s[places], start_s)
        blind = (
            (time_s - heard > self.blind_after_s)
            if self.blind_after_s is not None
            else np.zeros(len(signal), dtype=np.bool_)
        )
        told = np.maximum.accumulate(
            np.where(alarm | calm | blind, np.arange(len(signal)), -1), dtype=np.int64
        )
        first = float(ALARM) if verdict is None else verdict
        evidence = np.where(told >= 0, np.where((alarm | blind)[told], ALARM, CALM), first)
        decision = np.where(blind, float(BLIND), evidence)
        decided, kept = settled(decision, time_s, self.dwell_s, (counts, waits, since_s))
        last = float(evidence[-1]) if told[-1] >= 0 else verdict
        return (
            signal.replaced(decided[np.newaxis, :], signal.status[:1], self.decision),
            (last, float(heard[-1]), *kept),
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = flow.lanes[0]
        alarm_at = code.constant("alarm_at", self.alarm_at, None, None, self.words.alarm)
        calm_at = code.constant("calm_at", self.calm_at, None, None, self.words.calm)
        value = size(first.value) if self.is_either_way else first.value
        below, above = (
            (value < alarm_at, value > calm_at)
            if self.is_below
            else (value < calm_at, value > alarm_at)
        )
        alarm, calm = (below, above) if self.is_below else (above, below)
        alarm = code.let("is_alarm", (first.ok & alarm) | is_among(first.status, self.alarm_status))
        calm = code.let("is_calm", (first.ok & calm) | is_among(first.status, self.calm_status))
        evidence = code.state("evidence", float(ALARM))
        heard = Heard(code, alarm | calm | first.ok, flow.at)
        blind = term(False)
        if self.blind_after_s is not None:
            blind = code.let("is_blind", heard.is_older_than(self.blind_after_s))
        code.set(
            evidence,
            pick(alarm | blind, float(ALARM), pick(calm, float(CALM), evidence)),
        )
        decision = code.let("decision", pick(blind, float(BLIND), evidence))
        return flow.of(first.of(settled_of(code, decision, flow.at, self.dwell_s)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """The decision at one sample, from all that went before it."""
        reading = readings[0]
        here = Signal.of([reading.time_s], [reading.value], reading.quantity, [int(reading.status)])
        code = float(self.run(state, here)[0].value[0])
        said, typed = reading.quantity.said, reading.quantity.typed
        side, other = ("below", "above") if self.is_below else ("above", "below")
        beyond_alarm, beyond_calm = self._beyond(np.array([reading.value]))
        if reading.status != Status.OK:
            filled = f"{reading.status.word}"
        elif beyond_alarm[0]:
            filled = f"{said(reading.value)} is {side} {typed(self.alarm_at)}"
        elif beyond_calm[0]:
            filled = f"{said(reading.value)} is {other} {typed(self.calm_at)}"
        else:
            filled = f"{said(reading.value)} lies in the band: the last decision stands"
        letter, less, more = self.words.letter, *(("<", ">") if self.is_below else (">", "<"))
        alarm, calm = self.decision.states[ALARM].word, self.decision.states[CALM].word
        return Step(
            stage=self.name,
            label=f"{self.words.alarm} {side} {typed(self.alarm_at)}",
            sign="→",
            operand=Operand(None, "", 0.0, f"{self.words.calm} {other} {typed(self.calm_at)}"),
            formula=(
                f"{alarm} if {letter} {less} {self.words.alarm}; "
                f"{calm} if {letter} {more} {self.words.calm.split()[0]}; else as before"
            ),
            filled=filled,
            value=code,
            quantity=self.decision,
            status=reading.status,
            components=(),
            source="threshold with hysteresis; common practice",
            note=self.decision.states[int(code)].word,
        )

    def _beyond(self, values: FloatArray) -> tuple[Mask, Mask]:
        if self.is_either_way:
            values = np.abs(values)
        if self.is_below:
            return values < self.alarm_at, values > self.calm_at
        return values > self.alarm_at, values < self.calm_at

    def _evidence(self, signal: Signal) -> tuple[Mask, Mask]:
        ok, flag = signal.ok, signal.flag
        alarm, calm = self._beyond(signal.value)
        alarm, calm = ok & alarm, ok & calm
        for status in self.alarm_status:
            alarm |= flag == status
        for status in self.calm_status:
            calm |= flag == status
        return alarm, calm
