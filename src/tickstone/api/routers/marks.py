"""Marks: known true values over a span of a recording, and notes."""

from __future__ import annotations

from fastapi import APIRouter
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from tickstone.api.desk import (
    CatalogueDep,
    MarkDep,
    RecordingDep,
    RowId,
    SessionDep,
    TakeDep,
    chain_kind_of,
    find,
)
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.mark import MarkIn, MarkOut
from tickstone.core.chains.kind import ChainKind
from tickstone.store.models import Mark, Recording, Sensor, Take, utc_now
from tickstone.work.catalogue import Catalogue
from tickstone.work.fitting import marks_of
from tickstone.work.sensing import kind_of
from tickstone.work.takes.finishing import belongs_to

router = APIRouter(prefix="/api", tags=["marks"])

MOST_MARKS = 200


@router.get("/recordings/{recording_id}/marks")
def list_marks(recording: RecordingDep, session: SessionDep) -> list[MarkOut]:
    """The marks of a recording that calibrations of its sensor rest on, in the order of time."""
    return [MarkOut.model_validate(mark) for mark in marks_of(session, recording)]


@router.get("/takes/{take_id}/marks")
def list_take_marks(take: TakeDep, session: SessionDep) -> list[MarkOut]:
    """All marks of a take, those that calibrations rest on among them, in the order of time."""
    marks = session.scalars(
        select(Mark)
        .where(Mark.take_id == take.id, Mark.deleted_at.is_(None))
        .order_by(Mark.start_s, Mark.id)
    )
    return [MarkOut.model_validate(mark) for mark in marks]


@router.post("/recordings/{recording_id}/marks", status_code=201)
def add_mark(
    recording: RecordingDep, body: MarkIn, session: SessionDep, catalogue: CatalogueDep
) -> MarkOut:
    """Mark something held over a span, for a calibration of the recording's sensor."""
    kind = chain_kind_of(recording.sensor, catalogue)
    mark = Mark(take_id=recording.take_id)
    _fill(mark, body, recording.take)
    _for_calibration(mark, recording, body, kind)
    return _kept(session, mark)


@router.post("/takes/{take_id}/marks", status_code=201)
def add_take_mark(
    take: TakeDep, body: MarkIn, session: SessionDep, catalogue: CatalogueDep
) -> MarkOut:
    """Mark a known true value, or note something.

    A value in the unit that a calibration of the channel's sensor asks for is for that.
    """
    mark = Mark(take_id=take.id)
    _fill(mark, body, take)
    recording = _recording_of(take, body.channel)
    if recording is not None:
        _claim(mark, recording, body, catalogue)
    return _kept(session, mark)


def _claim(mark: Mark, recording: Recording, body: MarkIn, catalogue: Catalogue) -> None:
    kind = kind_of(recording.sensor, catalogue)
    if kind is not None:
        belongs_to(mark, recording.sensor_id, kind)
        if mark.calibration:
            _check_value(mark, kind)


@router.put("/marks/{mark_id}")
def change_mark(
    mark: MarkDep, body: MarkIn, session: SessionDep, catalogue: CatalogueDep
) -> MarkOut:
    """Change a mark."""
    take = find(session, Take, mark.take_id, deleted=True)
    calibration = mark.calibration
    _fill(mark, body, take)
    if calibration and mark.sensor_id is not None:
        sensor = session.get_one(Sensor, mark.sensor_id)
        mark.calibration = calibration
        _check_value(mark, chain_kind_of(sensor, catalogue))
    session.commit()
    return MarkOut.model_validate(mark)


@router.delete("/marks/{mark_id}", status_code=204)
def delete_mark(mark: MarkDep, session: SessionDep) -> None:
    """Hide a mark; `restore` brings it back."""
    mark.deleted_at = utc_now()
    session.commit()


@router.post("/marks/{mark_id}/restore")
def restore_mark(mark_id: RowId, session: SessionDep) -> MarkOut:
    """Bring a hidden mark back."""
    mark = find(session, Mark, mark_id, deleted=True)
    mark.deleted_at = None
    session.commit()
    return MarkOut.model_validate(mark)


def _fill(mark: Mark, body: MarkIn, take: Take) -> None:
    """What was typed. A problem when the span or the channel cannot be."""
    if body.end_s < body.start_s:
        raise does_not_fit("a mark ends after it begins", "end_s")
    if body.channel is not None and body.channel >= len(take.channels):
        raise does_not_fit("there is no such channel", "channel")
    for name, value in body.model_dump().items():
        setattr(mark, name, value)


def _for_calibration(mark: Mark, recording: Recording, body: MarkIn, kind: ChainKind) -> None:
    """Make it a mark that a calibration can rest on. A problem when it cannot be."""
    if not body.start_s < body.end_s:
        raise does_not_fit("a mark has to end after it starts", "end_s")
    if body.start_s >= recording.duration_s:
        raise does_not_fit(f"the recording is over at {recording.duration_s:.1f} s", "start_s")
    if not kind.calibrations:
        raise does_not_fit("there is no calibration for this kind of sensor", "calibration")
    mark.sensor_id = recording.sensor_id
    mark.calibration = body.calibration or kind.calibrations[0].name
    if mark.channel is None and recording.inputs:
        mark.channel = recording.inputs[0].channel
    _check_value(mark, kind)


def _check_value(mark: Mark, kind: ChainKind) -> None:
    """That it tells what its calibration asks for."""
    calibration = next((one for one in kind.calibrations if one.name == mark.calibration), None)
    if calibration is None:
        known = ", ".join(one.name for one in kind.calibrations)
        raise does_not_fit(f"there is no such calibration; there are {known}", "calibration")
    asked = calibration.asks_for
    if asked is None:
        return
    mark.unit = mark.unit or asked.unit
    if mark.unit != asked.unit:
        raise does_not_fit(f"a true {asked.name} is told in {asked.unit}", "unit")
    if mark.value is None:
        raise does_not_fit(f"what was the true {asked.name}?", "value")
    low, high = calibration.values_within
    if not low <= mark.value <= high:
        raise does_not_fit(
            f"a {asked.name} lies between {asked.typed(low)} and {asked.typed(high)}", "value"
        )
    mark.u = mark.u or calibration.usual_u
    mark.name = mark.name or asked.typed(mark.value)


def _recording_of(take: Take, channel: int | None) -> Recording | None:
    return next(
        (
            recording
            for recording in take.recordings
            if recording.deleted_at is None
            and any(one.channel == channel for one in recording.inputs)
        ),
        None,
    )


def _kept(session: Session, mark: Mark) -> MarkOut:
    count = session.scalar(
        select(func.count())
        .select_from(Mark)
        .where(Mark.take_id == mark.take_id, Mark.deleted_at.is_(None))
    )
    if count is not None and count >= MOST_MARKS:
        raise does_not_fit(f"a recording holds {MOST_MARKS} marks at most")
    session.add(mark)
    session.commit()
    return MarkOut.model_validate(mark)
