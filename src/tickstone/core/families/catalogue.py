"""The families Tick Stone knows by name. Generic: people add their own parts under their own names.

A family with `has_chain` can be heard, calibrated and tuned; the others can so far only be noted as
wired and driven, and their other stones say so. A family that no drive can try out is not
`is_driven`.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Family:
    """A kind of sensor."""

    name: str
    label: str
    has_chain: bool = False
    is_driven: bool = True


FAMILIES: dict[str, Family] = {
    family.name: family
    for family in (
        Family("ultrasonic_ranger", "ultrasonic ranger", has_chain=True),
        Family("reflective_array", "reflective array"),
        Family("hall_switch", "Hall switch"),
        Family("six_axis", "six-axis unit"),
        Family("thermometer", "thermometer", is_driven=False),
        Family("battery_divider", "battery divider", is_driven=False),
    )
}
