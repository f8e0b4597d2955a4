"""What a recording tells of the loop a sensor is to be in: how often, how noisily, how surely."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tickstone.core.control.fitting import scatter_about_course
from tickstone.core.signal import Signal


@dataclass(frozen=True, slots=True)
class LoopHeard:
    """sample_s: the middle gap between readings; longest_s: all but one in a hundred are shorter.
    noise_u: scatter about a slow course, in the unit of the reading. zeros: per cent of readings
    that are none. NaN where there is too little to tell.
    """

    sample_s: float
    longest_s: float
    noise_u: float
    zeros: float
    samples: int


def loop_heard(signal: Signal) -> LoopHeard:
    """By middles, which a few odd readings do not move. Raises ValueError for fewer than 16.

    >>> t = np.arange(400) * 0.05
    >>> noise = np.random.default_rng(1).normal(0, 0.1, 400)
    >>> found = loop_heard(Signal.of(t, np.sin(t / 5) + noise))
    >>> round(found.sample_s, 3), round(found.noise_u, 1), found.zeros
    (0.05, 0.1, 0.0)
    """
    if len(signal) < 16:
        raise ValueError(f"{len(signal)} readings are too few to tell how a loop hears")
    gaps = np.diff(signal.time_s)
    good = signal.ok & np.isfinite(signal.value)
    values = signal.value[good]
    noise = math.nan
    if len(values) >= 8:
        noise = scatter_about_course(values)
    return LoopHeard(
        float(np.median(gaps)),
        float(np.quantile(gaps, 0.99)),
        noise,
        100.0 * float(1.0 - good.mean()),
        len(signal),
    )
