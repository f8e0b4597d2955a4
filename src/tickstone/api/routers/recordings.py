"""Recordings, and looking at them."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from typing import Literal, cast

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tickstone.api.bad_lines import Count, First, bad_lines_out
from tickstone.api.desk import Desk, DeskDep, RecordingDep, RowId, SessionDep, find
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.recording import BadLinesOut, RecordingChange, RecordingOut
from tickstone.api.schemas.view import DecisionOut, FlagOut, PauseOut, ViewIn, ViewOut
from tickstone.api.working import step_out
from tickstone.core.air.conditions import AirConditions
from tickstone.core.beam import footprint_diameter_m
from tickstone.core.families.ultrasonic_ranger import RangerParameters, ranger_chain
from tickstone.core.stages.calibration import Calibration as CalibrationStage
from tickstone.core.stages.stop_threshold import StopThreshold
from tickstone.core.status import Status
from tickstone.formats.distance_csv import write_distance_csv
from tickstone.store.models import Recording, utc_now
from tickstone.work.chains import (
    calibration_stage,
    latest_threshold,
    parameters_of,
    threshold_stage,
)
from tickstone.work.fitting import calibration_row, fit_recording, marks_of
from tickstone.work.view import Look, View, look_at

router = APIRouter(prefix="/api/recordings", tags=["recordings"])


def recording_out(recording: Recording) -> RecordingOut:
    """A recording without its readings."""
    return RecordingOut(
        id=recording.id,
        sensor_id=recording.sensor_id,
        name=recording.name,
        source_name=recording.source_name,
        samples=recording.samples,
        bad_lines=recording.bad_lines,
        duration_s=recording.duration_s,
        rate_hz=recording.rate_hz,
        recorded_at=recording.recorded_at,
        air=Air.of(recording.air),
    )


@router.get("/{recording_id}")
def read_recording(recording: RecordingDep) -> RecordingOut:
    """What is known of a recording."""
    return recording_out(recording)


@router.patch("/{recording_id}")
def change_recording(
    recording: RecordingDep, body: RecordingChange, session: SessionDep
) -> RecordingOut:
    """Change a recording's name or the air it was taken in."""
    if body.name is not None:
        recording.name = body.name
    if body.air is not None:
        recording.take.air = body.air.conditions()
    session.commit()
    return recording_out(recording)


@router.delete("/{recording_id}", status_code=204)
def delete_recording(recording: RecordingDep, session: SessionDep) -> None:
    """Hide a recording; `restore` brings it back. A take that served only this sensor goes too."""
    recording.deleted_at = utc_now()
    if len(recording.take.channels) == 1:
        recording.take.deleted_at = recording.deleted_at
    session.commit()


@router.post("/{recording_id}/restore")
def restore_recording(recording_id: RowId, session: SessionDep) -> RecordingOut:
    """Bring a hidden recording back."""
    recording = find(session, Recording, recording_id, deleted=True)
    recording.deleted_at = recording.take.deleted_at = None
    session.commit()
    return recording_out(recording)


@router.get("/{recording_id}/bad-lines")
def list_bad_lines(
    recording: RecordingDep, session: SessionDep, first: First = 0, count: Count = 100
) -> BadLinesOut:
    """The lines that were put aside when the log was read."""
    return bad_lines_out(session, recording.take, first, count)


@router.post("/{recording_id}/view")
def view_recording(
    recording: RecordingDep, body: ViewIn, session: SessionDep, desk: DeskDep
) -> ViewOut:
    """A window of a recording as distances, with the working of one sample. Saves nothing."""
    parameters, air, calibration, threshold = _settled(recording, body, session, desk)
    look = Look(
        parameters=parameters,
        air=air,
        calibration=calibration,
        threshold=threshold,
        from_s=body.from_s,
        to_s=body.to_s,
        points=body.points,
        at_s=body.at_s,
    )
    view = look_at(session, desk.cache, recording, look)
    return _view_out(view, parameters)


def _settled(
    recording: Recording, body: ViewIn, session: SessionDep, desk: Desk
) -> tuple[RangerParameters, AirConditions, CalibrationStage | None, StopThreshold | None]:
    sensor = recording.sensor
    try:
        parameters = body.parameters.parameters() if body.parameters else parameters_of(sensor)
    except ValueError as error:
        raise does_not_fit(str(error), "parameters") from error
    air = body.air.conditions() if body.air else recording.air
    calibration = None
    if body.calibration == "saved" and sensor.calibration is not None:
        calibration = calibration_stage(sensor.calibration, air, parameters)
    elif body.calibration == "fit":
        marks = marks_of(session, recording.id)
        try:
            row = calibration_row(
                recording, marks, fit_recording(session, desk.cache, recording, marks)
            )
        except ValueError as error:
            raise does_not_fit(str(error), "calibration") from error
        row.made_at = utc_now()
        calibration = calibration_stage(row, air, parameters)
    distances = body.threshold or latest_threshold(session, sensor.id)
    threshold = None
    try:
        if distances is not None:
            threshold = threshold_stage(distances.stop_m, distances.go_m, parameters)
    except ValueError as error:
        raise does_not_fit(str(error), "threshold") from error
    return parameters, air, calibration, threshold


def _view_out(view: View, parameters: RangerParameters) -> ViewOut:
    distances = [step for step in view.working if step.unit == "m"]
    value = distances[-1].value if distances else math.nan
    footprint = (
        footprint_diameter_m(value, parameters.beam_rad)
        if math.isfinite(value) and value >= 0.0
        else None
    )
    return ViewOut(
        samples=view.samples,
        shown_samples=view.shown_samples,
        duration_s=view.duration_s,
        from_s=view.from_s,
        to_s=view.to_s,
        time_s=view.time_s,
        distance_m=view.distance_m,
        flags=[FlagOut(time_s=flag.time_s, status=flag.status.code) for flag in view.flags],
        pauses=[PauseOut(from_s=start, to_s=end) for start, end in view.pauses],
        decisions=[
            DecisionOut(
                from_s=span.from_s,
                to_s=span.to_s,
                decision=cast(Literal["clear", "stop", "blind"], span.decision.name.lower()),
            )
            for span in view.decisions
        ],
        counts={status.code: view.counts.get(status, 0) for status in Status},
        at_index=view.at_index,
        at_s=view.at_s,
        at_status=view.working[-1].status.code if view.working else "",
        working=[step_out(step) for step in view.working],
        footprint_m=footprint,
        spread_at_m=view.spread_at_m,
        spread_m=view.spread_m,
        findings=[FindingOut.of(finding) for finding in view.findings],
    )


@router.get(
    "/{recording_id}/csv",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/csv": {}}, "description": "One row a reading."}},
)
def download_recording(
    recording: RecordingDep, session: SessionDep, desk: DeskDep
) -> StreamingResponse:
    """The recording as CSV: raw echoes, distances, statuses and decisions, as saved."""
    parameters, air, calibration, threshold = _settled(recording, ViewIn(), session, desk)
    echo = desk.cache.echo(session, recording)
    chain = ranger_chain(parameters, air, calibration)
    distance = desk.cache.measured(session, recording, chain).distance
    decision = desk.cache.decided(session, recording, chain, threshold) if threshold else None
    safe = re.sub(r"[^A-Za-z0-9]+", "-", recording.name).strip("-") or "recording"

    def pieces() -> Iterator[str]:
        yield from write_distance_csv(echo, distance, decision)

    return StreamingResponse(
        pieces(),
        media_type="text/csv",
        headers={"content-disposition": f'attachment; filename="{safe}.csv"'},
    )
