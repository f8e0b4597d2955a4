"""Allan deviation: how long it is worth averaging something that is held still.

Overlapping estimate, as in IEEE Std 952 and NIST SP 1065.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import nnls

from tickstone.core.signal import FloatArray

_PER_DECADE = 8
_LONGEST_SHARE = 5
"""Of less than five stretches nothing is told: each point there is one guess."""
_FLICKER = 2.0 * math.log(2.0) / math.pi
_WORTH_SAYING = 12.0
"""By how much a further kind of noise has to lower χ² before it is believed."""


@dataclass(frozen=True, slots=True)
class Noise:
    """What an Allan deviation says.

    tau_s, deviation: the points, shape (k,). walk: N, of white noise: for each √s of averaging,
    in the unit·√s. instability: B, in the unit; 0 where the record is too short to tell.
    best_s: averaging time after which more does not help, at most what the record tells.
    is_flat: whether it had come to that within the record.
    """

    tau_s: FloatArray
    deviation: FloatArray
    walk: float
    instability: float
    ramble: float
    best_s: float
    is_flat: bool

    def left(self, over_s: float) -> float:
        """Standard uncertainty of a mean over so long: white noise, and what wanders.

        >>> Noise(np.ones(1), np.ones(1), 2.0, 0.0, 0.0, 1.0, False).left(4.0)
        1.0
        """
        white = self.walk**2 / over_s
        return math.sqrt(white + _FLICKER * self.instability**2 + self.ramble**2 * over_s / 3.0)

    @property
    def instability_at_most(self) -> float:
        """What the bias instability can be, where the record ended before it was seen.

        >>> round(Noise(np.ones(1), np.ones(1), 2.0, 0.0, 0.0, 4.0, False).instability_at_most, 3)
        1.505
        """
        return self.instability or self.left(self.best_s) / math.sqrt(_FLICKER)


def overlapping(
    values: FloatArray, tau0_s: float, sizes: FloatArray | None = None
) -> tuple[FloatArray, FloatArray]:
    """Averaging times, s, and the overlapping Allan deviation at each.

    values: shape (n,), evenly spaced by `tau0_s`. sizes: how many are averaged at each; about eight
    for every factor of ten unless given.

    >>> tau_s, deviation = overlapping(np.array([1.0, 2.0, 1.0, 2.0]), 1.0, np.array([1]))
    >>> deviation.round(4).tolist()
    [0.7071]
    """
    n = len(values)
    if sizes is None:
        longest = max(1, n // 2)
        count = max(2, int(_PER_DECADE * math.log10(longest)) + 1)
        sizes = np.unique(np.round(np.logspace(0.0, math.log10(longest), count)))
    sums = np.concatenate(([0.0], np.cumsum(values - np.mean(values))))
    deviation = np.empty(len(sizes))
    for place, size in enumerate(sizes.astype(np.int64).tolist()):
        second = sums[2 * size :] - 2.0 * sums[size:-size] + sums[: -2 * size]
        deviation[place] = math.sqrt(float(second @ second) / (2.0 * len(second))) / size
    return sizes * tau0_s, deviation


def noise_of(values: FloatArray, tau0_s: float) -> Noise:
    """What kind of noise there is in values of something held still.

    Raises ValueError for fewer than 50.

    >>> rng = np.random.default_rng(1)
    >>> noise = noise_of(rng.normal(0.0, 0.3, 20_000), 0.01)
    >>> round(noise.walk, 3), noise.is_flat
    (0.03, False)
    """
    n = len(values)
    if n < 50:
        raise ValueError(f"{n} readings are too few to tell its noise; 50 at least")
    tau_s, deviation = overlapping(values, tau0_s)
    told = tau_s <= n * tau0_s / _LONGEST_SHARE
    tau, variance = tau_s[told], deviation[told] ** 2
    if not (variance > 0.0).any():
        return Noise(tau_s, deviation, 0.0, 0.0, 0.0, float(tau[0]), False)
    # Of each point about n/m stretches are their own; a share of its square is its scatter.
    own = np.maximum(1.0, n * tau0_s / tau - 1.0)
    sigma = np.maximum(variance, 1e-300) * np.sqrt(2.0 / own)
    shapes = np.stack([1.0 / tau, np.full(len(tau), _FLICKER), tau / 3.0])
    chosen, best = [0], math.inf
    parts = np.zeros(3)
    for more in ([0], [0, 1], [0, 2], [0, 1, 2]):
        found, left = nnls((shapes[more] / sigma).T, variance / sigma)
        # Neighbouring points share most of their readings: about three make one.
        score = left**2 / 3.0
        if score < best - _WORTH_SAYING * (len(more) - len(chosen)) or best == math.inf:
            chosen, best = more, score
            parts = np.zeros(3)
            parts[more] = found
    walk, instability, ramble = np.sqrt(parts).tolist()
    longest_s = float(tau[-1])
    if ramble > 0.0:
        best_s = min(longest_s, math.sqrt(3.0) * walk / ramble)
    elif instability > 0.0:
        # Where white noise has sunk to a third of what stays.
        best_s = min(longest_s, 9.0 * walk**2 / (_FLICKER * instability**2))
    else:
        best_s = longest_s
    is_flat = best_s < longest_s
    return Noise(tau_s, deviation, walk, instability, ramble, best_s, is_flat)
