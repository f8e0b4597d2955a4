"""A machine on a live line: only what is new is run, from where it stood before."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from tickstone.core.chain import Chain, States
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import Place, Runner
from tickstone.core.machines.together import put_together
from tickstone.core.signal import Gathering, Signal
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.ring import Ring

MOST_VISITS = 400


@dataclass(frozen=True, slots=True)
class LiveVisit:
    """A state that was entered, when on the line's clock, and why."""

    from_s: float
    state: int
    cause: int


@dataclass(slots=True)
class LiveMachine:
    """What becomes of a machine on a line. sensors: what feeds each of its own inputs.

    unheard: names of the inputs of which the line holds nothing. restarts: how often what came was
    gone before it was looked at, so that it had to begin anew. newest: the last of each input.
    """

    machine: Machine
    sensors: Mapping[str, LiveSensor]
    visits: deque[LiveVisit] = field(default_factory=lambda: deque(maxlen=MOST_VISITS))
    newest: dict[str, tuple[float, float, int]] = field(default_factory=dict)
    restarts: int = 0
    until_s: float = 0.0
    _runner: Runner = field(init=False)
    _chains: dict[str, tuple[Chain, str]] = field(init=False, default_factory=dict)
    _states: dict[str, States] = field(init=False, default_factory=dict)
    _tails: dict[str, Signal] = field(init=False, default_factory=dict)
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
            given = self.sensors[name].signals(fresh)
            results, self._states[name] = chain.run(self._states[name], given)
            signals[name] = results[node]
            if len(results[node]):
                last = results[node]
                self.newest[name] = (
                    float(last.time_s[-1]), float(last.value[-1]), int(last.flag[-1]),
                )  # fmt: skip
        heard = self._heard(signals)
        entered, self._place = self._runner.run(self._place, heard, until_s)
        for n in range(len(entered)):
            self.visits.append(
                LiveVisit(float(entered.from_s[n]), int(entered.state[n]), int(entered.cause[n]))
            )
        self.until_s = until_s
        self._next = fresh.first + len(fresh)

    def _begin(self, at_s: float) -> None:
        self._place = self._runner.begin(at_s)
        self._states = {name: chain.begin() for name, (chain, _) in self._chains.items()}
        self._tails = {}
        self.visits.append(LiveVisit(at_s, self.machine.place_of(self.machine.start), -1))

    def _heard(self, signals: Mapping[str, Signal]) -> dict[str, Signal]:
        """Every input in the block; those put together know what was said last before it."""
        heard = dict(signals)
        for one in self.machine.inputs:
            if not one.together:
                continue
            longest = {each.name: each.longest_s for each in self.machine.inputs}
            parts = [self._with_tail(name, signals[name]) for name in one.of]
            made = put_together(parts, [longest[name] for name in one.of], one.together, one.us)
            begins = min(
                (signals[name].time_s[0] for name in one.of if len(signals[name])),
                default=np.inf,
            )
            first = int(np.searchsorted(made.signal.time_s, begins))
            heard[one.name] = made.signal.between(first, len(made.signal), made.signal.until_s)
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
