"""Two heaps in samples that nobody labelled, as a wave across a strip gives them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.heaps.heap import Heap, d_prime
from tickstone.core.signal import FloatArray

LEAST_D_PRIME = 4.0
"""Any one heap cut in two looks 2.7 (normal) to 3.5 (even) apart; what stands less apart than this
is one heap."""
FEWEST = 10
ONE_HEAP = "the samples are one heap: nothing parts them"
_CORE_SIGMAS = 4.0
_DENSE = 0.35
"""The densest stretch of a side with so much of its samples lies on the heap itself."""
_THIN = 0.03
"""A stretch as wide that holds less than this share of it is no longer of the heap."""


@dataclass(frozen=True, slots=True)
class Parted:
    """Two heaps, and how many samples stand between them, on the edge of a strip.

    why_one: why it is one heap after all; empty when it is two. `low` then holds all there is.
    """

    low: Heap
    high: Heap
    between: int
    why_one: str = ""


def otsu_place(values: npt.ArrayLike, counts: npt.ArrayLike) -> int:
    """After which of the values, rising, to part them so that the two sides scatter least.

    Otsu, IEEE Trans. SMC 9(1), 1979, eq. 18: it makes ω₀ω₁(µ₁ − µ₀)² largest; the first of equals.
    Raises ValueError with fewer than two values.

    >>> otsu_place([1, 2, 9, 10], [5, 5, 5, 5])
    1
    """
    values, counts = np.asarray(values, dtype=np.float64), np.asarray(counts, dtype=np.float64)
    if len(values) < 2:
        raise ValueError("one value alone cannot be parted")
    below = np.cumsum(counts)
    total = below[-1]
    moved = values - values[0]
    sums = np.cumsum(counts * moved)
    above = total - below[:-1]
    means = sums[:-1] / below[:-1]
    means_above = (sums[-1] - sums[:-1]) / above
    return int(np.argmax(below[:-1] * above * np.square(means_above - means)))


def part(samples: npt.ArrayLike, names: tuple[str, str] = ("low", "high")) -> Parted:
    """The two heaps of unlabelled samples: Otsu’s cut, then on each side what lies near its core.

    What lies far from both, as the edge of a strip does under the sensor, is counted and left out.

    >>> rng = np.random.default_rng(1)
    >>> both = part(np.concatenate([rng.normal(200, 3, 60), rng.normal(700, 5, 40)]))
    >>> both.low.n, both.high.n, both.why_one
    (60, 40, '')
    """
    given = np.asarray(samples, dtype=np.float64).reshape(-1)
    given = given[np.isfinite(given)]
    if len(given) < 2 * FEWEST:
        return _one(given, names, f"{len(given)} samples are too few; {2 * FEWEST} at least")
    values, counts = np.unique(given, return_counts=True)
    if len(values) < 2:
        return _one(given, names, "every sample is the same")
    cut = values[otsu_place(values, counts)]
    low, high = _core(given[given <= cut], -1.0), _core(given[given > cut], 1.0)
    heaps = Heap.of(names[0], low), Heap.of(names[1], high)
    if min(len(low), len(high)) < FEWEST:
        return _one(given, names, f"fewer than {FEWEST} samples stand apart from the rest")
    if d_prime(*heaps) < LEAST_D_PRIME:
        return _one(given, names, ONE_HEAP)
    return Parted(*heaps, len(given) - len(low) - len(high))


def _core(side: FloatArray, outward: float) -> FloatArray:
    """What belongs to the heap of one side: from where its samples stand densest outward, as far as
    they stay dense; then within a few standard deviations of its middle. Between the heaps lies,
    thinly, what the edge of a strip gave.

    outward: -1 or 1, away from the other heap.
    """
    ordered = np.sort(side)
    many = max(2, round(_DENSE * len(ordered)))
    spans = ordered[many - 1 :] - ordered[: len(ordered) - many + 1]
    first = int(np.argmin(spans))
    low, high = float(ordered[first]), float(ordered[first + many - 1])
    width = max(high - low, _step(ordered))
    enough = max(2.0, _THIN * many)
    while np.count_nonzero((ordered >= low - width) & (ordered < low)) >= enough:
        low -= width
    while np.count_nonzero((ordered > high) & (ordered <= high + width)) >= enough:
        high += width
    middle = float(np.median(ordered[(ordered >= low) & (ordered <= high)]))
    # How it scatters is seen where no edge of a strip lies.
    outside = ordered[outward * (ordered - middle) >= 0.0] - middle
    # Half a step of a converter is never wild.
    reach = _CORE_SIGMAS * max(float(np.sqrt(np.mean(np.square(outside)))), 0.3 * _step(ordered))
    return side[np.abs(side - middle) <= reach]


def _step(side: FloatArray) -> float:
    values = np.unique(side)
    return float(np.min(np.diff(values))) if len(values) > 1 else 0.0


def _one(given: FloatArray, names: tuple[str, str], why: str) -> Parted:
    return Parted(Heap.of(names[0], given), Heap.of(names[1], []), 0, why)
