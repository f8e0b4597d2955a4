"""From the marks on a stored recording to a calibration."""

from __future__ import annotations

from dataclasses import asdict

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.calibration.fit import CalibrationFit, fit_calibration
from tickstone.core.calibration.marks import MarkReadings
from tickstone.core.calibration.stillness import still_stretches
from tickstone.core.families.ultrasonic_ranger import calibration_grounds, ranger_chain
from tickstone.core.signal import Signal
from tickstone.store.models import Calibration, Mark, Recording
from tickstone.work.cache import RecordingCache
from tickstone.work.chains import parameters_of

MOST_SAMPLES_SEARCHED = 200_000
"""In longer recordings nobody waits for a stretch to be proposed."""


def marks_of(session: Session, recording_id: int) -> list[Mark]:
    """The marks of a recording that are not deleted, in the order of time."""
    return list(
        session.scalars(
            select(Mark)
            .where(Mark.recording_id == recording_id, Mark.deleted_at.is_(None))
            .order_by(Mark.start_s, Mark.id)
        )
    )


def fit_recording(
    session: Session, cache: RecordingCache, recording: Recording, marks: list[Mark]
) -> CalibrationFit:
    """Fit offset and scale to a recording's marks, in the air it was recorded in.

    Raises ValueError when there is nothing to fit.
    """
    if not marks:
        raise ValueError("there is no mark on this recording yet")
    signal = _as_read(session, cache, recording)
    readings = []
    for mark in marks:
        first, last = np.searchsorted(signal.time_s, [mark.start_s, mark.end_s])
        under = signal.between(int(first), int(last))
        good = under.values[under.ok]
        readings.append(
            MarkReadings(mark.name, mark.true_m, mark.true_u_m, good, len(under) - len(good))
        )
    return fit_calibration(readings)


def next_still(
    session: Session, cache: RecordingCache, recording: Recording, marks: list[Mark]
) -> tuple[float, float] | None:
    """The first stretch in which the target stood still and that no mark touches, s."""
    signal = _as_read(session, cache, recording)
    if len(signal) > MOST_SAMPLES_SEARCHED:
        return None
    return next(
        (
            (start, end)
            for start, end in still_stretches(signal)
            if not any(mark.start_s < end and start < mark.end_s for mark in marks)
        ),
        None,
    )


def _as_read(session: Session, cache: RecordingCache, recording: Recording) -> Signal:
    """The distances a ruler is compared with: before the median, in the recording's own air."""
    chain = ranger_chain(parameters_of(recording.sensor), recording.air).before("median")
    return chain.apply(cache.echo(session, recording))


def calibration_row(recording: Recording, marks: list[Mark], fit: CalibrationFit) -> Calibration:
    """The fit as a row to keep, with all that it rests on."""
    row = Calibration(
        sensor_id=recording.sensor_id,
        recording_id=recording.id,
        offset_m=fit.offset_m,
        scale=fit.scale,
        var_offset=fit.var_offset,
        var_scale=fit.var_scale,
        cov=fit.cov,
        scale_fitted=fit.scale_fitted,
        chi_square=fit.chi_square,
        degrees=fit.degrees,
        grounds=calibration_grounds(parameters_of(recording.sensor)),
        marks=[
            {**_finite(asdict(result)), "start_s": mark.start_s, "end_s": mark.end_s}
            for mark, result in zip(marks, fit.marks, strict=True)
        ],
        errors=[remark.title for remark in fit.remarks if remark.severity == "error"],
    )
    row.air = recording.air
    return row


def _finite(values: dict[str, object]) -> dict[str, object]:
    return {
        name: None if isinstance(value, float) and not np.isfinite(value) else value
        for name, value in values.items()
    }
