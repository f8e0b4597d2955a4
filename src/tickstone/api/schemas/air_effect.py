"""What a thermometer's air does to the distances of its rig."""

from __future__ import annotations

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer


class DistanceMovedOut(Answer):
    """One distance in the rig's air and in the air that was told, m, each with its standard
    uncertainty. is_heard: whether it is the middle one of the sensor's newest recording. rests:
    whether the air has a say in it.
    """

    sensor_id: int
    sensor: str
    is_heard: bool
    rests: bool
    typed_m: float | None
    told_m: float | None
    u_typed_m: float | None
    u_told_m: float | None


class AirEffectOut(Answer):
    """typed: the air as it is noted of the rig. told: with the thermometer's temperature."""

    typed: Air
    told: Air
    distances: list[DistanceMovedOut]
