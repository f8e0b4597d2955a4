"""Recordings kept in memory for a while, raw and measured: every look at one needs them."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from tickstone.core.chain import Chain
from tickstone.core.families.ultrasonic_ranger import RangerParameters, ranger_chain
from tickstone.core.finding import Finding
from tickstone.core.findings import signal_findings
from tickstone.core.signal import Signal
from tickstone.core.stages.stop_threshold import StopThreshold
from tickstone.core.status import Status
from tickstone.store.models import Recording
from tickstone.store.recordings import read_echo_signal

MOST_BYTES = 512 * 1024 * 1024
_SMALL = 1_024

Kept = TypeVar("Kept")


@dataclass(frozen=True, slots=True)
class Measured:
    """A recording after its chain: distances, how many samples have each status, findings."""

    distance: Signal
    counts: dict[Status, int]
    findings: tuple[Finding, ...]


@dataclass(slots=True)
class RecordingCache:
    """What was looked at last, up to a bounded size. Raw recordings never change, and a measured
    one is known by its recording and its whole chain, so nothing here can go out of date.
    """

    _kept: OrderedDict[Any, tuple[Any, int]] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def echo(self, session: Session, recording: Recording) -> Signal:
        """The raw echoes of a recording."""
        return self._get(
            recording.id,
            lambda: read_echo_signal(session, recording),
            lambda signal: 2 * signal.values.nbytes,
        )

    def measured(self, session: Session, recording: Recording, chain: Chain) -> Measured:
        """The recording after `chain`, which has to end in a distance."""

        def measure() -> Measured:
            distance = chain.apply(self.echo(session, recording))
            return Measured(distance, count_statuses(distance), tuple(signal_findings(distance)))

        return self._get(
            (recording.id, chain), measure, lambda measured: measured.distance.values.nbytes
        )

    def decided(
        self, session: Session, recording: Recording, chain: Chain, threshold: StopThreshold
    ) -> npt.NDArray[np.uint8]:
        """`Decision` codes of the recording after `chain` and `threshold`, one per sample."""

        def decide() -> npt.NDArray[np.uint8]:
            distance = self.measured(session, recording, chain).distance
            return threshold.apply(distance).values.astype(np.uint8)

        return self._get((recording.id, chain, threshold), decide, lambda codes: codes.nbytes)

    def counts(
        self, session: Session, recording: Recording, parameters: RangerParameters
    ) -> dict[Status, int]:
        """How many samples of a recording have each status, in the air it was recorded in."""
        chain = ranger_chain(parameters, recording.air).before("median")
        return self._get(
            ("counts", recording.id, chain),
            lambda: count_statuses(chain.apply(self.echo(session, recording))),
            lambda _: 0,
        )

    def _get(self, key: Any, make: Callable[[], Kept], size: Callable[[Kept], int]) -> Kept:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                found: Kept = self._kept[key][0]
                return found
        made = make()
        with self._lock:
            self._kept[key] = (made, size(made) + _SMALL)
            while len(self._kept) > 1 and sum(n for _, n in self._kept.values()) > MOST_BYTES:
                self._kept.popitem(last=False)
        return made


def count_statuses(signal: Signal) -> dict[Status, int]:
    """How many samples have each status; statuses without any are left out."""
    numbers = np.bincount(signal.status, minlength=len(Status))
    return {status: int(numbers[status]) for status in Status if numbers[status]}
