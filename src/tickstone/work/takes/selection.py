"""A stretch of a channel of a take, raw or after a stage: read, and looked into."""

from __future__ import annotations

import numpy as np

from tickstone.core.looking import Selection, describe
from tickstone.work.takes.channel import Channel

MOST_SAMPLES = 4_000_000


def look_into(channel: Channel, stage: str, from_s: float, to_s: float) -> Selection:
    """Look into a stretch, s from the take's start.

    Raises ValueError when the stretch is turned round, too long, or the stage unknown.
    """
    if to_s < from_s:
        raise ValueError("the stretch ends before it begins")
    origin = channel.take.first_time_us
    from_us, to_us = (origin + round(edge * 1e6) for edge in (from_s, to_s))
    signal = channel.between(stage, from_us, to_us)
    if len(signal) > MOST_SAMPLES:
        raise ValueError(
            f"the stretch holds {len(signal):,} samples; select at most {MOST_SAMPLES:,}"
        )
    is_count = channel.take.channels[channel.number]["quantity"] == "pulse count"
    return describe(
        signal.time_s,
        signal.value,
        signal.ok & ~np.isnan(signal.value),
        signal.unit,
        is_count=is_count and not stage,
    )
