"""A thermometer on the line against the air that was typed."""

from __future__ import annotations

from tickstone.api.schemas.look import AirHeardOut
from tickstone.core.air.heard import disagrees
from tickstone.work.sensing import Sensing


def air_out(heard_c: float, sensing: Sensing) -> AirHeardOut | None:
    """What to say of it; None while they agree, or the air has no say in the readings."""
    air = sensing.surroundings.air
    if not sensing.kind.rests_on_air(sensing.parameters) or not disagrees(heard_c, air):
        return None
    return AirHeardOut(heard_c=heard_c, typed_c=air.temperature_c)
