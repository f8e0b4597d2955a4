"""The families Tick Stone knows by name. Generic: people add their own parts under their own names.

A family with `has_chain` can be heard, calibrated and tuned; the others can so far only be noted as
wired and driven, and their other stones say so.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Family:
    """A kind of sensor."""

    name: str
    label: str
    has_chain: bool = False


FAMILIES: dict[str, Family] = {
    family.name: family
    for family in (
        Family("ultrasonic_ranger", "ultrasonic ranger", has_chain=True),
        Family("reflective_array", "reflective array"),
        Family("hall_switch", "Hall switch"),
        Family("six_axis", "six-axis unit"),
        Family("thermometer", "thermometer"),
        Family("battery_divider", "battery divider"),
    )
}
