"""Speed of sound in dry air as an ideal gas: c = √(γ·R·T/M).

Constants of the standard atmosphere: ICAO Doc 7488 / ISO 2533.
"""

from __future__ import annotations

import math

HEAT_CAPACITY_RATIO = 1.4
GAS_CONSTANT = 8.314_32
"""J/(mol·K), the value the standard atmosphere is defined with."""
MOLAR_MASS = 0.028_964_42
"""kg/mol."""


def speed_of_sound(temperature_c: float) -> float:
    """Speed of sound, m/s, at temperature_c in °C; humidity and pressure are left out.

    >>> round(speed_of_sound(15.0), 3)
    340.294
    """
    kelvin = temperature_c + 273.15
    return math.sqrt(HEAT_CAPACITY_RATIO * GAS_CONSTANT * kelvin / MOLAR_MASS)


def temperature_for(speed_m_per_s: float) -> float:
    """The dry-air temperature, °C, in which sound has this speed: the inverse of `speed_of_sound`.

    >>> round(temperature_for(343.0), 1)
    19.6
    """
    return speed_m_per_s**2 * MOLAR_MASS / (HEAT_CAPACITY_RATIO * GAS_CONSTANT) - 273.15
