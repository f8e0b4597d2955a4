"""Stopping distances and thresholds."""

from __future__ import annotations

import math

from fastapi import APIRouter

from tickstone.api.desk import RangerDep, RowId, SessionDep, find
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.sensor import StoppingIn, StoppingOut, ThresholdIn, ThresholdOut
from tickstone.core.display import prefixed
from tickstone.core.reading_units import typed_span
from tickstone.core.stages.air_speed import MICROSECOND
from tickstone.core.stopping import (
    StoppingInputs,
    greatest_speed_m_per_s,
    stopping_distance,
    suggested_thresholds_m,
)
from tickstone.core.timing.loop_budget import LoopBudget
from tickstone.store.models import Recording, Sensor, Threshold, utc_now
from tickstone.work.catalogue import catalogue_of
from tickstone.work.chains import (
    calibration_stage,
    latest_recording,
    parameters_of,
    threshold_stage,
)
from tickstone.work.view import reading_u_m
from tickstone.work.wiring import budget_of

router = APIRouter(prefix="/api", tags=["thresholds"])

USUAL_STOP_M = 0.4


def threshold_out(row: Threshold) -> ThresholdOut:
    """A threshold as kept."""
    return ThresholdOut(
        id=row.id,
        set_at=row.set_at,
        stop_m=row.stop_m,
        go_m=row.go_m,
        needed_m=row.needed_m,
        stopping=StoppingIn.model_validate(row.stopping) if row.stopping else None,
        calibration_id=row.calibration_id,
    )


def _inputs(session: SessionDep, sensor: Sensor, body: StoppingIn) -> tuple[StoppingInputs, str]:
    """The core's inputs, with what was left out taken from the newest recording and the chain."""
    parameters = parameters_of(sensor)
    recording = latest_recording(session, sensor.id)
    budget = budget_of(sensor.rig, catalogue_of(session))
    sample_s, note = _between_readings(sensor, recording, budget)
    if body.sample_s is not None:
        sample_s = body.sample_s
    filter_s = body.filter_s
    if filter_s is None:
        filter_s = (parameters.median_n - 1) / 2 * sample_s
    loop_s = body.loop_s
    if loop_s is None:
        loop_s = budget.loop_s
        note += f"; one turn of the program takes {prefixed(loop_s, 's')} by its time budget"
    air = sensor.rig.air
    calibration = (
        calibration_stage(sensor.calibration, air, parameters) if sensor.calibration else None
    )
    near_m = body.stop_m or USUAL_STOP_M
    u_m = reading_u_m(max(near_m, 2 * parameters.min_m), parameters, air, calibration)
    if not math.isfinite(u_m):
        span = typed_span(parameters.min_m, parameters.max_m)
        raise does_not_fit(
            f"this ranger never reads a distance to stop by: its working line gives none within "
            f"its range, {span}, and its echo timeout of "
            f"{prefixed(parameters.timeout_us * MICROSECOND, 's')}. Open its cells and change "
            "what keeps it from reading",
            "parameters",
        )
    return (
        StoppingInputs(
            speed_m_per_s=body.speed_m_per_s,
            speed_u=body.speed_u,
            deceleration_m_per_s2=body.deceleration_m_per_s2,
            deceleration_u=body.deceleration_u,
            sample_s=sample_s,
            filter_s=filter_s,
            loop_s=loop_s,
            actuate_s=body.actuate_s,
            reading_u_m=u_m,
            margin_m=body.margin_m,
        ),
        note,
    )


def _between_readings(
    sensor: Sensor, recording: Recording | None, budget: LoopBudget
) -> tuple[float, str]:
    """From one reading to the next, s, and where that is from: what was recorded, else the budget.

    The budget speaks up beside a recording when it allows fewer readings than were recorded.
    """
    planned_s = max(
        (one.seconds for one in budget.periods if one.device == sensor.name),
        default=budget.loop_s,
    )
    if recording is None or recording.rate_hz <= 0.0:
        between = f"{prefixed(planned_s, 's')} between readings by its time budget"
        return planned_s, f"no recording yet: {between}"
    note = f"{recording.rate_hz:.1f} readings a second in “{recording.name}”"
    if planned_s * recording.rate_hz > 1.5:
        note += f", though its time budget gives one every {prefixed(planned_s, 's')} only"
    return 1.0 / recording.rate_hz, note


@router.post("/sensors/{sensor_id}/stopping")
def work_out_stopping(sensor: RangerDep, body: StoppingIn, session: SessionDep) -> StoppingOut:
    """How far the rig runs before it stands, and the thresholds that follow. Saves nothing."""
    inputs, note = _inputs(session, sensor, body)
    stopping = stopping_distance(inputs)
    stop_m, go_m = suggested_thresholds_m(inputs)
    return StoppingOut(
        sample_s=inputs.sample_s,
        filter_s=inputs.filter_s,
        loop_s=inputs.loop_s,
        reading_u_m=inputs.reading_u_m,
        blind_s=inputs.blind_s,
        travel_blind_m=stopping.travel_blind_m,
        travel_braking_m=stopping.travel_braking_m,
        doubt_m=stopping.doubt_m,
        margin_m=stopping.margin_m,
        total_m=stopping.total_m,
        suggested_stop_m=stop_m,
        suggested_go_m=go_m,
        greatest_speed_m_per_s=(
            greatest_speed_m_per_s(body.stop_m, inputs) if body.stop_m is not None else None
        ),
        note=note,
    )


@router.post("/sensors/{sensor_id}/thresholds", status_code=201)
def set_threshold(sensor: RangerDep, body: ThresholdIn, session: SessionDep) -> ThresholdOut:
    """Set stop and go-again distances; earlier ones are kept and come back by deleting this one."""
    try:
        threshold_stage(body.stop_m, body.go_m, parameters_of(sensor))
    except ValueError as error:
        raise does_not_fit(str(error), "go_m") from error
    needed_m = None
    if body.stopping is not None:
        asked = body.stopping.model_copy(update={"stop_m": body.stop_m})
        needed_m = stopping_distance(_inputs(session, sensor, asked)[0]).total_m
    row = Threshold(
        sensor_id=sensor.id,
        calibration_id=sensor.calibration_id,
        stop_m=body.stop_m,
        go_m=body.go_m,
        needed_m=needed_m,
        stopping=body.stopping.model_dump() if body.stopping else {},
    )
    session.add(row)
    session.commit()
    return threshold_out(row)


@router.delete("/thresholds/{threshold_id}", status_code=204)
def delete_threshold(threshold_id: RowId, session: SessionDep) -> None:
    """Take a threshold back; the one before it counts again."""
    find(session, Threshold, threshold_id).deleted_at = utc_now()
    session.commit()


@router.post("/thresholds/{threshold_id}/restore")
def restore_threshold(threshold_id: RowId, session: SessionDep) -> ThresholdOut:
    """Bring a threshold back."""
    row = find(session, Threshold, threshold_id, deleted=True)
    row.deleted_at = None
    session.commit()
    return threshold_out(row)
