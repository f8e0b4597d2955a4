"""Ways to choose a threshold between two heaps: a file for each, registered here."""

from __future__ import annotations

from tickstone.core.thresholds.equal_error import EqualError
from tickstone.core.thresholds.fixed import Fixed
from tickstone.core.thresholds.least_cost import LeastCost
from tickstone.core.thresholds.method import Method
from tickstone.core.thresholds.midpoint import Midpoint
from tickstone.core.thresholds.otsu import Otsu

METHODS: dict[str, Method] = {
    method.name: method for method in (EqualError(), Midpoint(), Otsu(), LeastCost(), Fixed())
}
