"""The thinner: from many samples to what a screen can show, lowest and highest of each column.

Nothing is averaged: whatever spike is in the samples is in the picture.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from tickstone.core.pauses import pauses_after
from tickstone.core.signal import FloatArray, StatusArray
from tickstone.core.status import Status

SOME_FLAGGED = 255
"""The code for “some samples here are flagged”, when it is not known how."""
Starts = npt.NDArray[np.intp]


@dataclass(frozen=True, slots=True)
class Thinned:
    """A drawn line: what each point stands for lies between `low` and `high`, NaN where broken.

    flag_s, flag: where flagged samples stand, and their codes. samples: how many there are.
    pauses: where nothing came, s; the line is broken there.
    """

    time_s: FloatArray
    low: FloatArray
    high: FloatArray
    flag_s: FloatArray
    flag: npt.NDArray[np.integer[Any]]
    samples: int
    is_thinned: bool
    pauses: tuple[tuple[float, float], ...] = ()


def thin_samples(
    time_s: FloatArray, values: FloatArray, status: StatusArray, points: int
) -> Thinned:
    """Samples as they are when they are few enough, else the lowest and highest of each column.

    >>> values, fine = np.array([1, 9, 2, 3, 0, 4.0]), np.zeros(6, np.uint8)
    >>> thin = thin_samples(np.arange(6.0), values, fine, 4)
    >>> thin.low.tolist(), thin.high.tolist()
    ([1.0, 0.0], [9.0, 4.0])
    """
    good = (status == Status.OK) & ~np.isnan(values)
    bad = np.flatnonzero(~good)
    drawn = np.where(good, values, np.nan)
    if len(values) <= points:
        return Thinned(time_s, drawn, drawn, time_s[bad], status[bad], len(values), False)
    starts = columns(time_s, points // 2)
    low, high = lowest_highest(drawn, drawn, starts)
    flags = _one_a_column(bad, status[bad], starts)
    return Thinned(
        time_s[starts], low, high, time_s[flags], status[flags], len(values), is_thinned=True
    )


def thin_buckets(
    time_s: FloatArray,
    lowest: FloatArray,
    highest: FloatArray,
    flagged: FloatArray,
    points: int,
    samples: int,
) -> Thinned:
    """The same from buckets of samples: lowest, highest and number of flagged ones of each."""
    if len(time_s) == 0:
        empty = np.empty(0)
        return Thinned(empty, empty, empty, empty, np.empty(0, np.uint8), 0, is_thinned=True)
    starts = columns(time_s, points // 2)
    low, high = lowest_highest(lowest, highest, starts)
    bad = np.flatnonzero(flagged > 0)
    flags = _one_a_column(bad, np.zeros(len(bad), dtype=np.uint8), starts)
    codes = np.full(len(flags), SOME_FLAGGED)
    return Thinned(time_s[starts], low, high, time_s[flags], codes, samples, is_thinned=True)


def broken_at_pauses(
    thin: Thinned, known: Sequence[tuple[float, float]], is_events: bool = False
) -> Thinned:
    """The line with a point without a value in each pause, so that nothing is drawn across it.

    known: pauses that are known of, s; those that the times show by themselves are added, unless
    a sample is there only because something happened.
    """
    after = [] if is_events else pauses_after(thin.time_s).tolist()
    pauses = _pauses(thin.time_s, known, after)
    if not pauses:
        return thin
    middles = np.array([(start + end) / 2.0 for start, end in pauses])
    places = np.searchsorted(thin.time_s, middles)
    return replace(
        thin,
        time_s=np.insert(thin.time_s, places, middles),
        low=np.insert(thin.low, places, np.nan),
        high=np.insert(thin.high, places, np.nan),
        pauses=tuple(pauses),
    )


def columns(time_s: FloatArray, wanted: int) -> Starts:
    """Where each column of pixels begins among rising times."""
    span = max(1e-9, float(time_s[-1] - time_s[0]))
    pixel = np.minimum(((time_s - time_s[0]) / span * wanted).astype(np.int64), wanted - 1)
    return np.concatenate(([0], np.flatnonzero(np.diff(pixel)) + 1)).astype(np.intp)


def lowest_highest(
    low: FloatArray, high: FloatArray, starts: Starts
) -> tuple[FloatArray, FloatArray]:
    """The lowest of `low` and the highest of `high` in each column; NaN where there is neither."""
    lowest = np.minimum.reduceat(np.where(np.isnan(low), np.inf, low), starts)
    highest = np.maximum.reduceat(np.where(np.isnan(high), -np.inf, high), starts)
    lowest[np.isinf(lowest)] = np.nan
    highest[np.isinf(highest)] = np.nan
    return lowest, highest


def _one_a_column(places: Starts, codes: StatusArray, starts: Starts) -> Starts:
    """Of flagged samples, the first of each kind in each column."""
    in_column = np.searchsorted(starts, places, side="right").astype(np.int64)
    _, firsts = np.unique(in_column * 256 + codes, return_index=True)
    kept: Starts = places[np.sort(firsts)]
    return kept


def _pauses(
    time_s: FloatArray, known: Sequence[tuple[float, float]], after: Sequence[int]
) -> list[tuple[float, float]]:
    if len(time_s) == 0:
        return []
    seen = [(float(time_s[n]), float(time_s[n + 1])) for n in after]
    inside = [one for one in known if one[1] >= time_s[0] and one[0] <= time_s[-1]]
    return sorted({*inside, *(one for one in seen if not any(_touch(one, k) for k in inside))})


def _touch(one: tuple[float, float], other: tuple[float, float]) -> bool:
    return one[0] <= other[1] and other[0] <= one[1]
