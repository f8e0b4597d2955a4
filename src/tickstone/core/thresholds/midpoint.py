"""Half way between the heaps."""

from __future__ import annotations

from tickstone.core.heaps.heap import Heap
from tickstone.core.thresholds.method import Method, Wanted


class Midpoint(Method):
    """Fair to both when both scatter alike.

    >>> dark, light = Heap.of("dark", [690, 710]), Heap.of("light", [200, 204])
    >>> Midpoint().at(dark, light, Wanted())
    451.0
    """

    name = "midpoint"
    label = "Midpoint"
    formula = "t = (µ_d + µ_l)/2"
    source = "common practice"

    def at(self, dark: Heap, light: Heap, wanted: Wanted) -> float | None:
        """The mean of both means."""
        return (dark.mean + light.mean) / 2.0
