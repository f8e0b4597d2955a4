"""Filters whose every value rests on the one before. All of them write over `values`.

is_good: True where a sample is a measurement; the others are passed by. The last array is the
state: it is read first and written last, so that blocks follow on each other.
"""

from __future__ import annotations

import math
from typing import Any

from tickstone.core.loops.compiled import compiled


@compiled
def exponential(values: Any, is_good: Any, share: Any, state: Any) -> None:
    """y += share·(x − y). share: shape (n,). state: (y,), NaN before the first."""
    y = state[0]
    for k in range(values.shape[0]):
        if is_good[k]:
            if y != y:
                y = values[k]
            else:
                y += share[k] * (values[k] - y)
            values[k] = y
    state[0] = y


@compiled
def value_kalman(values: Any, is_good: Any, q: float, r: float, state: Any) -> None:
    """A value that walks at random. state: (x, P, how many came), x NaN before the first."""
    x, p, n = state[0], state[1], state[2]
    for k in range(values.shape[0]):
        if is_good[k]:
            if x != x:
                x, p = values[k], r
            else:
                p += q
                gain = p / (p + r)
                x += gain * (values[k] - x)
                p *= 1.0 - gain
            values[k] = x
            n += 1.0
    state[0], state[1], state[2] = x, p, n


@compiled
def speed_kalman(
    values: Any, is_good: Any, time_s: Any, q: float, r: float, rest: float, state: Any
) -> None:
    """A value that changes at a speed which walks at random.

    q: of the speed, unit²/s³. rest: variance of the speed before anything is known.
    state: (x, v, P_xx, P_xv, P_vv, time of the last), x NaN before the first.
    """
    x, v, pxx, pxv, pvv, last_s = state[0], state[1], state[2], state[3], state[4], state[5]
    for k in range(values.shape[0]):
        if is_good[k]:
            if x != x:
                x, v, pxx, pxv, pvv = values[k], 0.0, r, 0.0, rest
            else:
                dt = time_s[k] - last_s
                x += v * dt
                pxx += dt * (2.0 * pxv + dt * pvv) + q * dt * dt * dt / 3.0
                pxv += dt * pvv + q * dt * dt / 2.0
                pvv += q * dt
                s = pxx + r
                kx, kv = pxx / s, pxv / s
                miss = values[k] - x
                x += kx * miss
                v += kv * miss
                pvv -= kv * pxv
                pxv *= 1.0 - kx
                pxx *= 1.0 - kx
            last_s = time_s[k]
            values[k] = x
    state[0], state[1], state[2], state[3], state[4], state[5] = x, v, pxx, pxv, pvv, last_s


@compiled
def slew(values: Any, is_good: Any, time_s: Any, most_per_s: float, state: Any) -> None:
    """Follows no faster than `most_per_s`. state: (y, time of the last), y NaN before the first."""
    y, last_s = state[0], state[1]
    for k in range(values.shape[0]):
        if is_good[k]:
            if y != y:
                y = values[k]
            else:
                most = most_per_s * (time_s[k] - last_s)
                y += min(most, max(-most, values[k] - y))
            last_s = time_s[k]
            values[k] = y
    state[0], state[1] = y, last_s


@compiled
def innovation_sums(values: Any, q: float, r: float, told: Any, new: Any, expected: Any) -> None:
    """What each reading adds to a value that walks at random: Σν²/S and Σln S into `told`.

    new, expected: ν and S of every reading but the first, where there is room for them.
    """
    x, p = values[0], r
    squares, logs = 0.0, 0.0
    room = new.shape[0]
    for k in range(1, values.shape[0]):
        p += q
        s = p + r
        miss = values[k] - x
        squares += miss * miss / s
        logs += math.log(s)
        gain = p / s
        x += gain * miss
        p *= 1.0 - gain
        if k <= room:
            new[k - 1] = miss
            expected[k - 1] = s
    told[0], told[1] = squares, logs
