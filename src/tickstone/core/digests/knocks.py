"""Knocks and falls: what is felt for a moment only."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from tickstone.core.digests.kind import DigestKind, Figure
from tickstone.core.quantity import DISTANCE, FORCE, Quantity
from tickstone.core.reading_units import MILLISECONDS, STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import Signal
from tickstone.core.status import Status

_SIZE = FORCE.in_lanes("")
_G = STANDARD_GRAVITY_M_PER_S2
_COUNT = Quantity("count", "", decimals=0)
_SHORT = Quantity("time", "s", shown_as=MILLISECONDS, decimals=0)
_SIGMAS = 6.0
_LEAST = 0.3 * _G
_APART_S = 0.15
_FALLS_BELOW = 0.35 * _G
_SHORTEST_FALL_S = 0.06
_LONGEST_FALL_S = 2.0  # from 20 m: nobody’s cart


class Knocks(DigestKind):
    """The hardest knock, how many, and the longest fall.

    A fall is felt as next to nothing: it lasts √(2h/g) from a height h.

    >>> t = np.arange(100) / 100
    >>> size = np.where((t > 0.4) & (t < 0.7), 0.1, 9.8)
    >>> told = Knocks().figures({"size": Signal.of(t, size, _SIZE)}, 0.0, 1.0, lambda *_: 0.1, None)
    >>> {one.name: round(one.value, 2) for one in told}["fell_for"]
    0.29
    """

    name: ClassVar[str] = "knocks"
    label: ClassVar[str] = "Knocks and falls"
    takes: ClassVar[tuple[str, ...]] = ("size",)

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Peak, count, and the longest fall with its height."""
        size = results["size"]
        inside = (size.time_s >= from_s) & (size.time_s <= to_s) & ~np.isnan(size.value)
        time_s, values = size.time_s[inside], size.value[inside]
        if len(values) < 4:
            nan = math.nan
            return [Figure("peak", "hardest knock", _SIZE, nan, nan, "too few readings")]
        middle = float(np.median(values))
        scatter = 1.4826 * float(np.median(np.abs(values - middle)))
        beyond = np.abs(values - middle) > max(_SIGMAS * scatter, _LEAST)
        at = time_s[beyond]
        knocks = int(np.count_nonzero(np.diff(at) > _APART_S)) + 1 if len(at) else 0
        peak = float(values.max())
        is_cut = size.flag[inside][int(values.argmax())] == Status.CLIPPED
        how = "at least: it sits at the end of the range" if is_cut else "of all readings"
        fell_s, fell_u = _longest_fall(time_s, values)
        felt_nothing = "felt next to nothing"
        if fell_s > _LONGEST_FALL_S:
            felt_nothing = f"felt nothing for {fell_s:.1f} s: that is no fall, but a unit asleep"
            fell_s = fell_u = math.nan
        height = _G * fell_s**2 / 2.0
        return (
            Figure("peak", "hardest", _SIZE, peak, u_of("size", peak), how),
            Figure("knocks", "knocks", _COUNT, float(knocks), 0.0, "beyond 6 times its scatter"),
            Figure("fell_for", "fell for", _SHORT, fell_s, fell_u, felt_nothing),
            Figure("fell", "from", DISTANCE, height, _G * fell_s * fell_u, "g·t²/2, from rest"),
        )


def _longest_fall(time_s: np.ndarray, values: np.ndarray) -> tuple[float, float]:
    """How long it fell, s, and its standard uncertainty: half a reading at either end."""
    falls = np.concatenate(([False], values < _FALLS_BELOW, [False]))
    starts, ends = np.flatnonzero(np.diff(falls.astype(np.int8)) == 1), np.flatnonzero(
        np.diff(falls.astype(np.int8)) == -1
    )  # fmt: skip
    if len(starts) == 0:
        return 0.0, 0.0
    gap_s = float(np.median(np.diff(time_s)))
    lasted = time_s[np.minimum(ends - 1, len(time_s) - 1)] - time_s[starts] + gap_s
    longest = float(lasted.max())
    if longest < _SHORTEST_FALL_S:
        return 0.0, 0.0
    return longest, gap_s / math.sqrt(6.0)
