"""How often a threshold takes one surface for the other."""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.special import ndtr

from tickstone.core.heaps.heap import Heap
from tickstone.core.intervals import clopper_pearson


@dataclass(frozen=True, slots=True)
class Misread:
    """What a threshold does to two heaps.

    missed: of the dark samples, how many it takes for light. false: of the light ones, for dark.
    n_dark, n_light: of how many. missed_gaussian, false_gaussian: shares that normal heaps of the
    same mean and scatter would have, which tells where counting nothing says little.
    """

    missed: int
    false: int
    n_dark: int
    n_light: int
    missed_gaussian: float
    false_gaussian: float

    @property
    def rate(self) -> float:
        """The share of all samples that is misread."""
        return (self.missed + self.false) / (self.n_dark + self.n_light)

    @property
    def interval(self) -> tuple[float, float]:
        """Between which rates the true one lies, 95 %."""
        return clopper_pearson(self.missed + self.false, self.n_dark + self.n_light)

    @property
    def gaussian(self) -> float:
        """The share that normal heaps would have misread, as many of each."""
        return (self.missed_gaussian + self.false_gaussian) / 2.0


def misread(dark: Heap, light: Heap, at: float) -> Misread:
    """What a threshold does. A reading on it counts as not above.

    >>> dark, light = Heap.of("dark", [700, 702, 640]), Heap.of("light", [200, 203, 660])
    >>> found = misread(dark, light, 650.0)
    >>> found.missed, found.false, round(found.rate, 3)
    (1, 1, 0.333)
    """
    dark_is_high = dark.mean > light.mean
    dark_above, light_above = dark.above(at), light.above(at)
    missed = dark.n - dark_above if dark_is_high else dark_above
    false = light_above if dark_is_high else light.n - light_above
    return Misread(
        missed,
        false,
        dark.n,
        light.n,
        _tail(dark, at, is_above=not dark_is_high),
        _tail(light, at, is_above=dark_is_high),
    )


def _tail(heap: Heap, at: float, is_above: bool) -> float:
    """The share of a normal heap that lies beyond."""
    off = (heap.mean - at) if is_above else (at - heap.mean)
    if heap.sd > 0.0:
        return float(ndtr(off / heap.sd))
    return 0.5 if off == 0.0 else float(math.copysign(0.5, off) + 0.5)
