"""A stretch of a channel of a take, raw or after a stage: read, and looked into."""

from __future__ import annotations

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.looking import Selection, describe
from tickstone.core.status import Status
from tickstone.store.models import Take
from tickstone.work.takes.channel import ChannelChain
from tickstone.work.takes.window import read_window

MOST_SAMPLES = 4_000_000


def look_into(
    session: Session,
    take: Take,
    number: int,
    channel: ChannelChain,
    stage: str,
    from_s: float,
    to_s: float,
) -> Selection:
    """Look into a stretch, s from the take's start.

    Raises ValueError when the stretch is turned round, too long, or the stage unknown.
    """
    if to_s < from_s:
        raise ValueError("the stretch ends before it begins")
    origin = take.first_time_us
    chain = channel.until(stage)
    from_us, to_us = (origin + round(edge * 1e6) for edge in (from_s, to_s))
    samples, unit = read_window(session, take, number, channel, chain, from_us, to_us)
    if len(samples.time_us) > MOST_SAMPLES:
        raise ValueError(
            f"the stretch holds {len(samples.time_us):,} samples; select at most {MOST_SAMPLES:,}"
        )
    return describe(
        (samples.time_us - origin) / 1e6,
        samples.values,
        (samples.status == Status.OK) & ~np.isnan(samples.values),
        unit,
        is_count=take.channels[number]["quantity"] == "pulse count" and chain is None,
    )
