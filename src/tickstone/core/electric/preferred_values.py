"""Preferred numbers for resistors and capacitors: the E series of IEC 60063."""

from __future__ import annotations

import math

SERIES: dict[str, tuple[int, ...]] = {
    "E6": (100, 150, 220, 330, 470, 680),
    "E12": (100, 120, 150, 180, 220, 270, 330, 390, 470, 560, 680, 820),
    "E24": (
        *(100, 110, 120, 130, 150, 160, 180, 200, 220, 240, 270, 300),
        *(330, 360, 390, 430, 470, 510, 560, 620, 680, 750, 820, 910),
    ),
}
"""Steps of one decade, hundredfold. Source: IEC 60063; held against a reference package."""
USUAL_TOLERANCE = 0.05
"""What resistors of these series are mostly sold with: ± 5 % (common practice)."""


def values_between(low: float, high: float, series: str = "E12") -> tuple[float, ...]:
    """Every preferred value from `low` to `high`, rising.

    >>> values_between(1000, 2000)
    (1000.0, 1200.0, 1500.0, 1800.0)
    """
    steps = steps_of(series)
    if not (0.0 < low <= high < math.inf):
        return ()
    found = []
    for decade in range(math.floor(math.log10(low)), math.floor(math.log10(high)) + 1):
        for step in steps:
            value = float(f"{step * 10.0 ** (decade - 2):.6g}")
            if low * (1 - 1e-9) <= value <= high * (1 + 1e-9):
                found.append(value)
    return tuple(found)


def next_up(value: float, series: str = "E12") -> float:
    """The smallest preferred value that is not below `value`.

    Raises ValueError for a value that is not above 0 or a series that is not known.

    >>> next_up(200.0), next_up(200.0, "E24"), next_up(1000.0)
    (220.0, 200.0, 1000.0)
    """
    return values_between(_checked(value), value * 11.0, series)[0]


def next_down(value: float, series: str = "E12") -> float:
    """The greatest preferred value that is not above `value`.

    >>> next_down(200.0)
    180.0
    """
    return values_between(_checked(value) / 11.0, value, series)[-1]


def nearest(value: float, series: str = "E12") -> float:
    """The preferred value nearest in ratio.

    >>> nearest(4600.0), nearest(4600.0, "E24")
    (4700.0, 4700.0)
    """
    around = values_between(_checked(value) / 11.0, value * 11.0, series)
    return min(around, key=lambda one: abs(math.log(one / value)))


def steps_of(series: str) -> tuple[int, ...]:
    """The steps of a series. Raises ValueError when there is no such series."""
    if series not in SERIES:
        raise ValueError(f"there is no series “{series}”; known are {', '.join(SERIES)}")
    return SERIES[series]


def _checked(value: float) -> float:
    if not (1e-15 < value < 1e15):
        raise ValueError(f"a part of {value:g} cannot be; it has to be above 0")
    return value
