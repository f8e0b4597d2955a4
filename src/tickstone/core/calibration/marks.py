"""Marks: true distances held for a while, and what was read under them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tickstone.core.signal import FloatArray

STILL_LIMIT_M = 0.005
"""Readings under a mark that wander by more than this were not held still."""
MOST_WILD = 0.1
"""A mark with a larger share of wild readings than this was not a clean stretch."""
WILD_SIGMAS = 6.0


@dataclass(frozen=True, slots=True)
class MarkReadings:
    """A true distance and what the chain read while it was held.

    true_m: m. true_u_m: standard uncertainty of the ruler and its placing, m.
    readings_m: good readings only, m, in order. flagged: how many others there were.
    """

    name: str
    true_m: float
    true_u_m: float
    readings_m: FloatArray
    flagged: int = 0


@dataclass(frozen=True, slots=True)
class MarkResult:
    """One mark after the fit. residual_m: true minus fitted, m; None when the mark had no use.

    wild: readings far outside the others (median absolute deviation), left out of mean and scatter.
    """

    name: str
    true_m: float
    true_u_m: float
    read_m: float
    scatter_m: float
    drift_m: float
    count: int
    flagged: int
    wild: int
    still: bool
    used: bool
    residual_m: float | None = None


def look_at(mark: MarkReadings) -> MarkResult:
    """Mean, scatter and stillness of the readings under a mark. Raises ValueError for an
    impossible true distance.
    """
    readings = _without_wild(mark.readings_m)
    wild = len(mark.readings_m) - len(readings)
    if not (math.isfinite(mark.true_m) and mark.true_m >= 0.0):
        raise ValueError(f"mark “{mark.name}” has a true distance of {mark.true_m:g} m")
    if not (math.isfinite(mark.true_u_m) and mark.true_u_m > 0.0):
        raise ValueError(f"mark “{mark.name}” needs an uncertainty above 0 for its true distance")
    count = len(readings)
    if count == 0:
        nan = float("nan")
        return MarkResult(
            mark.name, mark.true_m, mark.true_u_m, nan, nan, nan, 0, mark.flagged, 0, False, False
        )
    scatter = float(np.std(readings, ddof=1)) if count > 1 else STILL_LIMIT_M
    half = count // 2
    drift = float(np.mean(readings[half:]) - np.mean(readings[:half])) if half else 0.0
    clean = wild <= MOST_WILD * len(mark.readings_m)
    still = clean and scatter <= STILL_LIMIT_M and abs(drift) <= STILL_LIMIT_M
    return MarkResult(
        name=mark.name,
        true_m=mark.true_m,
        true_u_m=mark.true_u_m,
        read_m=float(np.mean(readings)),
        scatter_m=scatter,
        drift_m=drift,
        count=count,
        flagged=mark.flagged,
        wild=wild,
        still=still,
        used=True,
    )


def _without_wild(readings: FloatArray) -> FloatArray:
    """The readings within WILD_SIGMAS robust standard deviations of their median (Hampel)."""
    if len(readings) < 5:
        return readings
    away = np.abs(readings - np.median(readings))
    sigma = max(1.4826 * float(np.median(away)), STILL_LIMIT_M / 5.0)
    return readings[away <= WILD_SIGMAS * sigma]
