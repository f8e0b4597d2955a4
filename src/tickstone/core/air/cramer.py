"""Speed of sound in humid air after Cramer.

O. Cramer, "The variation of the specific heat ratio and the speed of sound in air with temperature,
pressure, humidity, and CO2 concentration", J. Acoust. Soc. Am. 93(5), 1993, eq. 15. Water-vapour
fraction from the saturation pressure and enhancement factor of CIPM-81/91 (R. S. Davis, Metrologia
29, 1992).
"""

from __future__ import annotations

import math

from tickstone.core.air.conditions import AirConditions

CO2_FRACTION = 0.000_314
"""Mole fraction of carbon dioxide in the paper's standard air. Today's open air holds some 0.000 1
more, which is −0.01 m/s, far inside the equation's own uncertainty."""

RELATIVE_MODEL_U = 0.000_3
"""Standard uncertainty of the equation itself, relative (from memory: 300 parts in a million)."""


def saturation_pressure_pa(temperature_c: float) -> float:
    """Saturation pressure of water vapour, Pa, at temperature_c in °C (CIPM-81/91).

    >>> round(saturation_pressure_pa(20.0))
    2339
    """
    kelvin = temperature_c + 273.15
    return math.exp(
        1.2378847e-5 * kelvin**2 - 1.9121316e-2 * kelvin + 33.93711047 - 6.3431645e3 / kelvin
    )


def water_vapour_fraction(air: AirConditions) -> float:
    """Mole fraction of water vapour, 0 to 1, with the enhancement factor of CIPM-81/91.

    >>> round(water_vapour_fraction(AirConditions(20.0, 0.5)), 5)
    0.01159
    """
    enhancement = 1.00062 + 3.14e-8 * air.pressure_pa + 5.6e-7 * air.temperature_c**2
    saturation = saturation_pressure_pa(air.temperature_c)
    return min(1.0, air.relative_humidity * enhancement * saturation / air.pressure_pa)


def speed_of_sound(air: AirConditions, co2_fraction: float = CO2_FRACTION) -> float:
    """Speed of sound c, m/s, at zero frequency (Cramer eq. 15).

    Stated for 0 to 30 °C, 75 to 102 kPa, up to 0.06 water vapour and 0.01 carbon dioxide;
    `is_within_stated_range` tells.

    >>> round(speed_of_sound(AirConditions(20.0, 0.0)), 2)
    343.37
    """
    t, p, w, g = air.temperature_c, air.pressure_pa, water_vapour_fraction(air), co2_fraction
    return (
        331.5024
        + 0.603055 * t
        - 0.000528 * t**2
        + (51.471935 + 0.1495874 * t - 0.000782 * t**2) * w
        + (-1.82e-7 + 3.73e-8 * t - 2.93e-10 * t**2) * p
        + (-85.20931 - 0.228525 * t + 5.91e-5 * t**2) * g
        - 2.835149 * w**2
        - 2.15e-13 * p**2
        + 29.179762 * g**2
        + 0.000486 * w * p * g
    )


def is_within_stated_range(air: AirConditions) -> bool:
    """Whether eq. 15 was fitted for air like this."""
    return 0.0 <= air.temperature_c <= 30.0 and 75_000.0 <= air.pressure_pa <= 102_000.0
