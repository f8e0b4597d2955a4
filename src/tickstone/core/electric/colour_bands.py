"""Colour bands of resistors, both ways: IEC 60062."""

from __future__ import annotations

import math
from dataclasses import dataclass

DIGITS = (
    *("black", "brown", "red", "orange", "yellow"),
    *("green", "blue", "violet", "grey", "white"),
)
MULTIPLIERS = {
    "pink": -3,
    "silver": -2,
    "gold": -1,
    **{colour: power for power, colour in enumerate(DIGITS)},
}
TOLERANCES = {
    "brown": 0.01,
    "red": 0.02,
    "orange": 0.0005,
    "yellow": 0.0002,
    "green": 0.005,
    "blue": 0.0025,
    "violet": 0.001,
    "grey": 0.0001,
    "gold": 0.05,
    "silver": 0.10,
}
NO_BAND_TOLERANCE = 0.20
"""Source of all of these: IEC 60062:2016, table 1."""


@dataclass(frozen=True, slots=True)
class BandReading:
    """What the bands say. tolerance: as a fraction."""

    ohm: float
    tolerance: float


def bands_for(ohm: float, tolerance: float = 0.05, digits: int = 2) -> tuple[str, ...]:
    """The bands of a resistor: `digits` figures, the multiplier, and the tolerance unless ± 20 %.

    Raises ValueError when two (or three) figures cannot say the value, or no colour the tolerance.

    >>> bands_for(220), bands_for(4700)
    (('red', 'red', 'brown', 'gold'), ('yellow', 'violet', 'red', 'gold'))
    >>> bands_for(10_000, 0.01, digits=3)
    ('brown', 'black', 'black', 'red', 'brown')
    """
    if digits not in (2, 3):
        raise ValueError("resistors have 2 or 3 figures before the multiplier")
    if not (math.isfinite(ohm) and ohm > 0.0):
        raise ValueError(f"a resistor of {ohm:g} Ω has no bands; it has to be above 0")
    power = math.floor(math.log10(ohm) + 1e-9) - (digits - 1)
    figures = round(ohm / 10.0**power)
    if figures == 10**digits:
        figures, power = figures // 10, power + 1
    if abs(figures * 10.0**power - ohm) > 1e-6 * ohm:
        raise ValueError(f"{ohm:g} Ω needs more than {digits} figures")
    colours = {value: colour for colour, value in MULTIPLIERS.items()}
    if power not in colours:
        raise ValueError(f"no band says × 10^{power}; {ohm:g} Ω is outside what bands can say")
    said = [DIGITS[int(figure)] for figure in str(figures)]
    return (*said, colours[power], *_tolerance_band(tolerance))


def _tolerance_band(tolerance: float) -> tuple[str, ...]:
    if math.isclose(tolerance, NO_BAND_TOLERANCE):
        return ()
    for colour, value in TOLERANCES.items():
        if math.isclose(value, tolerance, rel_tol=1e-6):
            return (colour,)
    raise ValueError(f"no band says ± {100 * tolerance:g} %")


def read_bands(bands: tuple[str, ...]) -> BandReading:
    """What 3 to 6 bands say, from the end nearest them. A sixth, for temperature, is not read.

    Raises ValueError naming the band that cannot stand where it does.

    >>> read_bands(("yellow", "violet", "red", "gold"))
    BandReading(ohm=4700.0, tolerance=0.05)
    """
    if not 3 <= len(bands) <= 6:
        raise ValueError(f"a resistor has 3 to 6 bands, not {len(bands)}")
    count = 2 if len(bands) <= 4 else 3
    figures = 0
    for place, colour in enumerate(bands[:count], start=1):
        if colour not in DIGITS:
            raise ValueError(
                f"band {place} is {colour}, which is no figure; it may be the other end"
            )
        figures = 10 * figures + DIGITS.index(colour)
    multiplier = bands[count]
    if multiplier not in MULTIPLIERS:
        raise ValueError(f"band {count + 1} is {multiplier}, which is no multiplier")
    tolerance = NO_BAND_TOLERANCE
    if len(bands) > count + 1:
        last = bands[count + 1]
        if last not in TOLERANCES:
            raise ValueError(f"band {count + 2} is {last}, which says no tolerance")
        tolerance = TOLERANCES[last]
    if figures == 0:
        raise ValueError("these bands say 0 Ω; a wire link has a single black band")
    power = MULTIPLIERS[multiplier]
    value = float(figures * 10**power) if power >= 0 else figures / 10**-power
    return BandReading(value, tolerance)


def bands_or_none(ohm: float, tolerance: float) -> tuple[str, ...]:
    """The bands of a resistor; none when no bands can say it.

    >>> bands_or_none(1800.0, 0.05), bands_or_none(1803.7, 0.05)
    (('brown', 'grey', 'red', 'gold'), ())
    """
    for digits in (2, 3):
        try:
            return bands_for(ohm, tolerance, digits)
        except ValueError:
            continue
    return ()
