"""Several sensors as one input: the nearest, the farthest, or their mean by what each is worth."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray, Signal, StatusArray
from tickstone.core.status import Status

NEAREST, FARTHEST, TRUST = "nearest", "farthest", "trust"
WAYS = {
    NEAREST: "the nearest of those that measure",
    FARTHEST: "the farthest of those that measure",
    TRUST: "their mean by 1/u²; the nearest while they disagree",
}
BEARS_A_VALUE = (Status.OK, Status.SLOW, Status.ONE_ALONE, Status.AT_ODDS)
"""Statuses that say something of a value: where none is told, they are not taken over."""
APART_K = 3.0
"""Two that differ by more than so many of their joint standard uncertainties are at odds."""


@dataclass(frozen=True, slots=True)
class Together:
    """One signal of several. who: at each sample which of them decided; −1: none or several."""

    signal: Signal
    who: npt.NDArray[np.int8]


def put_together(
    signals: Sequence[Signal], longest_s: Sequence[float], way: str, us: Sequence[float] = ()
) -> Together:
    """The latest of each at every time any of them says something, as one.

    longest_s: how old the latest of each may be. us: their standard uncertainties; where they are
    given, any two that differ by more than 3·√(u₁² + u₂²) are at odds, and the nearest is told.
    One that alone measures is told, and flagged so.

    >>> front = Signal.of([0.0, 0.1], [1.0, 0.8])
    >>> left = Signal.of([0.05, 0.15], [0.9, 0.9], status=[0, 1])
    >>> both = put_together([front, left], [0.5, 0.5], NEAREST)
    >>> both.signal.value.tolist(), both.who.tolist(), both.signal.flag.tolist()
    ([1.0, 0.9, 0.8, 0.8], [0, 1, 0, 0], [32, 0, 0, 32])
    """
    times = np.unique(np.concatenate([one.time_s for one in signals]))
    values = np.full((len(signals), len(times)), np.nan)
    is_good = np.zeros(values.shape, dtype=np.bool_)
    codes = np.full(values.shape, int(Status.NOT_YET), dtype=np.uint8)
    for row, one in enumerate(signals):
        if len(one) == 0:
            continue
        place = np.searchsorted(one.time_s, times, side="right") - 1
        is_there = place >= 0
        place = np.maximum(place, 0)
        age_s = times - one.time_s[place]
        values[row] = one.value[place]
        codes[row] = np.where(is_there, one.flag[place], Status.NOT_YET)
        codes[row][is_there & (codes[row] == Status.OK) & (age_s > longest_s[row])] = (
            Status.OUTDATED
        )
        is_good[row] = (codes[row] == Status.OK) & np.isfinite(values[row])
    told, who, status = _decided(values, is_good, codes, way, us)
    until_s = max((one.until_s for one in signals), default=math.nan)
    signal = Signal(times, told[None], status[None], signals[0].quantity, until_s)
    return Together(signal, who)


def _decided(
    values: FloatArray,
    is_good: npt.NDArray[np.bool_],
    codes: StatusArray,
    way: str,
    us: Sequence[float],
) -> tuple[FloatArray, npt.NDArray[np.int8], StatusArray]:
    """Values, who decided, and statuses."""
    many = is_good.sum(axis=0)
    worst = np.inf if way != FARTHEST else -np.inf
    held = np.where(is_good, values, worst)
    choose = np.argmax(held, axis=0) if way == FARTHEST else np.argmin(held, axis=0)
    columns = np.arange(values.shape[1])
    told = held[choose, columns]
    who = choose.astype(np.int8)
    status = np.where(many == 1, int(Status.ONE_ALONE), int(Status.OK)).astype(np.uint8)
    at_odds = np.zeros(values.shape[1], dtype=np.bool_)
    if us:
        for a in range(len(us)):
            for b in range(a + 1, len(us)):
                apart = np.abs(values[a] - values[b]) > APART_K * math.hypot(us[a], us[b])
                at_odds |= apart & is_good[a] & is_good[b]
    if way == TRUST:
        weights = np.where(is_good, np.array([u**-2 for u in us])[:, None], 0.0)
        total = weights.sum(axis=0)
        mean = (weights * np.where(is_good, values, 0.0)).sum(axis=0) / np.where(
            total > 0.0, total, 1.0
        )
        agreed = (many > 1) & ~at_odds
        told = np.where(agreed, mean, told)
        who[agreed] = -1
    status[at_odds] = Status.AT_ODDS
    none = many == 0
    status[none] = np.where(np.isin(codes[0], BEARS_A_VALUE), Status.MISSING, codes[0])[none]
    told = np.where(none, np.nan, told)
    who[none] = -1
    return told, who, status


def by_name(
    name: str, of: Sequence[str], signals: Mapping[str, Signal], longest: Mapping[str, float],
    way: str, us: Sequence[float],
) -> Together:  # fmt: skip
    """The same from inputs by name. Raises ValueError when one of them is not there."""
    missing = [one for one in of if one not in signals]
    if missing:
        raise ValueError(f"{name}: nothing is heard of {missing[0]}")
    return put_together([signals[one] for one in of], [longest[one] for one in of], way, us)
