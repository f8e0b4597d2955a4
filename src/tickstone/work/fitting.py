"""From the marks on a stored recording to a calibration."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.calibration.kind import CalibrationKind, Fit, Span
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.store.models import Calibration, Mark, Recording
from tickstone.work.cache import Cache
from tickstone.work.results import Results
from tickstone.work.sensing import Sensing, surroundings_as_json
from tickstone.work.sources import source_of

MOST_SAMPLES_SEARCHED = 200_000
"""In longer recordings nobody waits for a stretch to be proposed."""


def marks_of(session: Session, recording: Recording, calibration: str = "") -> list[Mark]:
    """The marks of a recording's sensor that are not deleted, in the order of time.

    calibration: only those for this kind.
    """
    chosen = [
        Mark.take_id == recording.take_id,
        Mark.sensor_id == recording.sensor_id,
        Mark.deleted_at.is_(None),
    ]
    if calibration:
        chosen.append(Mark.calibration == calibration)
    return list(session.scalars(select(Mark).where(*chosen).order_by(Mark.start_s, Mark.id)))


def fit_recording(
    session: Session,
    cache: Cache,
    recording: Recording,
    calibration: CalibrationKind,
    sensing: Sensing,
    marks: Sequence[Mark],
) -> Fit:
    """Fit a calibration to a recording's marks, with the very chain that is on the screen.

    Raises ValueError when there is nothing to fit.
    """
    if not marks:
        raise ValueError("there is no mark on this recording yet")
    signal = compared(session, cache, recording, calibration, sensing)
    settled = sensing.kind.settled(sensing.parameters, sensing.calibrations)
    return calibration.fit(spans_of(signal, marks), settled)


def heaps_of(
    session: Session,
    cache: Cache,
    recording: Recording,
    calibration: CalibrationKind,
    sensing: Sensing,
    marks: Sequence[Mark],
) -> tuple[LaneHeaps, ...]:
    """What the marks hold of each surface, also where that is too little for a fit."""
    signal = compared(session, cache, recording, calibration, sensing)
    return calibration.heaps(spans_of(signal, marks), sensing.parameters)


def spans_of(signal: Signal, marks: Sequence[Mark]) -> list[Span]:
    """The stretches of a signal that marks are over."""
    spans = []
    for mark in marks:
        first, last = np.searchsorted(signal.time_s, [mark.start_s, mark.end_s])
        spans.append(
            Span(
                name=mark.pose or mark.name,
                signal=signal.between(int(first), int(last), mark.end_s),
                true=mark.value,
                u=mark.u,
                start_s=mark.start_s,
                end_s=mark.end_s,
                lane=mark.lane,
            )
        )
    return spans


def next_still(
    session: Session,
    cache: Cache,
    recording: Recording,
    calibration: CalibrationKind,
    sensing: Sensing,
    marks: Sequence[Mark],
) -> tuple[float, float] | None:
    """The first stretch in which something was held and that no mark touches, s."""
    if recording.samples > MOST_SAMPLES_SEARCHED:
        return None
    signal = compared(session, cache, recording, calibration, sensing)
    return next(
        (
            (start, end)
            for start, end in calibration.still(signal)
            if not any(mark.start_s < end and start < mark.end_s for mark in marks)
        ),
        None,
    )


def reads_of(
    recording: Recording, calibration: CalibrationKind, sensing: Sensing
) -> Quantity | None:
    """What a calibration compares; None where that is no amount. Raises ValueError when it is not
    heard.
    """
    source = source_of(recording, sensing.kind)
    heard = replace(sensing, forms=source.forms, lanes=source.lanes)
    chain, node = heard.compared_with(calibration)
    quantity = chain.quantity_of(node)
    return None if quantity.is_decision else quantity


def compared(
    session: Session,
    cache: Cache,
    recording: Recording,
    calibration: CalibrationKind,
    sensing: Sensing,
) -> Signal:
    """What is compared with something known: what would enter the calibration."""
    source = source_of(recording, sensing.kind)
    chain, node = replace(sensing, forms=source.forms, lanes=source.lanes).compared_with(
        calibration
    )
    return Results(session, cache, source, chain).whole(node)


def calibration_row(
    recording: Recording,
    calibration: CalibrationKind,
    sensing: Sensing,
    marks: Sequence[Mark],
    fit: Fit,
) -> Calibration:
    """The fit as a row to keep, with all that it rests on."""
    return Calibration(
        sensor_id=recording.sensor_id,
        recording_id=recording.id,
        kind=calibration.name,
        parameters=dict(fit.parameters),
        covariance=np.asarray(fit.covariance).tolist(),
        statistics=dict(fit.statistics),
        surroundings=surroundings_as_json(sensing.surroundings),
        grounds=sensing.kind.grounds(sensing.parameters),
        evidence=[
            {**_finite(asdict(result)), "start_s": mark.start_s, "end_s": mark.end_s}
            for mark, result in zip(marks, fit.spans, strict=True)
        ],
        errors=[remark.title for remark in fit.remarks if remark.severity == "error"],
        heaps=[one.as_json() for one in fit.heaps],
    )


def _finite(values: Mapping[str, Any]) -> dict[str, Any]:
    return {
        name: None if isinstance(value, float) and not np.isfinite(value) else value
        for name, value in values.items()
    }
