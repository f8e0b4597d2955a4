"""What was read while something was held: its mean, its scatter, and whether it was still."""

from __future__ import annotations

import math

import numpy as np

from tickstone.core.calibration.kind import Span, SpanResult
from tickstone.core.signal import FloatArray

MOST_WILD = 0.1
"""A span with a larger share of wild readings than this was not a clean stretch."""
WILD_SIGMAS = 6.0


def look_at(span: Span, still_limit: float) -> SpanResult:
    """Mean, scatter and stillness of the readings under a span.

    still_limit: how far readings may wander, in their unit, while something is held.
    Raises ValueError when what it says is true cannot be.
    """
    if span.true is not None and not (math.isfinite(span.true) and span.true >= 0.0):
        raise ValueError(f"mark “{span.name}” says that {span.true:g} is true")
    if span.u is not None and not (math.isfinite(span.u) and span.u > 0.0):
        raise ValueError(f"mark “{span.name}” needs an uncertainty above 0 for what is true")
    good = span.signal.value[span.signal.ok]
    flagged = len(span.signal) - len(good)
    readings = without_wild(good, still_limit)
    wild, count = len(good) - len(readings), len(readings)
    if count == 0:
        return SpanResult(
            name=span.name,
            true=span.true,
            u=span.u,
            read=None,
            scatter=None,
            drift=None,
            count=0,
            flagged=flagged,
            wild=0,
            is_still=False,
            is_used=False,
        )
    scatter = float(np.std(readings, ddof=1)) if count > 1 else still_limit
    half = count // 2
    drift = float(np.mean(readings[half:]) - np.mean(readings[:half])) if half else 0.0
    is_clean = wild <= MOST_WILD * len(good)
    return SpanResult(
        name=span.name,
        true=span.true,
        u=span.u,
        read=float(np.mean(readings)),
        scatter=scatter,
        drift=drift,
        count=count,
        flagged=flagged,
        wild=wild,
        is_still=is_clean and scatter <= still_limit and abs(drift) <= still_limit,
        is_used=True,
    )


def without_wild(readings: FloatArray, still_limit: float) -> FloatArray:
    """The readings within WILD_SIGMAS robust standard deviations of their median (Hampel)."""
    if len(readings) < 5:
        return readings
    away = np.abs(readings - np.median(readings))
    sigma = max(1.4826 * float(np.median(away)), still_limit / 5.0)
    return readings[away <= WILD_SIGMAS * sigma]
