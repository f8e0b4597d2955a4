"""The air a sensor works in, and how well it is known."""

from __future__ import annotations

import math
from dataclasses import dataclass

STANDARD_PRESSURE_PA = 101_325.0


@dataclass(frozen=True, slots=True)
class AirConditions:
    """Temperature, humidity and pressure with the tolerance of what measured them.

    temperature_c: °C. relative_humidity: 0 to 1. pressure_pa: Pa.
    *_tolerance: half width of the interval the true value lies in (rectangular).

    Raises ValueError for values no air on a bench can have.

    The default tolerances are common practice: a low-cost digital thermometer is stated to ± 2 °C.
    """

    temperature_c: float
    relative_humidity: float = 0.5
    pressure_pa: float = STANDARD_PRESSURE_PA
    temperature_tolerance_c: float = 2.0
    humidity_tolerance: float = 0.05
    pressure_tolerance_pa: float = 3_000.0

    def __post_init__(self) -> None:
        _within("air temperature", self.temperature_c, -40.0, 60.0, "°C")
        _within("relative humidity", self.relative_humidity, 0.0, 1.0, "of 1")
        _within("air pressure", self.pressure_pa, 30_000.0, 120_000.0, "Pa")
        _within("thermometer tolerance", self.temperature_tolerance_c, 0.0, 30.0, "°C")
        _within("hygrometer tolerance", self.humidity_tolerance, 0.0, 1.0, "of 1")
        _within("pressure tolerance", self.pressure_tolerance_pa, 0.0, 50_000.0, "Pa")


def _within(what: str, value: float, low: float, high: float, unit: str) -> None:
    if not (math.isfinite(value) and low <= value <= high):
        raise ValueError(f"the {what} is {value:g}; it has to lie from {low:g} to {high:g} {unit}")
