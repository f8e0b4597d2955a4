"""A number somebody has in mind."""

from __future__ import annotations

from tickstone.core.heaps.heap import Heap
from tickstone.core.thresholds.method import Method, Wanted


class Fixed(Method):
    """As typed."""

    name = "fixed"
    label = "Fixed"
    formula = "as typed"
    source = "common practice: 250, 350, 450, 550, and watch"

    def at(self, dark: Heap, light: Heap, wanted: Wanted) -> float | None:
        """What was typed, if anything."""
        return wanted.fixed
