"""Gains of the ways to fuse that the noise of a recording suggests."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tickstone.core.calibration.poses import Held, stillness
from tickstone.core.calibration.rest_bias import STEADY_TURN
from tickstone.core.digests.kind import Figure
from tickstone.core.quantity import ANGLE, NUMBER, TIME, Quantity
from tickstone.core.signal import Signal

_FINE = replace(ANGLE, decimals=2)
_RATE = Quantity("rate", "rad/s", decimals=2)
_TELLS_S = 1.0


def suggested_gains(
    parameters: Any, force: Signal, rate: Signal, held: Sequence[Held]
) -> list[Figure]:
    """The gain of each way at which what both sensors do at rest costs the least, as figures.

    parameters: of the sensor, which each figure says how to set. held: where the force was still.
    One figure that says why, where nothing can be suggested.
    """
    gap_s = float(np.median(np.diff(force.time_s)))
    tilt, walk, bias = _at_rest(force, rate, held)
    if math.isnan(tilt):
        why = "it was never at rest for a second: what its noise is was not seen"
    elif tilt == 0.0 or walk == 0.0:
        why = "at rest its noise is finer than a step: nothing to weigh by"
    else:
        why = ""
    if why:
        return [Figure("tau", "suggested: gravity decides over", TIME, math.nan, math.nan, why)]
    tau_s = _balanced_s(tilt, walk, bias, gap_s)
    kp = 1.0 / tau_s
    beta = math.sqrt(0.75) * math.hypot(walk, bias)
    # R of the passing second; Q so that the filter lags by τ; that of the bias so that it follows
    # twenty times as slowly, and the two never swing against each other.
    q = tilt**2 * gap_s / tau_s**2
    q_bias = tilt**2 * gap_s * (0.05 / tau_s**2) ** 2
    left = f"{math.degrees(bias):.2g} °/s of bias left"

    def suggested(
        name: str, label: str, quantity: Quantity, value: float, how: str, **sets: float | str
    ) -> Figure:
        fits = _fits(parameters, sets)
        return Figure(name, label, quantity, value, math.nan, how, sets=sets if fits else {})

    return [
        suggested("tau", "suggested: gravity decides over", TIME, tau_s,
                  f"where the noise of both, and {left}, cost the least",
                  fusion="complementary", over_s=tau_s),
        suggested("tilt", "suggested: a tilt at rest, ±", _FINE, tilt,
                  "R is its square; both Q, so that it follows as fast",
                  fusion="kalman", kalman_tilt=tilt**2, kalman_angle=q, kalman_bias=q_bias),
        suggested("kp", "suggested kp", NUMBER, kp, "1 ÷ the first; ki its square ÷ 20",
                  fusion="mahony", kp=kp, ki=kp**2 / 20.0),
        suggested("beta", "suggested β", _RATE, beta,
                  f"√¾ of its noise and {left}; Madgwick 2010, eq. 50: the least",
                  fusion="madgwick", beta=beta),
    ]  # fmt: skip


def _balanced_s(tilt: float, walk: float, bias: float, gap_s: float) -> float:
    """τ, s, at which a²·dt/2τ + g²·dt·τ/2 + (b·τ)² is least, of a complementary filter's error.

    tilt: a, rad. walk: g, rad/s. bias: b, rad/s.
    """
    roots = np.roots([2.0 * bias**2, walk**2 * gap_s / 2.0, 0.0, -(tilt**2) * gap_s / 2.0])
    return float(max(root.real for root in roots if abs(root.imag) <= 1e-9 * abs(root)))


def _at_rest(force: Signal, rate: Signal, held: Sequence[Held]) -> tuple[float, float, float]:
    """Scatter of a tilt, rad, that of the gyroscope and the bias left in roll and pitch, rad/s.

    All NaN when it never was at rest. A board that turns about the plumb line holds its tilt still:
    its gyroscope tells no noise then.
    """
    tilts, walks, biases = [], [], []
    steadies = stillness(rate, STEADY_TURN, _TELLS_S)
    for still in held:
        for steady in steadies:
            edges = (max(still.start_s, steady.start_s), min(still.end_s, steady.end_s))
            if edges[1] - edges[0] < _TELLS_S:
                continue
            felt, turned = (_scatter(one, *edges) for one in (force, rate))
            tilts.append(felt / float(np.linalg.norm(still.mean)))
            walks.append(turned)
            # A mean is off by its own noise too: that is no bias.
            square = float(np.mean(steady.mean[:2] ** 2)) - turned**2 / steady.count
            biases.append((float(np.linalg.norm(steady.mean)), math.sqrt(max(0.0, square))))
    if not tilts:
        return math.nan, math.nan, math.nan
    # An even turn looks like a rest with a bias: the slowest stretch is the one that was none.
    return float(np.median(tilts)), float(np.median(walks)), min(biases)[1]


def _scatter(signal: Signal, start_s: float, end_s: float) -> float:
    """Root mean square over the three axes."""
    inside = (signal.time_s >= start_s) & (signal.time_s <= end_s)
    return math.sqrt(float(np.nanvar(signal.values[:, inside], axis=1).mean()))


def _fits(parameters: Any, sets: Mapping[str, float | str]) -> bool:
    """Whether they can be set: what a nearly silent sensor suggests is out of all bounds."""
    try:
        replace(parameters, **sets)
    except ValueError:
        return False
    return True
