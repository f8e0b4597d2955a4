"""As many standard deviations from one heap as from the other."""

from __future__ import annotations

from tickstone.core.heaps.heap import Heap
from tickstone.core.thresholds.method import Method, Wanted
from tickstone.core.thresholds.midpoint import Midpoint


class EqualError(Method):
    """Normal heaps are then misread equally often.

    >>> dark, light = Heap.of("dark", [690, 710]), Heap.of("light", [200, 204])
    >>> round(EqualError().at(dark, light, Wanted()), 1)
    285.0
    """

    name = "equal-error"
    label = "Equal error"
    formula = "t = (µ_d·σ_l + µ_l·σ_d)/(σ_d + σ_l)"
    source = "where two normal heaps have equal tails"

    def at(self, dark: Heap, light: Heap, wanted: Wanted) -> float | None:
        """The point; half way when neither scatters."""
        both = dark.sd + light.sd
        if not both > 0.0:
            return Midpoint().at(dark, light, wanted)
        return (dark.mean * light.sd + light.mean * dark.sd) / both
