"""Results of a chain over a take: whole, a window of it, thinned, or one with its working.

Whichever way one looks, the samples are the same: short takes are worked out whole and kept in
memory; of long ones an overview and the states on the way are kept in the store, and any window
begins at the nearest of those.
"""

from __future__ import annotations

import hashlib
from bisect import bisect_left
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

import numpy as np
from sqlalchemy.orm import Session

from tickstone import __version__
from tickstone.core.chain import BLOCK_SAMPLES, Chain, Folded, Kept
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.store.chunks import CHUNK_SAMPLES
from tickstone.store.columns import BUCKET_SAMPLES, overview_of
from tickstone.store.overviews import KeptResult, keep_result, read_result
from tickstone.store.takes import Buckets
from tickstone.work.cache import Cache
from tickstone.work.sources import Source

Made = TypeVar("Made")

SHORT_SAMPLES = 3 * CHUNK_SAMPLES
"""Takes of up to so many samples are worked out whole; windows of up to so many are drawn from
their samples."""
_SHORT_BLOCK = 16_384
"""Short takes keep their states this often, so that a working has little to run through."""
_KEPT_EVERY = 2
"""Of the states between blocks, every so many are kept in the store."""


@dataclass(frozen=True, slots=True)
class Results:
    """What a chain gives when a take feeds it."""

    session: Session
    cache: Cache
    source: Source
    chain: Chain

    @property
    def is_short(self) -> bool:
        """Whether all of it is worked out at once."""
        return self.source.samples <= SHORT_SAMPLES

    def prepare(self, nodes: Sequence[str]) -> None:
        """Work out at once what several nodes share, where all of it is worked out anyway."""
        if self.source.is_open or not self.is_short:
            return
        missing = [node for node in dict.fromkeys(nodes) if not self.cache.has(self._key(node))]
        if len(missing) < 2:
            return
        folded = self.chain.fold(self._signals(), *missing, block=_SHORT_BLOCK)
        for node in missing:
            self._keep(node, partial(folded.only, node))

    def remembered(
        self, node: str, what: Hashable, make: Callable[[], Made], size: Callable[[Made], int]
    ) -> Made:
        """What `make` makes of a node’s results alone, made once. what: all else it rests on."""
        if self.source.is_open:
            return make()
        return self.cache.get((*self._key(node), what), make, size)

    def whole(self, node: str) -> Signal:
        """All results of a node."""
        return self._folded(node).results[node]

    def between(self, node: str, from_us: int, to_us: int) -> Signal:
        """The results of a node from `from_us` to `to_us`, both inclusive."""
        if self.is_short:
            return window_of(self.whole(node), self._second(from_us), self._second(to_us))
        kept = self._kept_before(node, self._second(from_us))
        signals = self.source.read(self.session, self._after(kept.until_s), to_us)
        chain = self.chain.up_to(node)
        result = chain.fold(signals, node, states=kept.states).results[node]
        return window_of(result, self._second(from_us), self._second(to_us))

    def lanes(self, node: str) -> tuple[Buckets, ...]:
        """The overview of each lane of a node's results."""
        return self._thinned(node).lanes

    def working(self, node: str, time_s: float) -> tuple[Step, ...]:
        """The working of the result of a node at this very time.

        Raises IndexError when there is none.
        """
        kept = self._kept_before(node, time_s)
        at_us = self.source.origin_us + round(time_s * 1e6)
        if self.is_short:
            signals = {
                name: _between(signal, kept.until_s, time_s)
                for name, signal in self._signals().items()
            }
        else:
            signals = self.source.read(self.session, self._after(kept.until_s), at_us)
        return self.chain.up_to(node).explain(signals, -1, node, kept.states)

    def counts(self, node: str) -> dict[Status, int]:
        """How many results of a node's first lane have each status; none are left out."""
        if self.is_short:
            return count_statuses(self.whole(node))
        return self.cache.get(
            (*self._key(node), "counts"), lambda: count_statuses(self.whole(node)), lambda _: 0
        )

    def nearest(self, node: str, at_s: float | None) -> float | None:
        """The time of the result nearest to a time; without one, of the last good one."""
        if at_s is None:
            return self._last_good(node)
        signal = self._around(node, at_s)
        if len(signal) == 0:
            return None
        right = min(int(np.searchsorted(signal.time_s, at_s)), len(signal) - 1)
        left = max(0, right - 1)
        nearer_left = abs(signal.time_s[left] - at_s) < abs(signal.time_s[right] - at_s)
        return float(signal.time_s[left if nearer_left else right])

    def _last_good(self, node: str) -> float | None:
        end_us = self.source.end_us
        reach_us = 1_000_000
        while True:
            signal = (
                self.whole(node) if self.is_short else self.between(node, end_us - reach_us, end_us)
            )
            good = np.flatnonzero(signal.ok)
            if good.size:
                return float(signal.time_s[good[-1]])
            if self.is_short or end_us - reach_us <= self.source.origin_us:
                return float(signal.time_s[-1]) if len(signal) else None
            reach_us *= 16

    def _around(self, node: str, at_s: float) -> Signal:
        """Results on both sides of a time, as long as there are any at all."""
        if self.is_short:
            return self.whole(node)
        at_us = self.source.origin_us + round(at_s * 1e6)
        reach_us = 1_000_000
        while True:
            signal = self.between(node, at_us - reach_us, at_us + reach_us)
            is_all = reach_us > self.source.end_us - self.source.origin_us + abs(at_s) * 1e6
            if is_all or (len(signal) and signal.time_s[0] <= at_s <= signal.time_s[-1]):
                return signal
            reach_us *= 16

    def _signals(self) -> Mapping[str, Signal]:
        def read() -> dict[str, Signal]:
            return self.source.read(self.session)

        if self.source.is_open or not self.is_short:
            return read()
        key = (self.source.take_id, self.source.key)
        return self.cache.get(key, read, lambda signals: sum(map(_size, signals.values())))

    def _folded(self, node: str) -> Folded:
        def fold() -> Folded:
            block = _SHORT_BLOCK if self.is_short else BLOCK_SAMPLES
            return self.chain.fold(self._signals(), node, block=block)

        if self.source.is_open:
            return fold()
        return self._keep(node, fold)

    def _keep(self, node: str, fold: Callable[[], Folded]) -> Folded:
        return self.cache.get(self._key(node), fold, lambda folded: _size(folded.results[node]))

    def _key(self, node: str) -> tuple[object, ...]:
        return (self.source.take_id, self.source.key, node, self.chain.up_to(node))

    def _thinned(self, node: str) -> KeptResult:
        """Overview and states of a node; worked out and kept when they are not at hand.

        The caller commits what the store is to keep of it.
        """
        if self.source.is_open:
            return self._thin(self._folded(node), node)
        return self.cache.get(
            (*self._key(node), "thinned"),
            lambda: self._thinned_in_store(node),
            lambda kept: 32 * sum(len(lane.time_us) for lane in kept.lanes),
        )

    def _thinned_in_store(self, node: str) -> KeptResult:
        digest = digest_of(self.chain.up_to(node))
        take_id, source = self.source.take_id, self.source.key
        found = read_result(self.session, take_id, source, node, digest)
        if found is None:
            found = self._thin(self.chain.fold(self._signals(), node), node)
            keep_result(self.session, take_id, source, node, digest, found)
        return found

    def _thin(self, folded: Folded, node: str) -> KeptResult:
        signal = folded.results[node]
        first_s = signal.time_s[::BUCKET_SAMPLES]
        time_us = self.source.origin_us + np.rint(first_s * 1e6).astype(np.int64)
        return KeptResult(
            tuple(
                Buckets(time_us, overview_of(values, status))
                for values, status in zip(signal.values, signal.status, strict=True)
            ),
            folded.kept[:-1:_KEPT_EVERY],
        )

    def _kept_before(self, node: str, time_s: float) -> Kept:
        """The last kept states before anything at a time had entered."""
        kept = self._folded(node).kept[:-1] if self.is_short else self._thinned(node).kept
        place = bisect_left([one.until_s for one in kept], time_s) - 1
        if place < 0:
            return Kept(0, -np.inf, self.chain.up_to(node).begin())
        return kept[place]

    def _after(self, until_s: float) -> int:
        """The first µs of the take's clock after a time."""
        if until_s == -np.inf:
            return -(2**62)
        return self.source.origin_us + round(until_s * 1e6) + 1

    def _second(self, at_us: int) -> float:
        return (at_us - self.source.origin_us) / 1e6


def digest_of(chain: Chain) -> str:
    """What tells one chain and its settings from another, in this version of the arithmetic."""
    return hashlib.sha256(f"{__version__} {chain!r}".encode()).hexdigest()


def count_statuses(signal: Signal) -> dict[Status, int]:
    """How many samples of the first lane have each status; statuses without any are left out."""
    numbers = np.bincount(signal.flag, minlength=256)
    return {status: int(numbers[status]) for status in Status if numbers[status]}


def window_of(signal: Signal, from_s: float, to_s: float) -> Signal:
    """The samples of a signal from one time to another, both inclusive."""
    first = int(np.searchsorted(signal.time_s, from_s, side="left"))
    last = int(np.searchsorted(signal.time_s, to_s, side="right"))
    return signal.between(first, max(first, last), min(to_s, signal.until_s))


def _between(signal: Signal, after_s: float, to_s: float) -> Signal:
    """Samples later than one time and not later than another, all that is known then."""
    first = int(np.searchsorted(signal.time_s, after_s, side="right"))
    last = int(np.searchsorted(signal.time_s, to_s, side="right"))
    return signal.between(first, max(first, last), to_s)


def _size(signal: Signal) -> int:
    return signal.values.nbytes + signal.status.nbytes + signal.time_s.nbytes
