"""Which rangers hear which."""

from __future__ import annotations

import math

from tickstone.core.wiring.netlist import Device

SIDE_HEARING_RAD = math.radians(30.0)
"""How far beside its stated beam a ranger still answers to a hard wall (from memory)."""


def can_hear(one: Device, other: Device) -> bool | None:
    """Whether two rangers look so nearly the same way that one hears the other's echo.

    None when it is not said which way one of them looks.
    """
    if one.family.beam_rad is None or other.family.beam_rad is None:
        return False
    if one.facing_rad is None or other.facing_rad is None:
        return None
    apart = abs(math.remainder(one.facing_rad - other.facing_rad, 2.0 * math.pi))
    beams = (one.family.beam_rad.value + other.family.beam_rad.value) / 2.0
    return apart <= beams + SIDE_HEARING_RAD
