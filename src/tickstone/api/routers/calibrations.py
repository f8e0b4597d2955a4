"""Calibrations: a fit, saved with all it rests on."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.desk import DeskDep, RecordingDep, SessionDep
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.sensor import CalibrationOut
from tickstone.store.models import Calibration
from tickstone.work.fitting import calibration_row, fit_recording, marks_of

router = APIRouter(prefix="/api", tags=["calibrations"])


def calibration_out(row: Calibration) -> CalibrationOut:
    """A calibration as kept."""
    return CalibrationOut(
        id=row.id,
        made_at=row.made_at,
        recording_id=row.recording_id,
        offset_m=row.offset_m,
        scale=row.scale,
        scale_fitted=row.scale_fitted,
        u_at_1m_m=row.u_at_1m_m,
        marks=row.marks_used,
        air=Air.of(row.air),
        errors=[str(error) for error in row.errors],
    )


@router.post("/recordings/{recording_id}/calibrations", status_code=201)
def save_calibration(recording: RecordingDep, session: SessionDep, desk: DeskDep) -> CalibrationOut:
    """Fit the marks of a recording, keep the result and use it from now on."""
    marks = marks_of(session, recording.id)
    try:
        fit = fit_recording(session, desk.cache, recording, marks)
    except ValueError as error:
        raise does_not_fit(str(error)) from error
    row = calibration_row(recording, marks, fit)
    session.add(row)
    session.flush()
    recording.sensor.calibration = row
    session.commit()
    return calibration_out(row)
