"""A divider that brings a voltage down: the pair of preferred values that does it safely."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.electric.ladder import Rung, Source, corners
from tickstone.core.electric.preferred_values import USUAL_TOLERANCE, values_between


@dataclass(frozen=True, slots=True)
class DividerPair:
    """top_ohm: towards the source. bottom_ohm: to ground. Volts at the tap, V.

    low_v, high_v: with both resistors' tolerances against you and the input at its nominal volts.
    """

    top_ohm: float
    bottom_ohm: float
    nominal_v: float
    low_v: float
    high_v: float


def divided(v_in: float, top_ohm: float, bottom_ohm: float) -> float:
    """V_out = V_in·R₂/(R₁ + R₂), unloaded.

    >>> round(divided(5.0, 10_000, 4_700), 2), round(divided(5.0, 4_700, 10_000), 2)
    (1.6, 3.4)
    """
    return v_in * bottom_ohm / (top_ohm + bottom_ohm)


def choose_divider(
    v_in: float,
    not_above_v: float,
    absolute_max_v: float,
    high_min_v: float = 0.0,
    v_in_tolerance: float = 0.0,
    series: str = "E12",
    tolerance: float = USUAL_TOLERANCE,
    total_ohm: float = 5_000.0,
) -> DividerPair | None:
    """The pair that gives the most without going over; None when no pair of the series does.

    The nominal volts stay at or under `not_above_v`. With the resistors' and the input's tolerances
    all against you they stay under `absolute_max_v` and reach `high_min_v`. Of pairs alike in volts
    it is the one whose sum is nearest `total_ohm` in ratio: stiff, without wasting current.

    >>> pair = choose_divider(5.0, 3.3, 3.6, 2.475, 0.05)
    >>> pair.top_ohm, pair.bottom_ohm, round(pair.low_v, 2), round(pair.high_v, 2)
    (1800.0, 3300.0, 3.12, 3.35)
    """
    found: list[tuple[float, float, DividerPair]] = []
    values = values_between(total_ohm / 50.0, total_ohm * 4.0, series)
    for top in values:
        for bottom in values:
            total = top + bottom
            if not total_ohm / 3.0 <= total <= total_ohm * 3.0:
                continue
            nominal = divided(v_in, top, bottom)
            if nominal > not_above_v * (1 + 1e-9):
                continue
            rungs = [Rung(top, None, tolerance), Rung(bottom, 0.0, tolerance)]
            worst_low, worst_high = corners(Source(v_in, 0.0, v_in_tolerance), rungs)
            if worst_low < high_min_v or worst_high > absolute_max_v:
                continue
            low, high = corners(Source(v_in, 0.0), rungs)
            # Volts alike to a hundredth of the limit count as the same.
            rank = round(nominal / not_above_v, 2)
            unlike = abs(math.log(total / total_ohm))
            found.append((-rank, unlike, DividerPair(top, bottom, nominal, low, high)))
    return min(found, key=lambda one: one[:2])[2] if found else None
