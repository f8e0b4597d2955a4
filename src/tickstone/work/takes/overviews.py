"""Overviews of whole takes, raw and after any stage; the costly ones are kept in the store."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock
from typing import Any

from sqlalchemy.orm import Session

from tickstone import __version__
from tickstone.core.chain import Chain
from tickstone.store.chunks import CHUNK_SAMPLES
from tickstone.store.columns import BUCKET_SAMPLES, overview_of
from tickstone.store.models import Take
from tickstone.store.overviews import keep_stage_overview, read_stage_overview
from tickstone.store.takes import Buckets, read_buckets, read_samples
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.takes.channel import ChannelChain, chain_of_channel

MOST_SAMPLES_READ = 3 * CHUNK_SAMPLES
"""Windows of up to so many samples are drawn from the samples; wider ones from an overview."""
_KEPT_OVERVIEWS = 64


@dataclass(slots=True)
class OverviewCache:
    """Overviews of finished takes, the most recently used ones."""

    _kept: OrderedDict[Any, Buckets] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def get(self, key: Any, make: Callable[[], Buckets]) -> Buckets:
        """What is kept under the key, or what `make` makes."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        made = make()
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > _KEPT_OVERVIEWS:
                self._kept.popitem(last=False)
        return made


def overview(
    session: Session,
    cache: OverviewCache,
    take: Take,
    number: int,
    channel: ChannelChain,
    stage: str,
) -> Buckets:
    """The overview of a channel of a take; the caller commits what the store is to keep of it."""
    chain = channel.until(stage)

    def make() -> Buckets:
        if chain is None:
            return read_buckets(session, take.id, number)
        return _after_chain(session, take, number, channel, stage, chain)

    return make() if take.state == "open" else cache.get((take.id, number, chain), make)


def overviews_ahead(session: Session, take: Take, catalogue: Catalogue | None = None) -> None:
    """Work out what a long take is first looked at with: each channel after its whole chain."""
    if take.samples <= MOST_SAMPLES_READ:
        return
    catalogue = catalogue or catalogue_of(session)
    for number in range(len(take.channels)):
        channel = chain_of_channel(session, take, number, catalogue)
        if channel.chain is not None:
            overview(session, OverviewCache(), take, number, channel, channel.stages[-1])


def digest_of(chain: Chain) -> str:
    """What tells one chain and its settings from another, in this version of the arithmetic."""
    return hashlib.sha256(f"{__version__} {chain!r}".encode()).hexdigest()


def _after_chain(
    session: Session, take: Take, number: int, channel: ChannelChain, stage: str, chain: Chain
) -> Buckets:
    digest = digest_of(chain)
    kept = read_stage_overview(session, take.id, number, stage, digest)
    if kept is not None:
        return kept
    samples = read_samples(session, take.id, number)
    signal = chain.apply(channel.signal(samples, take.first_time_us))
    made = Buckets(samples.time_us[::BUCKET_SAMPLES], overview_of(signal.values, signal.status))
    if take.state != "open":
        keep_stage_overview(session, take.id, number, stage, digest, made)
    return made
