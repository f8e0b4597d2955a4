"""A thermometer's word on the air, and every distance that it moves."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.desk import CatalogueDep, DeskDep, RecordingDep, SessionDep
from tickstone.api.problems import does_not_fit, not_found
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.air_effect import AirEffectOut, DistanceMovedOut
from tickstone.api.schemas.look import Draft
from tickstone.api.trying import sensing_tried
from tickstone.core.display import finite
from tickstone.work.air_effect import DistanceMoved, air_effect

router = APIRouter(prefix="/api/recordings", tags=["recordings"])


@router.get("/{recording_id}/air-effect")
def read_air_effect(
    recording: RecordingDep, session: SessionDep, desk: DeskDep, catalogue: CatalogueDep
) -> AirEffectOut:
    """The last temperature of a thermometer in the air, against what is noted of the rig."""
    family = catalogue.devices.get(recording.sensor.family)
    if family is None or not family.tells_air:
        raise not_found("air in this recording: its sensor tells none")
    sensing = sensing_tried(session, desk, catalogue, recording.sensor, Draft(), recording)
    try:
        effect = air_effect(session, desk.cache, catalogue, recording, sensing)
    except ValueError as error:
        raise does_not_fit(str(error)) from error
    session.commit()
    return AirEffectOut(
        typed=Air.of(effect.typed),
        told=Air.of(effect.told),
        distances=[_moved_out(one) for one in effect.distances],
    )


def _moved_out(one: DistanceMoved) -> DistanceMovedOut:
    return DistanceMovedOut(
        sensor_id=one.sensor.id,
        sensor=one.sensor.name,
        is_heard=one.is_heard,
        rests=one.rests,
        typed_m=finite(one.typed_m),
        told_m=finite(one.told_m),
        u_typed_m=finite(one.u_typed_m),
        u_told_m=finite(one.u_told_m),
    )
