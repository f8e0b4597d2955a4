"""The chain of a stored sensor."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.families.ultrasonic_ranger import RangerParameters, calibration_grounds
from tickstone.core.stages.calibration import Calibration as CalibrationStage
from tickstone.core.stages.stop_threshold import StopThreshold
from tickstone.core.stones.calibrated import AIR_CHANGE_LIMIT_C, air_change_c
from tickstone.store.models import Calibration, Recording, Sensor, Take, Threshold


def parameters_of(sensor: Sensor) -> RangerParameters:
    """The sensor's parameters: the family's defaults with what the person changed."""
    known = {field.name for field in fields(RangerParameters)}
    return RangerParameters(**{k: v for k, v in sensor.parameters.items() if k in known})


def differing(parameters: RangerParameters) -> dict[str, Any]:
    """What differs from the family's defaults, as it is stored."""
    usual = RangerParameters()
    return {
        field.name: getattr(parameters, field.name)
        for field in fields(RangerParameters)
        if getattr(parameters, field.name) != getattr(usual, field.name)
    }


def calibration_stage(
    calibration: Calibration, air: AirConditions, parameters: RangerParameters
) -> CalibrationStage:
    """The stored calibration as a stage, for readings taken in `air`.

    It takes in the shared errors only in air like that of its marks, and with the same chain.
    """
    same_air = abs(air_change_c(calibration.air, air)) <= AIR_CHANGE_LIMIT_C
    same_chain = calibration.grounds == calibration_grounds(parameters)
    count = calibration.marks_used
    return CalibrationStage(
        calibration.offset_m,
        calibration.scale,
        calibration.var_offset,
        calibration.var_scale,
        calibration.cov,
        absorbs_shared=same_air and same_chain,
        label=f"{count} mark{'' if count == 1 else 's'}, {calibration.made_at:%-d %b}",
    )


def threshold_stage(stop_m: float, go_m: float, parameters: RangerParameters) -> StopThreshold:
    """Two distances with this sensor's rules for silence."""
    return StopThreshold(stop_m, go_m, parameters.blind_stop_s, parameters.silence_is_clear)


def latest_threshold(session: Session, sensor_id: int) -> Threshold | None:
    """The threshold in use: the newest that is not deleted."""
    return session.scalars(
        select(Threshold)
        .where(Threshold.sensor_id == sensor_id, Threshold.deleted_at.is_(None))
        .order_by(Threshold.set_at.desc(), Threshold.id.desc())
        .limit(1)
    ).first()


def latest_recording(session: Session, sensor_id: int) -> Recording | None:
    """The newest recording that is not deleted."""
    return session.scalars(
        select(Recording)
        .where(Recording.sensor_id == sensor_id, Recording.deleted_at.is_(None))
        .join(Take, Take.id == Recording.take_id)
        .order_by(Take.recorded_at.desc(), Recording.id.desc())
        .limit(1)
    ).first()
