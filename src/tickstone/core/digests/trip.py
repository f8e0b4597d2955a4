"""A trip: how far, how long, how fast on average and at most."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from tickstone.core.digests.kind import DigestKind, Figure
from tickstone.core.quantity import DISTANCE, SPEED, Quantity
from tickstone.core.signal import Signal

SPAN = Quantity("time", "s", decimals=1)
_NEIGHBOURS = 3


class Trip(DigestKind):
    """Distance, moving time, averages over moving and over all time, greatest speed.

    Moving is the time between pulses that came in time: what is slow or flagged is none. Greatest
    is the greatest of the middle ones of three good readings in a row, so that no single bounce or
    missed pulse makes it. Standing at an end does not move it. Rolling back is rolling.

    >>> speed = Signal.of([1, 2, 3, 4], [2.0, 2.0, 9.0, 2.0], SPEED)
    >>> way = Signal.of([1, 2, 3, 4], [2.0, 4.0, 6.0, 8.0], DISTANCE)
    >>> told = Trip().figures({"speed": speed, "distance": way}, 0.0, 10.0, lambda *_: 0.1, None)
    >>> {one.name: round(one.value, 2) for one in told}["greatest"]
    2.0
    """

    name: ClassVar[str] = "trip"
    label: ClassVar[str] = "Trip"
    takes: ClassVar[tuple[str, ...]] = ("speed", "distance")

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """The five of them."""
        speed, way = results["speed"], results["distance"]
        rolled = _rolled(way, from_s, to_s)
        inside = (speed.time_s > from_s) & (speed.time_s <= to_s)
        moving = _moving_s(speed, from_s, to_s)
        total = to_s - from_s
        good = np.abs(speed.value[inside & speed.ok])
        greatest = _middle_of_three(good)
        share = u_of("distance", rolled) / rolled if rolled > 0.0 else math.nan
        mean_moving = rolled / moving if moving > 0.0 else math.nan
        mean_all = rolled / total if total > 0.0 else math.nan
        return (
            Figure("distance", "distance", DISTANCE, rolled, rolled * share, "pulses × way of one"),
            Figure("moving", "moving", SPAN, moving, math.nan, "between pulses that came in time"),
            Figure("all", "all time", SPAN, total, math.nan, "from end to end"),
            Figure(
                "mean_moving", "average, moving", SPEED, mean_moving, mean_moving * share,
                "distance over moving time",
            ),
            Figure(
                "mean_all", "average, all", SPEED, mean_all, mean_all * share,
                "distance over all time",
            ),
            Figure(
                "greatest", "greatest", SPEED, greatest,
                u_of("speed", greatest) if greatest > 0.0 else math.nan,
                "middle one of three in a row",
            ),
        )  # fmt: skip


def _rolled(way: Signal, from_s: float, to_s: float) -> float:
    """How far between two times, back and forth alike; it stood at 0 before the first pulse."""
    first, last = np.searchsorted(way.time_s, (from_s, to_s), side="right")
    before = way.value[first - 1] if first else 0.0
    return float(np.abs(np.diff(way.value[first:last], prepend=before)).sum())


def _moving_s(speed: Signal, from_s: float, to_s: float) -> float:
    """Time that ends in a good reading, clipped to the stretch."""
    begins = np.clip(np.concatenate((speed.time_s[:1], speed.time_s[:-1])), from_s, to_s)
    ends = np.clip(speed.time_s, from_s, to_s)
    return float((ends - begins)[speed.ok].sum()) if len(speed) else 0.0


def _middle_of_three(values: np.ndarray) -> float:
    if len(values) < _NEIGHBOURS:
        return math.nan
    rows = np.lib.stride_tricks.sliding_window_view(values, _NEIGHBOURS)
    return float(np.median(rows, axis=1).max())
