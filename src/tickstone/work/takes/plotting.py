"""Windows of a take, ready to draw: from single samples when few, from the overview when many."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from tickstone.core.chain import Chain
from tickstone.core.signal import FloatArray
from tickstone.core.status import Status
from tickstone.store.columns import Overview
from tickstone.store.models import Take
from tickstone.store.takes import Buckets, Samples, read_samples, samples_between
from tickstone.work.takes.channel import ChannelChain
from tickstone.work.takes.overviews import MOST_SAMPLES_READ, OverviewCache, overview

_CONTEXT_S = 5.0


@dataclass(frozen=True, slots=True)
class Series:
    """A drawn channel: what each point stands for lies between `low` and `high`, NaN where broken.

    flag_s, flag: where flagged samples stand; the code is 255 for “some here”.
    """

    unit: str
    time_s: FloatArray
    low: FloatArray
    high: FloatArray
    flag_s: FloatArray
    flag: npt.NDArray[np.integer[Any]]
    samples: int
    is_thinned: bool


SOME_FLAGGED = 255


def draw(
    session: Session,
    cache: OverviewCache,
    take: Take,
    number: int,
    channel: ChannelChain,
    stage: str,
    window_s: tuple[float, float],
    points: int,
) -> Series:
    """One channel over a window, s from the start. Raises ValueError for an unknown stage."""
    chain = channel.until(stage)
    origin = take.first_time_us
    from_us, to_us = (origin + round(edge * 1e6) for edge in window_s)
    count = samples_between(session, take.id, from_us, to_us)
    if count <= MOST_SAMPLES_READ:
        samples, unit = _window(session, take, number, channel, chain, from_us, to_us)
        return _from_samples(samples, origin, points, unit)
    buckets = overview(session, cache, take, number, channel, stage)
    unit = channel.unit if chain is None else _unit_after(chain, channel)
    return _from_buckets(buckets, origin, from_us, to_us, points, unit, count)


def _window(
    session: Session,
    take: Take,
    number: int,
    channel: ChannelChain,
    chain: Chain | None,
    from_us: int,
    to_us: int,
) -> tuple[Samples, str]:
    """A window's samples, with a little before it for stages that look back."""
    if chain is None:
        # A sample beyond either end, so that the line leaves the screen where it should.
        samples = read_samples(session, take.id, number, from_us, to_us)
        return samples, channel.unit
    lead_us = from_us - round(_CONTEXT_S * 1e6)
    samples = read_samples(session, take.id, number, lead_us, to_us)
    signal = chain.apply(channel.signal(samples, take.first_time_us))
    first = int(np.searchsorted(samples.time_us, from_us))
    return (
        Samples(samples.time_us[first:], signal.values[first:], signal.status[first:]),
        signal.unit,
    )


def _unit_after(chain: Chain, channel: ChannelChain) -> str:
    empty = Samples(np.empty(0, np.int64), np.empty(0), np.empty(0, np.uint8))
    return chain.apply(channel.signal(empty, 0)).unit


def _from_samples(samples: Samples, origin: int, points: int, unit: str) -> Series:
    time_s = (samples.time_us - origin) / 1e6
    good = (samples.status == Status.OK) & ~np.isnan(samples.values)
    bad = np.flatnonzero(~good)
    values = np.where(good, samples.values, np.nan)
    if len(values) <= points:
        return Series(
            unit, time_s, values, values, time_s[bad], samples.status[bad], len(values), False
        )
    starts = _columns(time_s, points // 2)
    overview = _reduced(values, values, starts)
    flags = _one_a_column(bad, starts)
    return Series(
        unit,
        time_s[starts],
        overview.lowest,
        overview.highest,
        time_s[flags],
        samples.status[flags],
        len(values),
        True,
    )


def _from_buckets(
    buckets: Buckets, origin: int, from_us: int, to_us: int, points: int, unit: str, count: int
) -> Series:
    first = max(0, int(np.searchsorted(buckets.time_us, from_us, side="right")) - 1)
    last = int(np.searchsorted(buckets.time_us, to_us, side="right"))
    part = slice(first, last)
    time_s = (buckets.time_us[part] - origin) / 1e6
    lowest, highest = buckets.overview.lowest[part], buckets.overview.highest[part]
    flagged = np.flatnonzero(buckets.overview.flagged[part] > 0)
    if len(time_s) == 0:
        empty = np.empty(0)
        return Series(unit, empty, empty, empty, empty, np.empty(0, np.uint8), 0, True)
    starts = _columns(time_s, points // 2)
    reduced = _reduced(lowest, highest, starts)
    flags = _one_a_column(flagged, starts)
    return Series(
        unit,
        time_s[starts],
        reduced.lowest,
        reduced.highest,
        time_s[flags],
        np.full(len(flags), SOME_FLAGGED),
        count,
        True,
    )


def _columns(time_s: FloatArray, columns: int) -> npt.NDArray[np.intp]:
    """Where each column of pixels begins among rising times."""
    span = max(1e-9, float(time_s[-1] - time_s[0]))
    pixel = np.minimum(((time_s - time_s[0]) / span * columns).astype(np.int64), columns - 1)
    return np.concatenate(([0], np.flatnonzero(np.diff(pixel)) + 1)).astype(np.intp)


def _reduced(low: FloatArray, high: FloatArray, starts: npt.NDArray[np.intp]) -> Overview:
    lowest = np.minimum.reduceat(np.where(np.isnan(low), np.inf, low), starts)
    highest = np.maximum.reduceat(np.where(np.isnan(high), -np.inf, high), starts)
    lowest[np.isinf(lowest)] = np.nan
    highest[np.isinf(highest)] = np.nan
    return Overview(lowest, highest, np.zeros(len(lowest)))


def _one_a_column(
    places: npt.NDArray[np.intp], starts: npt.NDArray[np.intp]
) -> npt.NDArray[np.intp]:
    columns = np.searchsorted(starts, places, side="right")
    _, firsts = np.unique(columns, return_index=True)
    return places[firsts]
