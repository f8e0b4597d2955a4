"""Columns of a recording as a loop sees them: outputs are held, readings count or do not."""

from __future__ import annotations

import numpy as np

from tickstone.core.control.plant import FloatArray
from tickstone.core.signal import Signal


def held(signal: Signal) -> FloatArray:
    """The last good value until the next; NaN before the first.

    >>> held(Signal.of([0, 1, 2, 3], [5.0, 9.0, 7.0, 8.0], status=[1, 0, 1, 0])).tolist()
    [nan, 9.0, 9.0, 8.0]
    """
    good = signal.ok & np.isfinite(signal.value)
    last = np.maximum.accumulate(np.where(good, np.arange(len(signal)), -1))
    told: FloatArray = np.where(last >= 0, signal.value[np.maximum(last, 0)], np.nan)
    return told


def only_good(signal: Signal) -> FloatArray:
    """The values, NaN where a sample is no measurement."""
    told: FloatArray = np.where(signal.ok, signal.value, np.nan)
    return told
