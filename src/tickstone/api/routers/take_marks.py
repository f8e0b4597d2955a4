"""Marks of takes: known true values over a span, and notes."""

from __future__ import annotations

from fastapi import APIRouter
from sqlalchemy import select

from tickstone.api.desk import RowId, SessionDep, TakeDep, find
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.take import TakeMarkIn, TakeMarkOut
from tickstone.store.models import Mark, Recording, TakeMark, utc_now

router = APIRouter(prefix="/api", tags=["takes"])


def take_mark_out(mark: TakeMark) -> TakeMarkOut:
    """A mark of a take."""
    return TakeMarkOut(
        id=mark.id,
        kind="take",
        channel=mark.channel,
        name=mark.name,
        start_s=mark.start_s,
        end_s=mark.end_s,
        true_value=mark.true_value,
        true_u=mark.true_u,
        unit=mark.unit,
    )


@router.get("/takes/{take_id}/marks")
def list_take_marks(take: TakeDep, session: SessionDep) -> list[TakeMarkOut]:
    """All marks, those that calibrations rest on among them, in the order of time."""
    own = session.scalars(
        select(TakeMark).where(TakeMark.take_id == take.id, TakeMark.deleted_at.is_(None))
    )
    theirs = session.execute(
        select(Mark, Recording.channel)
        .join(Recording, Recording.id == Mark.recording_id)
        .where(
            Recording.take_id == take.id,
            Recording.deleted_at.is_(None),
            Mark.deleted_at.is_(None),
        )
    ).all()
    marks = [take_mark_out(mark) for mark in own]
    marks += [_recording_mark_out(mark, channel) for mark, channel in theirs]
    return sorted(marks, key=lambda mark: (mark.start_s, mark.id))


def _recording_mark_out(mark: Mark, channel: int) -> TakeMarkOut:
    return TakeMarkOut(
        id=mark.id,
        kind="recording",
        channel=channel,
        name=mark.name,
        start_s=mark.start_s,
        end_s=mark.end_s,
        true_value=mark.true_m,
        true_u=mark.true_u_m,
        unit="m",
    )


@router.post("/takes/{take_id}/marks", status_code=201)
def add_take_mark(take: TakeDep, body: TakeMarkIn, session: SessionDep) -> TakeMarkOut:
    """Mark a known true value, or note something. On a ranger, metres make a calibration mark."""
    if body.end_s < body.start_s:
        raise does_not_fit("a mark ends after it begins", "end_s")
    if body.channel is not None and body.channel >= len(take.channels):
        raise does_not_fit("there is no such channel", "channel")
    recording = next(
        (r for r in take.recordings if r.channel == body.channel and r.deleted_at is None), None
    )
    if recording is not None and body.unit == "m" and body.true_value is not None:
        if not 0 <= body.true_value <= 20:
            raise does_not_fit("a distance is between 0 and 20 m", "true_value")
        made = Mark(
            recording_id=recording.id,
            name=body.name or f"{body.true_value:g} m",
            start_s=body.start_s,
            end_s=body.end_s,
            true_m=body.true_value,
            true_u_m=min(1.0, body.true_u or 0.001),
        )
        session.add(made)
        session.commit()
        return _recording_mark_out(made, recording.channel)
    mark = TakeMark(take_id=take.id, **body.model_dump())
    session.add(mark)
    session.commit()
    return take_mark_out(mark)


@router.delete("/take-marks/{mark_id}", status_code=204)
def delete_take_mark(mark_id: RowId, session: SessionDep) -> None:
    """Take a mark off; `restore` puts it back."""
    find(session, TakeMark, mark_id).deleted_at = utc_now()
    session.commit()


@router.post("/take-marks/{mark_id}/restore")
def restore_take_mark(mark_id: RowId, session: SessionDep) -> TakeMarkOut:
    """Put a mark back."""
    mark = find(session, TakeMark, mark_id, deleted=True)
    mark.deleted_at = None
    session.commit()
    return take_mark_out(mark)
