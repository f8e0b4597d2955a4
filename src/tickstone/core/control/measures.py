"""How well a loop did: overshoot, settling, errors added up, travel, and noise let through."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np

from tickstone.core.control.loop import Run
from tickstone.core.control.plant import FloatArray

BAND = 0.02
"""Of the step: within this it counts as settled; common practice."""
_SEEN_SETTLED = 0.95
"""Of the run: what comes within the band later than this may as well leave it again."""


@dataclass(frozen=True, slots=True)
class Measures:
    """Of the step alone, up to the next change of what is wanted, or of what pushes.

    overshoot: beyond the target, of the step; 0 where it never is. rise_s: from 10 to 90 %.
    settling_s: until it stays within `BAND`. itae: ∫ t·|e| dt, unit·s². iae: ∫ |e| dt, unit·s.
    offset: what is left at the end. travel: how far the actuator went to and fro, in all.
    noise_out: scatter of the output at the end. clamped: share of the time at an end.
    swings: how often it crossed the target by more than the band. decay: how much of a swing is
    left a whole swing later: under 1 it dies out, over 1 it grows. NaN: it never came to that.
    """

    overshoot: float
    rise_s: float
    settling_s: float
    itae: float
    iae: float
    offset: float
    travel: float
    noise_out: float
    clamped: float
    swings: int
    decay: float


def measures(
    time_s: FloatArray, wanted: FloatArray, value: FloatArray, output: FloatArray,
    is_clamped: FloatArray | None = None, until_s: float = math.inf, scatter: float = 0.0,
) -> Measures:  # fmt: skip
    """Of the first step of what is wanted. scatter: of the readings, that widens the band by 2σ.

    Raises ValueError when what is wanted never changes.

    >>> t = np.arange(0, 10, 0.01)
    >>> y = np.where(t >= 1.0, 1.0 - np.exp(-(t - 1.0)), 0.0)
    >>> told = measures(t, (t >= 1.0) * 1.0, y, y)
    >>> round(told.rise_s, 2), round(told.settling_s, 1), round(told.iae, 2), told.overshoot
    (2.2, 3.9, 1.0, 0.0)
    """
    changes = np.flatnonzero(np.diff(wanted) != 0.0) + 1
    if not changes.size:
        raise ValueError("what is wanted never changes: there is no step to judge by")
    first = int(changes[0])
    last = int(changes[1]) if changes.size > 1 else len(time_s)
    last = min(last, int(np.searchsorted(time_s, until_s)))
    if last - first < 3:
        raise ValueError("too few readings come after the step")
    origin, target = float(wanted[first - 1]), float(wanted[first])
    step = target - origin
    t = time_s[first:last] - time_s[first]
    y, u = value[first:last], output[first:last]
    share = (y - origin) / step
    error = np.abs(target - y)
    gaps = np.diff(t, append=2.0 * t[-1] - t[-2])
    band = max(BAND, 2.0 * scatter / abs(step))
    off = np.flatnonzero(np.abs(share - 1.0) > band)
    settling_s = math.nan
    if not off.size:
        settling_s = 0.0
    elif off[-1] + 1 < _SEEN_SETTLED * len(t):
        settling_s = float(t[off[-1] + 1])
    tail = slice(int(0.8 * len(t)), len(t))
    beyond = float(share.max()) - 1.0 - 2.0 * scatter / abs(step)
    return Measures(
        overshoot=max(0.0, beyond) if beyond > 1e-9 else 0.0,
        rise_s=_rise(t, share),
        settling_s=settling_s,
        itae=float(np.sum(t * error * gaps)),
        iae=float(np.sum(error * gaps)),
        offset=float(target - y[tail].mean()),
        travel=float(np.abs(np.diff(output[first - 1 : last])).sum()),
        noise_out=float(np.std(np.diff(u[tail])) / math.sqrt(2.0)) if len(u[tail]) > 2 else 0.0,
        clamped=float(is_clamped[first:last].mean()) if is_clamped is not None else 0.0,
        swings=_swings(share, band),
        decay=_decay(share, band),
    )


def _decay(share: FloatArray, band: float) -> float:
    """From the tops of its half swings about where it ends up; NaN with less than three."""
    off = share - share[len(share) // 2 :].mean()
    turns = np.flatnonzero(np.sign(off[1:]) * np.sign(off[:-1]) < 0) + 1
    tops = [
        top
        for a, b in itertools.pairwise([*turns, len(off)])
        if (top := float(np.abs(off[a:b]).max())) > band
    ]
    if len(tops) < 3:
        return math.nan
    # The last may be cut short by the end of the run.
    tops = tops[:-1] if len(tops) > 3 else tops
    return float((tops[-1] / tops[0]) ** (2.0 / (len(tops) - 1)))


def of_run(run: Run, load_at_s: float = math.inf) -> Measures:
    """Of a simulated run: by what is true, not by what was read."""
    return measures(run.time_s, run.wanted, run.true, run.output, run.is_clamped, load_at_s)


def _rise(t: FloatArray, share: FloatArray) -> float:
    """From 10 to 90 %, between readings by a straight line."""
    ends = []
    for level in (0.1, 0.9):
        over = np.flatnonzero(share >= level)
        if not over.size:
            return math.nan
        n = int(over[0])
        if n == 0:
            ends.append(float(t[0]))
            continue
        part = (level - share[n - 1]) / (share[n] - share[n - 1])
        ends.append(float(t[n - 1] + part * (t[n] - t[n - 1])))
    return ends[1] - ends[0]


def _swings(share: FloatArray, band: float) -> int:
    """How often it went from one side of the band to the other."""
    sides = np.sign(share - 1.0)[np.abs(share - 1.0) > band]
    return int(np.count_nonzero(np.diff(sides)))
