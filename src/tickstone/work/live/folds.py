"""The chain of a sensor on a live line: only what is new is worked out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from tickstone.core.chain import Chain, States
from tickstone.core.signal import Gathering, Signal
from tickstone.core.step import Step
from tickstone.store.takes import Samples
from tickstone.work.live.ring import Ring, Stretch
from tickstone.work.sensing import Sensing
from tickstone.work.sources import RoleSource, signal_of

LONGEST_SHOWN_S = 130.0
"""Results older than this, before the newest, are of no use to any page."""


@dataclass(frozen=True)
class LiveSensor:
    """A sensor on a line: how it is set now, and which channels feed it."""

    sensor_id: int
    sensing: Sensing
    roles: tuple[RoleSource, ...]

    @property
    def channels(self) -> tuple[int, ...]:
        """All channels that feed it, the one it is shown at first."""
        return tuple(channel for role in self.roles for channel in role.channels)

    def signals(self, stretch: Stretch) -> dict[str, Signal]:
        """A stretch of the line as the chain takes it."""
        until_s = float(stretch.time_us[-1]) / 1e6 if len(stretch) else -np.inf
        return {
            role.role: signal_of(
                role,
                [
                    Samples(stretch.time_us, stretch.values[c], stretch.status[c].copy())
                    for c in role.channels
                ],
                0,
                until_s,
            )
            for role in self.roles
        }


@dataclass(slots=True)
class LiveFold:
    """What a sensor's chain gave on a line so far.

    The states before the last block that gave a result, and that block, are kept for its working.
    """

    sensor: LiveSensor
    _chain: Chain = field(init=False)
    _next: int = 0
    _states: States | None = None
    _tail: list[Signal] = field(default_factory=list)
    _last: tuple[States, Mapping[str, Signal]] | None = None

    def __post_init__(self) -> None:
        self._chain = self.sensor.sensing.chain()

    @property
    def channel(self) -> int:
        """Where it is shown."""
        return self.sensor.channels[0]

    def advance(self, ring: Ring) -> None:
        """Take in what came since. What left the ring unseen is a gap: the chain begins anew."""
        fresh = ring.since(self._next)
        if len(fresh) == 0:
            return
        chain = self._chain
        if self._states is None or fresh.first > self._next:
            self._states, self._tail, self._last = chain.begin(), [], None
        signals = self.sensor.signals(fresh)
        before = self._states
        results, self._states = chain.run(before, signals)
        self._next = fresh.first + len(fresh)
        shown = results[self._headline]
        if len(shown):
            self._last = (before, signals)
            self._tail.append(shown)
        oldest_s = fresh.time_us[-1] / 1e6 - LONGEST_SHOWN_S
        while self._tail and self._tail[0].until_s < oldest_s:
            del self._tail[0]

    def since(self, time_s: float) -> Signal:
        """The headline from a time on."""
        late = [one for one in self._tail if one.until_s >= time_s]
        if not late:
            chain = self._chain
            return Signal.of([], [], chain.quantity_of(self._headline))
        gathered = Gathering()
        for one in late:
            gathered.add(one)
        signal = gathered.done()
        return signal.between(int(np.searchsorted(signal.time_s, time_s)), len(signal))

    def working(self) -> tuple[Step, ...]:
        """The working of the newest headline, and what is decided on it."""
        if self._last is None:
            return ()
        states, signals = self._last
        chain = self._chain
        results, _ = chain.run(states, signals)
        node = self._headline
        for rule in self._decided:
            # What is decided on something else has a working of its own.
            is_on_it = any(one.name == node for one in chain.path_to(rule))
            if is_on_it and len(results[rule]) == len(results[node]):
                node = rule
                break
        return chain.explain(signals, len(results[node]) - 1, node, states)

    @property
    def _headline(self) -> str:
        kind = self.sensor.sensing.kind
        return self._chain.node_of(kind.headline(self._chain).name)

    @property
    def _decided(self) -> list[str]:
        """The nodes that its rules are."""
        kind = self.sensor.sensing.kind
        decisions = [rule.decision for rule in kind.rules]
        names = {one.name for one in kind.outputs if one.quantity in decisions}
        return [node for output, node in self._chain.outputs if output in names]
