"""Raw recordings kept in memory for a while: they never change, and every view needs them."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.families.ultrasonic_ranger import RangerParameters, ranger_chain
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.store.models import Recording
from tickstone.store.recordings import read_echo_signal

_MOST_BYTES = 512 * 1024 * 1024
_MOST_COUNTS = 1_000


@dataclass(slots=True)
class EchoCache:
    """The recordings looked at last, up to a bounded size, and their counts by status."""

    _signals: OrderedDict[int, Signal] = field(default_factory=OrderedDict)
    _counts: OrderedDict[tuple[int, RangerParameters, AirConditions], dict[Status, int]] = field(
        default_factory=OrderedDict
    )
    _lock: Lock = field(default_factory=Lock)

    def echo(self, session: Session, recording: Recording) -> Signal:
        """The raw echoes of a recording, from memory or from the store."""
        with self._lock:
            if recording.id in self._signals:
                self._signals.move_to_end(recording.id)
                return self._signals[recording.id]
        signal = read_echo_signal(session, recording)
        with self._lock:
            self._signals[recording.id] = signal
            while len(self._signals) > 1 and self._size() > _MOST_BYTES:
                self._signals.popitem(last=False)
        return signal

    def counts(
        self, session: Session, recording: Recording, parameters: RangerParameters
    ) -> dict[Status, int]:
        """How many samples of a recording have each status, in the air it was recorded in."""
        key = (recording.id, parameters, recording.air)
        with self._lock:
            if key in self._counts:
                return self._counts[key]
        chain = ranger_chain(parameters, recording.air).before("median")
        counts = count_statuses(chain.apply(self.echo(session, recording)))
        with self._lock:
            self._counts[key] = counts
            while len(self._counts) > _MOST_COUNTS:
                self._counts.popitem(last=False)
        return counts

    def _size(self) -> int:
        return sum(signal.values.nbytes * 2 for signal in self._signals.values())


def count_statuses(signal: Signal) -> dict[Status, int]:
    """How many samples have each status; statuses without any are left out."""
    codes, numbers = np.unique(signal.status, return_counts=True)
    return {Status(int(c)): int(n) for c, n in zip(codes, numbers, strict=True)}


def rate_hz(samples: int, duration_s: float) -> float:
    """Readings per second over a recording; 0 when it has no length.

    >>> rate_hz(21, 1.0)
    20.0
    """
    return (samples - 1) / duration_s if samples > 1 and duration_s > 0 else 0.0
