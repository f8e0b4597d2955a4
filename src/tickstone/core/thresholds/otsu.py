"""Otsu’s cut through all samples, whatever they are called."""

from __future__ import annotations

import numpy as np

from tickstone.core.heaps.heap import Heap
from tickstone.core.heaps.parting import otsu_place
from tickstone.core.thresholds.method import Method, Wanted


class Otsu(Method):
    """It needs no labels, and leans towards the wider heap, or the larger.

    >>> dark, light = Heap.of("dark", [690, 710]), Heap.of("light", [200, 204])
    >>> Otsu().at(dark, light, Wanted())
    447.0
    """

    name = "otsu"
    label = "Otsu"
    formula = "largest ω_d·ω_l·(µ_d − µ_l)²"
    source = "Otsu, IEEE Trans. SMC 9(1), 1979"

    def at(self, dark: Heap, light: Heap, wanted: Wanted) -> float | None:
        """Half way between the two values that it cuts between."""
        values, counts = np.unique(
            np.concatenate([dark.samples(), light.samples()]), return_counts=True
        )
        if len(values) < 2:
            return None
        place = otsu_place(values, counts)
        return float(values[place] + values[place + 1]) / 2.0
