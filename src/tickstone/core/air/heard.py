"""What a rig's own thermometer says of the air, beside what somebody typed."""

from __future__ import annotations

from tickstone.core.air.conditions import AirConditions

_THERMOMETER_C = 2.0
"""A small digital thermometer near warm parts is right to about this; from memory."""
_COLDEST_C, _WARMEST_C = -50.0, 90.0


def celsius_of(value: float, unit: str) -> float | None:
    """A reading in °C; None when it is none of air.

    >>> celsius_of(68.0, "°F"), celsius_of(293.15, "K"), celsius_of(20.5, "")
    (20.0, 20.0, 20.5)
    >>> celsius_of(-127.0, "°C") is None
    True
    """
    celsius = {"°F": (value - 32.0) / 1.8, "K": value - 273.15}.get(unit, value)
    return round(celsius, 9) if _COLDEST_C <= celsius <= _WARMEST_C else None


def disagrees(heard_c: float, air: AirConditions) -> bool:
    """Whether a thermometer says another air than was typed, beyond what both may be off.

    >>> disagrees(20.0, AirConditions(28.0)), disagrees(20.0, AirConditions(21.0))
    (True, False)
    """
    return abs(heard_c - air.temperature_c) > max(_THERMOMETER_C, air.temperature_tolerance_c)
