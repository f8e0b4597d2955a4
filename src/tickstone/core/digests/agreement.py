"""Two rangers on one scene held against each other: bias, noise, dropouts, and whom to trust."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from tickstone.core.digests.kind import BESIDE, DigestKind, Figure
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import PERCENT_SHARE, SMALL_LENGTH
from tickstone.core.signal import FloatArray, Signal

_OFF = Quantity("difference", "m", shown_as=SMALL_LENGTH, decimals=1)
_SHARE = Quantity("share", "", shown_as=PERCENT_SHARE, decimals=1)
_FEWEST = 20
_KEYS = ("first", "second")
_STEADIER = 0.8
"""Nearer to each other than this, neither is the steadier."""
_THIRDS = ("near", "middle", "far")


class Agreement(DigestKind):
    """The two a voting sensor hears, against each other."""

    name: ClassVar[str] = "agreement"
    label: ClassVar[str] = "The two against each other"
    takes: ClassVar[tuple[str, ...]] = ("first", "second")
    is_calibrated: ClassVar[bool] = False

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Silence of each, then bias and jitter by distance."""
        return _compared(results["first"], results["second"], from_s, to_s, ("first", "second"))


class BesideAnother(DigestKind):
    """A ranger against any other that was recorded with it, each by its own working."""

    name: ClassVar[str] = "beside-another"
    label: ClassVar[str] = "Beside another ranger"
    takes: ClassVar[tuple[str, ...]] = ("distance",)
    beside: ClassVar[str] = "distance"

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Silence of each, then bias and jitter by distance."""
        pair = results["distance"], results[BESIDE]
        return _compared(*pair, from_s, to_s, ("this one", "the other"))


def _compared(
    one: Signal, other: Signal, from_s: float, to_s: float, names: tuple[str, str]
) -> list[Figure]:
    """Over all, and over the nearest, the middle and the farthest third of what they read: how far
    the second reads beyond the first, how much each jitters from reading to reading, and how often
    each is silent. names: what the two are called.
    """
    inside = (one.time_s >= from_s) & (one.time_s <= to_s)
    a, b = one.value[inside], other.value[inside]
    good = one.ok[inside] & ~np.isnan(a)
    also = other.ok[inside] & ~np.isnan(b)
    count = max(1, int(inside.sum()))
    found = [
        Figure(f"{key}_silent", f"{name} silent", _SHARE, 1.0 - heard.sum() / count, math.nan,
               "flagged, or nothing at all")
        for key, name, heard in zip(_KEYS, names, (good, also), strict=True)
    ]  # fmt: skip
    both = good & also
    a, b = a[both], b[both]
    middle = (a + b) / 2.0
    edges = np.quantile(middle, [0.0, 1 / 3, 2 / 3, 1.0]) if len(middle) else np.full(4, np.nan)
    for place, word in enumerate(_THIRDS):
        here = (middle >= edges[place]) & (middle <= edges[place + 1])
        found += _third(word, a[here], b[here], names)
    return found


def _third(word: str, a: FloatArray, b: FloatArray, names: tuple[str, str]) -> list[Figure]:
    """Bias and jitter of one third. Jitter: by second differences, so that what moved the target
    moves neither. The steadier is the one to trust there, once both read true.
    """
    enough = len(a) >= _FEWEST
    bias = float(np.median(b - a)) if enough else math.nan
    u = float(np.std(b - a, ddof=1)) / math.sqrt(len(a)) if enough else math.nan
    where = f"median, about {np.median(a):.2f} m" if enough else f"fewer than {_FEWEST} readings"
    found = [Figure(f"{word}_bias", f"{word}: {names[1]} beyond {names[0]}", _OFF, bias, u, where)]
    jitters = [
        float(np.std(np.diff(x, 2)) / math.sqrt(6.0)) if enough else math.nan for x in (a, b)
    ]
    for key, name, jitter in zip(_KEYS, names, jitters, strict=True):
        is_steadier = jitter < _STEADIER * max(jitters)
        how = "the steadier here: trust it, once both read true" if is_steadier else "scatter"
        found.append(
            Figure(f"{word}_{key}", f"{word}: {name} jitters", _OFF, jitter, math.nan, how)
        )
    return found
