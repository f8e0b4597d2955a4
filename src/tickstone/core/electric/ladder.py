"""Volts along a wire with resistors in it and to the rails, by Thévenin's theorem.

Walking from the source to the pin, all that lies behind is always one voltage and one resistance; a
resistor in the wire adds to the resistance, one to a rail divides the voltage.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product


@dataclass(frozen=True, slots=True)
class Source:
    """volts behind ohm. ohm: infinite for a lead that lets go (open drain at rest).

    volts_tolerance: as a fraction, for the corners.
    """

    volts: float
    ohm: float
    volts_tolerance: float = 0.0


@dataclass(frozen=True, slots=True)
class Rung:
    """A resistor. to_volts: of the rail it goes to; None when it lies in the wire."""

    ohm: float
    to_volts: float | None = None
    tolerance: float = 0.0
    to_tolerance: float = 0.0


def along(source: Source, rungs: Sequence[Rung]) -> Source:
    """What the pin sees: volts V, and the resistance behind it, Ω.

    V' = (V·R_rail + V_rail·R)/(R + R_rail), R' = R·R_rail/(R + R_rail) for a resistor to a rail;
    R' = R + R_series for one in the wire. Volts are NaN when nothing defines them.

    >>> half = along(Source(5.0, 0.0), [Rung(1800.0), Rung(3300.0, 0.0)])
    >>> round(half.volts, 3), round(half.ohm, 1)
    (3.235, 1164.7)
    """
    volts, ohm = source.volts, source.ohm
    if math.isinf(ohm):
        volts = math.nan
    for rung in rungs:
        if rung.to_volts is None:
            ohm += rung.ohm
        elif math.isinf(ohm):
            volts, ohm = rung.to_volts, rung.ohm
        else:
            total = ohm + rung.ohm
            volts = (volts * rung.ohm + rung.to_volts * ohm) / total if total > 0.0 else volts
            ohm = ohm * rung.ohm / total if total > 0.0 else 0.0
    return Source(volts, ohm)


def corners(source: Source, rungs: Sequence[Rung]) -> tuple[float, float]:
    """The lowest and highest volts at the pin with every tolerance as bad as it may be.

    The volts are monotonic in each part, so that the extremes lie where each is at an end.

    >>> low, high = corners(Source(5.0, 0.0), [Rung(1800.0, None, 0.05), Rung(3300.0, 0.0, 0.05)])
    >>> round(low, 2), round(high, 2)
    (3.12, 3.35)
    """
    sources = [
        replace(source, volts=source.volts * (1 + sign * source.volts_tolerance))
        for sign in _signs(source.volts_tolerance)
    ]
    variants = [
        [
            replace(
                rung,
                ohm=rung.ohm * (1 + sign * rung.tolerance),
                to_volts=None
                if rung.to_volts is None
                else rung.to_volts * (1 + rail * rung.to_tolerance),
            )
            for sign in _signs(rung.tolerance)
            for rail in _signs(rung.to_tolerance if rung.to_volts else 0.0)
        ]
        for rung in rungs
    ]
    volts = [along(first, chosen).volts for first in sources for chosen in product(*variants)]
    return min(volts), max(volts)


def _signs(tolerance: float) -> tuple[float, ...]:
    return (-1.0, 1.0) if tolerance else (0.0,)
