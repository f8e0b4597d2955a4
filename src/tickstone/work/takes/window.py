"""A window of a channel of a take, raw or after its chain: the same samples as in the whole."""

from __future__ import annotations

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.chain import FIRST_REACH_SAMPLES, Chain
from tickstone.store.models import Take
from tickstone.store.takes import Samples, read_samples
from tickstone.work.takes.channel import ChannelChain


def read_window(
    session: Session,
    take: Take,
    number: int,
    channel: ChannelChain,
    chain: Chain | None,
    from_us: int,
    to_us: int,
) -> tuple[Samples, str]:
    """Samples from `from_us` to `to_us`, both inclusive, and their unit.

    Stages that look back are given as much before the window as they ask for, or all there is.
    """
    samples = read_samples(session, take.id, number, from_us, to_us)
    if chain is None:
        return samples, channel.unit
    first, lead_us = 0, 0
    while from_us - lead_us > take.first_time_us and not _is_settled(
        chain, channel, samples, take, first
    ):
        lead_us = 16 * lead_us or _reach_us(take)
        samples = read_samples(session, take.id, number, from_us - lead_us, to_us)
        first = int(np.searchsorted(samples.time_us, from_us))
    chained = chain.apply(channel.signal(samples, take.first_time_us))
    return (
        Samples(samples.time_us[first:], chained.values[first:], chained.status[first:]),
        chained.unit,
    )


def _reach_us(take: Take) -> int:
    """About how long it took to take as many samples as are looked back at first."""
    step_us = (take.last_time_us - take.first_time_us) / max(1, take.samples)
    return max(1_000_000, round(FIRST_REACH_SAMPLES * step_us))


def _is_settled(
    chain: Chain, channel: ChannelChain, samples: Samples, take: Take, first: int
) -> bool:
    """Whether what was read up to sample `first` decides that sample and all that follow."""
    upto = first + 1
    earlier = Samples(samples.time_us[:upto], samples.values[:upto], samples.status[:upto])
    return chain.is_settled(channel.signal(earlier, take.first_time_us))
