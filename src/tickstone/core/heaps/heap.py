"""A heap: what was read of one surface, as values and how often each came."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray

MOST_VALUES = 2_048
"""Samples of more values than this are put on a grid of as many."""


@dataclass(frozen=True, slots=True)
class Heap:
    """Values, rising, and how often each came, as many.

    >>> heap = Heap.of("floor", [101, 99, 100, 100])
    >>> heap.n, heap.mean, round(heap.sd, 3), heap.above(100.0)
    (4, 100.0, 0.816, 1)
    """

    name: str
    values: tuple[float, ...]
    counts: tuple[int, ...]

    def __post_init__(self) -> None:
        if len(self.values) != len(self.counts):
            raise ValueError(f"the heap “{self.name}” has not one count for each value")
        if any(one < 0 for one in self.counts):
            raise ValueError(f"the heap “{self.name}” has counts below 0")
        if any(b <= a for a, b in zip(self.values, self.values[1:], strict=False)):
            raise ValueError(f"the values of the heap “{self.name}” do not rise")

    @classmethod
    def of(cls, name: str, samples: npt.ArrayLike) -> Heap:
        """Of single samples; those that are no numbers are left out."""
        given = np.asarray(samples, dtype=np.float64).reshape(-1)
        given = given[np.isfinite(given)]
        values, counts = np.unique(given, return_counts=True)
        if len(values) > MOST_VALUES:
            low, high = float(values[0]), float(values[-1])
            grid = np.linspace(low, high, MOST_VALUES)
            places = np.rint((given - low) / (high - low) * (MOST_VALUES - 1)).astype(np.int64)
            numbers = np.bincount(places, minlength=MOST_VALUES)
            values, counts = grid[numbers > 0], numbers[numbers > 0]
        return cls(name, tuple(values.tolist()), tuple(counts.tolist()))

    @classmethod
    def together(cls, name: str, heaps: Sequence[Heap]) -> Heap:
        """Several as one."""
        return cls.of(name, np.concatenate([one.samples() for one in heaps] or [np.empty(0)]))

    @property
    def n(self) -> int:
        """How many samples there are."""
        return sum(self.counts)

    @property
    def mean(self) -> float:
        """Their mean; NaN without any."""
        if not self.n:
            return math.nan
        return float(np.average(self.values, weights=self.counts))

    @property
    def sd(self) -> float:
        """Their standard deviation, n − 1; 0 of a single one, NaN without any."""
        if self.n < 2:
            return 0.0 if self.n else math.nan
        off = np.square(np.array(self.values) - self.mean)
        return math.sqrt(float(np.dot(off, self.counts)) / (self.n - 1))

    def samples(self) -> FloatArray:
        """Every sample, rising."""
        return np.repeat(np.array(self.values, dtype=np.float64), self.counts)

    def above(self, at: float) -> int:
        """How many lie above a value."""
        first = int(np.searchsorted(self.values, at, side="right"))
        return sum(self.counts[first:])

    def share_at(self, value: float) -> float:
        """What share of the samples has this very value."""
        place = int(np.searchsorted(self.values, value))
        is_there = place < len(self.values) and self.values[place] == value
        return self.counts[place] / self.n if is_there else 0.0


def d_prime(one: Heap, other: Heap) -> float:
    """How far two heaps stand apart, in their own scatter: |µ₁ − µ₂|/√((σ₁² + σ₂²)/2).

    Infinite when neither scatters and they differ.

    >>> round(d_prime(Heap.of("a", [0, 2]), Heap.of("b", [10, 12])), 6)
    7.071068
    """
    apart = abs(one.mean - other.mean)
    scatter = math.sqrt((one.sd**2 + other.sd**2) / 2.0)
    if scatter > 0.0:
        return apart / scatter
    return math.inf if apart > 0.0 else 0.0
