"""Formulas on numbers with doubt: one formula for plain and for uncertain values.

Every doubt is a named source. The same source reached by two ways adds with its sign before it is
squared, because both ways lead to the same variable. Linear propagation, JCGM 100 eq. 13, by the
`uncertainties` package; the Monte Carlo check of JCGM 101 is the judge, in the tests.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import Any

from uncertainties import UFloat, ufloat

from tickstone.core.step import Lane
from tickstone.core.uncertainty import Component


@dataclass(slots=True)
class Sources:
    """The named sources of doubt that meet in one step of the working."""

    _known: dict[str, tuple[UFloat, Component]] = field(default_factory=dict)

    def of(self, lane: Lane) -> UFloat | float:
        """A lane of a reading, with every source of its budget.

        >>> sources = Sources()
        >>> lane = Lane(2.0, components=(Component("clock", 0.1, "s", 0.1, True, ""),))
        >>> both = sources.of(lane) - sources.of(lane)
        >>> sources.budget(both)
        ()
        """
        total: Any = lane.value
        for part in lane.components:
            total = total + part.contribution * self._variable(part)
        return total

    def known(self, part: Component, value: float) -> UFloat | float:
        """Something that is put in, with its doubt."""
        if part.u_input <= 0.0:
            return value
        return value + part.u_input * self._variable(part)

    def budget(self, result: Any) -> tuple[Component, ...]:
        """What the doubt of a result is made of, with signs, in the order the sources came in."""
        if not hasattr(result, "derivatives"):
            return ()
        by_variable = {id(one): slope for one, slope in result.derivatives.items()}
        parts = []
        for variable, part in self._known.values():
            slope = by_variable.get(id(variable), 0.0)
            if slope != 0.0:
                parts.append(replace(part, contribution=float(slope)))
        return tuple(parts)

    def _variable(self, part: Component) -> UFloat:
        if part.name not in self._known:
            self._known[part.name] = (ufloat(0.0, 1.0, tag=part.name), part)
        return self._known[part.name][0]


def plain(value: Any) -> float:
    """The number itself, without its doubt."""
    return float(value.nominal_value) if hasattr(value, "nominal_value") else float(value)


def lane_of(result: Any, sources: Sources, before: Lane) -> Lane:
    """A result as the lane that comes out, with the status that went in."""
    return Lane(plain(result), before.status, sources.budget(result))


def no_number(before: Lane) -> Lane:
    """A lane that has no value any more."""
    return Lane(math.nan, before.status, before.components)
