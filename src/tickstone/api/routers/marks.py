"""Marks: known true distances on a recording."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.desk import Desk, DeskDep, MarkDep, RecordingDep, RowId, SessionDep, find
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.mark import FitOut, MarkIn, MarkOut, MarksOut, StretchOut
from tickstone.store.models import Mark, Recording, utc_now
from tickstone.work.fitting import fit_recording, marks_of, next_still

router = APIRouter(prefix="/api", tags=["marks"])

MOST_MARKS = 200


def _marks_out(session: SessionDep, desk: Desk, recording: Recording) -> MarksOut:
    marks = marks_of(session, recording.id)
    fit, problem = None, ""
    try:
        fitted = fit_recording(session, desk.cache, recording, marks)
        fit = FitOut.of(fitted, [mark.id for mark in marks])
    except ValueError as error:
        problem = str(error)
    still = next_still(session, desk.cache, recording, marks)
    return MarksOut(
        marks=[MarkOut.model_validate(mark) for mark in marks],
        fit=fit,
        fit_problem=problem,
        next_still=StretchOut(from_s=still[0], to_s=still[1]) if still else None,
    )


def _check_span(recording: Recording, body: MarkIn) -> None:
    if not body.start_s < body.end_s:
        raise does_not_fit("a mark has to end after it starts", "end_s")
    if body.start_s >= recording.duration_s:
        raise does_not_fit(f"the recording is over at {recording.duration_s:.1f} s", "start_s")


@router.get("/recordings/{recording_id}/marks")
def list_marks(recording: RecordingDep, session: SessionDep, desk: DeskDep) -> MarksOut:
    """The marks of a recording with what they say together."""
    return _marks_out(session, desk, recording)


@router.post("/recordings/{recording_id}/marks", status_code=201)
def add_mark(recording: RecordingDep, body: MarkIn, session: SessionDep, desk: DeskDep) -> MarksOut:
    """Mark a true distance over a span."""
    _check_span(recording, body)
    if len(marks_of(session, recording.id)) >= MOST_MARKS:
        raise does_not_fit(f"a recording holds {MOST_MARKS} marks at most")
    session.add(Mark(recording_id=recording.id, **body.model_dump()))
    session.commit()
    return _marks_out(session, desk, recording)


@router.put("/marks/{mark_id}")
def change_mark(mark: MarkDep, body: MarkIn, session: SessionDep, desk: DeskDep) -> MarksOut:
    """Change a mark."""
    recording = find(session, Recording, mark.recording_id)
    _check_span(recording, body)
    for field, value in body.model_dump().items():
        setattr(mark, field, value)
    session.commit()
    return _marks_out(session, desk, recording)


@router.delete("/marks/{mark_id}")
def delete_mark(mark: MarkDep, session: SessionDep, desk: DeskDep) -> MarksOut:
    """Hide a mark; `restore` brings it back."""
    mark.deleted_at = utc_now()
    session.commit()
    return _marks_out(session, desk, find(session, Recording, mark.recording_id))


@router.post("/marks/{mark_id}/restore")
def restore_mark(mark_id: RowId, session: SessionDep, desk: DeskDep) -> MarksOut:
    """Bring a hidden mark back."""
    mark = find(session, Mark, mark_id, deleted=True)
    mark.deleted_at = None
    session.commit()
    return _marks_out(session, desk, find(session, Recording, mark.recording_id))
