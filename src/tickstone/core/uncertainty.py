"""Standard uncertainty and its budget, after JCGM 100:2008 (the GUM), linear propagation.

Everything here is a *standard* uncertainty u. What a person reads is U = k·u with k = 2.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

COVERAGE_FACTOR = 2.0


@dataclass(frozen=True, slots=True)
class Component:
    """One line of an uncertainty budget.

    name: what is not known exactly, such as ``thermometer``.
    u_input: its standard uncertainty, in `input_unit`.
    input_unit: unit of `u_input`.
    contribution: signed part of the result's uncertainty, in its unit (c_i·u_i, JCGM 100 §5.1.3).
    shared: True when the same error sits in every sample (a thermometer that reads high), so that
        averaging cannot remove it and comparing with a ruler can.
    basis: where the figure comes from, in a few words.
    """

    name: str
    u_input: float
    input_unit: str
    contribution: float
    shared: bool
    basis: str

    def through(self, sensitivity: float) -> Component:
        """This component after a stage with local derivative `sensitivity`."""
        return replace(self, contribution=self.contribution * sensitivity)


def rectangular(half_width: float) -> float:
    """Standard uncertainty of a quantity known only to lie within ± half_width (JCGM 100 §4.3.7).

    >>> round(rectangular(2.0), 4)
    1.1547
    """
    return half_width / math.sqrt(3.0)


def combined(components: Iterable[Component]) -> float:
    """Combined standard uncertainty of independent components (JCGM 100 eq. 10).

    >>> combined([Component("a", 3, "m", 3.0, True, ""), Component("b", 4, "m", -4.0, True, "")])
    5.0
    """
    return math.sqrt(math.fsum(c.contribution * c.contribution for c in components))


def expanded(u: float) -> float:
    """U = k·u with k = 2, about 95 % for a normal distribution (JCGM 100 §6.3.3).

    >>> expanded(0.002)
    0.004
    """
    return COVERAGE_FACTOR * u
