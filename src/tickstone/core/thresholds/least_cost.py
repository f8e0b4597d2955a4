"""Where the expected cost of a mistake is least, by what the person says a mistake costs."""

from __future__ import annotations

import math

from tickstone.core.heaps.heap import Heap
from tickstone.core.thresholds.equal_error import EqualError
from tickstone.core.thresholds.method import Method, Wanted


class LeastCost(Method):
    """Two normal heaps: where dark_share·cost_missed·f_d(t) = (1 − dark_share)·cost_false·f_l(t),
    between them; at the mean of the one whose mistakes cost next to nothing when there is no such
    point.

    >>> dark, light = Heap.of("dark", [690, 710]), Heap.of("light", [190, 210])
    >>> LeastCost().at(dark, light, Wanted())
    450.0
    >>> LeastCost().at(dark, light, Wanted(cost_missed=1000.0)) < 450.0
    True
    """

    name = "least-cost"
    label = "Least cost"
    formula = "p_d·c_missed·f_d(t) = p_l·c_false·f_l(t)"
    source = "Bayes decision between two normal heaps"

    def at(self, dark: Heap, light: Heap, wanted: Wanted) -> float | None:
        """The point between the means."""
        if not (dark.sd > 0.0 and light.sd > 0.0):
            return EqualError().at(dark, light, wanted)
        weight_d = wanted.dark_share * wanted.cost_missed
        weight_l = (1.0 - wanted.dark_share) * wanted.cost_false
        # ln of both sides: a·t² + b·t + c = 0 in t from the dark mean, in units of the gap.
        gap = light.mean - dark.mean
        if gap == 0.0:
            return dark.mean
        sd, sl = dark.sd / abs(gap), light.sd / abs(gap)
        level = math.log((weight_d / sd) / (weight_l / sl))
        a = 0.5 / sl**2 - 0.5 / sd**2
        b = -1.0 / sl**2
        c = 0.5 / sl**2 + level
        place = _falling_root(a, b, c)
        if place is None:
            place = 1.0 if (0.25 * a + 0.5 * b + c) > 0.0 else 0.0
        return dark.mean + place * gap


def _falling_root(a: float, b: float, c: float) -> float | None:
    """Where a·x² + b·x + c falls through 0 between 0 and 1, if it does."""
    if abs(a) < 1e-12 * abs(b):
        roots = [-c / b]
    else:
        inside = b * b - 4.0 * a * c
        if inside < 0.0:
            return None
        # The larger in size first, so that the other does not suffer from their difference.
        larger = -(b + math.copysign(math.sqrt(inside), b)) / 2.0
        roots = [larger / a, c / larger] if larger != 0.0 else [0.0]
    return next((x for x in roots if 0.0 <= x <= 1.0 and 2.0 * a * x + b <= 0.0), None)
