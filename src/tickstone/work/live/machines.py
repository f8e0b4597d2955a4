"""A machine on a live line: only what is new is run, from where it stood before."""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import cast

import numpy as np

from tickstone.core.chain import Chain, States
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import AT_START, Place, Runner
from tickstone.core.machines.sight import Sight, deciders, sight_at
from tickstone.core.machines.together import Together
from tickstone.core.signal import Gathering, Signal
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.ring import Ring

MOST_VISITS = 400


@dataclass(frozen=True, slots=True)
class LiveVisit:
    """A state that was entered, when on the line's clock, and why. by: the inputs that decided."""

    from_s: float
    state: int
    cause: int
    by: tuple[str, ...] = ()


@dataclass(slots=True)
class LiveMachine:
    """What becomes of a machine on a line. sensors: what feeds each of its own inputs.

    unheard: names of the inputs of which the line holds nothing. restarts: how often what came was
    gone before it was looked at, so that it had to begin anew.
    """

    machine: Machine
    sensors: Mapping[str, LiveSensor]
    visits: deque[LiveVisit] = field(default_factory=lambda: deque(maxlen=MOST_VISITS))
    restarts: int = 0
    until_s: float = 0.0
    _runner: Runner = field(init=False)
    _chains: dict[str, tuple[Chain, str]] = field(init=False, default_factory=dict)
    _states: dict[str, States] = field(init=False, default_factory=dict)
    _tails: dict[str, Signal] = field(init=False, default_factory=dict)
    _seen: dict[str, Signal | Together] = field(init=False, default_factory=dict)
    _last: dict[str, tuple[States, Mapping[str, Signal]]] = field(init=False, default_factory=dict)
    _place: Place | None = None
    _next: int = 0

    def __post_init__(self) -> None:
        self._runner = Runner(self.machine)
        for one in self.machine.inputs:
            live = self.sensors.get(one.name)
            if live is None:
                continue
            chain = live.sensing.chain()
            given = dict(chain.outputs)
            if one.output in given:
                node = given[one.output]
                self._chains[one.name] = (chain.up_to(node), node)

    @property
    def unheard(self) -> Sequence[str]:
        """Inputs of which the line says nothing."""
        return [
            one.name
            for one in self.machine.inputs
            if not one.together and one.name not in self._chains
        ]

    @property
    def state(self) -> int:
        """Which state it is in."""
        return self.visits[-1].state if self.visits else self.machine.place_of(self.machine.start)

    def advance(self, ring: Ring) -> None:
        """Take in what came since."""
        if self.unheard:
            return
        fresh = ring.since(self._next)
        if len(fresh) == 0:
            return
        if self._place is None or fresh.first > self._next:
            self.restarts += self._place is not None
            self._begin(float(fresh.time_us[0]) / 1e6)
        assert self._place is not None
        until_s = float(fresh.time_us[-1]) / 1e6
        signals = {}
        for name, (chain, node) in self._chains.items():
            given, before = self.sensors[name].signals(fresh), self._states[name]
            results, self._states[name] = chain.run(before, given)
            signals[name] = results[node]
            if len(results[node]):
                self._last[name] = (before, given)
        heard = self._heard(signals)
        entered, self._place = self._runner.run(self._place, heard, until_s)
        for n in range(len(entered)):
            at_s, cause = float(entered.from_s[n]), int(entered.cause[n])
            by = deciders(self.machine.conditions[cause], self._sights(at_s)) if cause >= 0 else ()
            self.visits.append(LiveVisit(at_s, int(entered.state[n]), cause, tuple(by)))
        self.until_s = until_s
        self._next = fresh.first + len(fresh)

    def sights(self) -> list[Sight]:
        """What every input said last, each own reading with its doubt."""
        return [replace(one, u=self._doubt(one)) for one in self._sights(self.until_s).values()]

    def _sights(self, time_s: float) -> dict[str, Sight]:
        return {
            one.name: sight_at(one, self._seen[one.name], time_s)
            for one in self.machine.inputs
            if one.name in self._seen
        }

    def _doubt(self, seen: Sight) -> float:
        """Standard uncertainty of the newest of an input; NaN where it is not worked out."""
        if seen.name not in self._last or seen.word:
            return math.nan
        chain, node = self._chains[seen.name]
        states, given = self._last[seen.name]
        results, _ = chain.run(states, given)
        return chain.explain(given, len(results[node]) - 1, node, states)[-1].u

    def _begin(self, at_s: float) -> None:
        self._place = self._runner.begin(at_s)
        self._states = {name: chain.begin() for name, (chain, _) in self._chains.items()}
        self._tails, self._seen, self._last = {}, {}, {}
        self.visits.append(LiveVisit(at_s, self.machine.place_of(self.machine.start), AT_START))

    def _heard(self, signals: Mapping[str, Signal]) -> dict[str, Signal]:
        """Every input in the block; what each said last before it is known too."""
        heard = dict(signals)
        known = {name: self._with_tail(name, one) for name, one in signals.items()}
        made = self._runner.sources(known)
        self._seen = made
        for one in self.machine.inputs:
            if not one.together:
                continue
            begins = min(
                (signals[name].time_s[0] for name in one.of if len(signals[name])),
                default=np.inf,
            )
            whole = cast(Together, made[one.name]).signal
            first = int(np.searchsorted(whole.time_s, begins))
            heard[one.name] = whole.between(first, len(whole), whole.until_s)
        for name, signal in signals.items():
            if len(signal):
                self._tails[name] = signal.between(len(signal) - 1, len(signal))
        return heard

    def _with_tail(self, name: str, signal: Signal) -> Signal:
        """With the last sample before it in front."""
        tail = self._tails.get(name)
        if tail is None:
            return signal
        gathered = Gathering()
        gathered.add(tail)
        gathered.add(signal)
        return gathered.done()
