"""Windows of a take, ready to draw: from single samples when few, from the overview when many."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from tickstone.core.chain import Chain
from tickstone.core.pauses import pauses_after
from tickstone.core.signal import FloatArray
from tickstone.core.status import Status
from tickstone.store.columns import Overview
from tickstone.store.models import Take
from tickstone.store.takes import Buckets, Samples, samples_between
from tickstone.work.takes.channel import ChannelChain
from tickstone.work.takes.overviews import MOST_SAMPLES_READ, OverviewCache, overview
from tickstone.work.takes.window import read_window


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
    pauses: tuple[tuple[float, float], ...] = ()
    """Where nothing came, s; the drawn line is broken there."""


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
        samples, unit = read_window(session, take, number, channel, chain, from_us, to_us)
        series = _from_samples(samples, origin, points, unit)
        time_s = (samples.time_us - origin) / 1e6
    else:
        buckets = overview(session, cache, take, number, channel, stage)
        unit = channel.unit if chain is None else _unit_after(chain, channel)
        series = _from_buckets(buckets, origin, from_us, to_us, points, unit, count)
        time_s = series.time_s
    return _broken(series, _pauses(take, time_s))


def _pauses(take: Take, time_s: FloatArray) -> list[tuple[float, float]]:
    """The gaps that are known of, and those the times show by themselves."""
    if len(time_s) == 0:
        return []
    known = [
        ((gap["from_us"] - take.first_time_us) / 1e6, (gap["to_us"] - take.first_time_us) / 1e6)
        for gap in take.gaps
    ]
    seen = [(float(time_s[n]), float(time_s[n + 1])) for n in pauses_after(time_s)]
    inside = [one for one in known if one[1] >= time_s[0] and one[0] <= time_s[-1]]
    return sorted({*inside, *(one for one in seen if not any(_touch(one, k) for k in inside))})


def _touch(one: tuple[float, float], other: tuple[float, float]) -> bool:
    return one[0] <= other[1] and other[0] <= one[1]


def _broken(series: Series, pauses: list[tuple[float, float]]) -> Series:
    """The series with a point without a value inside each pause, so that no line crosses it."""
    if not pauses or len(series.time_s) == 0:
        return series
    middles = np.array([(start + end) / 2.0 for start, end in pauses])
    places = np.searchsorted(series.time_s, middles)
    return replace(
        series,
        time_s=np.insert(series.time_s, places, middles),
        low=np.insert(series.low, places, np.nan),
        high=np.insert(series.high, places, np.nan),
        pauses=tuple(pauses),
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
