"""The line of a rig: open it, correct how it is read, record it, mark it, close it."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, Depends

from tickstone.api.desk import CatalogueDep, DeskDep, RigDep, SessionDep, find
from tickstone.api.live_out import judged_out, line_out
from tickstone.api.problems import ProblemError, does_not_fit
from tickstone.api.routers.ports import known_port
from tickstone.api.routers.takes import take_out
from tickstone.api.schemas.live import (
    JudgedOut,
    LineOut,
    LineShapeIn,
    LiveMarkIn,
    OpenIn,
    RecordIn,
    ReplayIn,
    SendIn,
)
from tickstone.api.schemas.mark import MarkOut
from tickstone.api.schemas.take import TakeOut
from tickstone.core.lines.shape import LineShape
from tickstone.core.lines.tokens import Manner
from tickstone.link.source import LineLostError, PortError
from tickstone.store.models import Mark, Sensor, Take
from tickstone.work.live.line import LiveLine
from tickstone.work.live.memory import renamed
from tickstone.work.sensing import kind_of

router = APIRouter(prefix="/api/rigs/{rig_id}/line", tags=["line"])

_UNSAID = ("number", "converter counts")


def line_of(rig: RigDep, desk: DeskDep) -> LiveLine:
    """The open line of a rig."""
    line = desk.lines.line(rig.id)
    if line is None:
        raise ProblemError(404, "Not listening", "No line is open for this rig. Open one first.")
    return line


LineDep = Annotated[LiveLine, Depends(line_of)]


@router.get("")
def read_line(rig: RigDep, desk: DeskDep, session: SessionDep) -> LineOut | None:
    """The open line of a rig; null when there is none."""
    line = desk.lines.line(rig.id)
    return line_out(line, desk.lines.sensors(session, line)) if line else None


@router.get("/memory")
def read_line_memory(rig: RigDep) -> dict[str, Any]:
    """What is remembered of the rig's line: path, speed, resets, shape and sensors."""
    return rig.line


@router.post("", status_code=201)
def open_line(rig: RigDep, body: OpenIn, desk: DeskDep) -> LineOut:
    """Listen to a port of this machine."""
    path = known_port(body.path)
    try:
        return line_out(desk.lines.open_port(rig.id, path, body.speed, body.resets))
    except PortError as error:
        raise ProblemError(409, "Not listening to this port", str(error)) from error


@router.post("/replay", status_code=201)
def replay_take(rig: RigDep, body: ReplayIn, desk: DeskDep, session: SessionDep) -> LineOut:
    """Play a take as if its board printed it now."""
    take = find(session, Take, body.take_id)
    if take.samples == 0:
        raise does_not_fit("there is nothing in this recording to play", "take_id")
    try:
        return line_out(desk.lines.replay(rig.id, take.id, take.name, body.pace))
    except PortError as error:
        raise ProblemError(409, "Listening already", str(error)) from error


@router.delete("", status_code=204)
def close_line(rig: RigDep, desk: DeskDep) -> None:
    """Let go of the port. A recording is closed first."""
    desk.lines.close(rig.id)


@router.get("/lines")
def list_judged_lines(line: LineDep) -> list[JudgedOut]:
    """The last few hundred lines as they came, each with its verdict."""
    return [judged_out(judged, line.opened_at_us) for judged in list(line.lines)]


@router.post("/send", status_code=204)
def send_text(line: LineDep, body: SendIn) -> None:
    """Send a line of text to the board."""
    try:
        line.send(body.text)
    except LineLostError as error:
        raise ProblemError(409, "The line is gone", f"It was not sent: {error}.") from error


@router.put("/shape")
def change_shape(
    line: LineDep,
    body: LineShapeIn,
    rig: RigDep,
    desk: DeskDep,
    session: SessionDep,
    catalogue: CatalogueDep,
) -> LineOut:
    """Correct how lines are read. Remembered for this rig."""
    if line.recorder is not None and body.kind is not None:
        raise ProblemError(409, "Recording", "Stop the recording before changing how lines read.")
    if body.kind is not None:
        manner = (
            None
            if body.kind == "learn"
            else Manner(body.kind, body.separator, body.decimal, body.bare_hex)
        )
        if manner is not None and manner.kind == "separated" and not manner.separator:
            raise does_not_fit("choose what separates the values", "separator")
        if line.relearn(manner) is None:
            raise does_not_fit("the last lines cannot be read in this way", "kind")
        return line_out(line, desk.lines.sensors(session, line))
    if line.shape is None:
        raise ProblemError(409, "Not learnt yet", "No shape has been learnt; wait for some lines.")
    for column in body.columns:
        if column.sensor_id is not None:
            sensor = find(session, Sensor, column.sensor_id)
            if sensor.rig_id != rig.id:
                raise does_not_fit(f"{sensor.name} is not on this rig", "sensor_id")
            kind = kind_of(sensor, catalogue)
            if kind is not None and column.quantity in _UNSAID:
                # Whoever says whose a column is means what that sensor gives.
                column.quantity = kind.roles[0].forms[0].likely
    shape = _changed(line.shape, body)
    if line.recorder is not None and shape.channels != line.shape.channels:
        raise ProblemError(409, "Recording", "Stop the recording before choosing other columns.")
    desk.lines.reshape(session, line, shape)
    desk.lines.assign(
        session, line, {c.name: c.sensor_id for c in body.columns if c.sensor_id is not None}
    )
    return line_out(line, desk.lines.sensors(session, line))


def _changed(shape: LineShape, body: LineShapeIn) -> LineShape:
    if len(body.columns) != len(shape.columns):
        raise does_not_fit(
            f"the lines have {len(shape.columns)} columns, and {len(body.columns)} came", "columns"
        )
    if body.time_position is not None and body.time_position >= len(shape.columns):
        raise does_not_fit("there is no such column for the time", "time_position")
    try:
        timed = replace(shape, time=body.time_position, time_unit=body.time_unit)
        return renamed(
            timed,
            (
                (position, c.name, c.unit, c.quantity, c.is_used)
                for position, c in enumerate(body.columns)
            ),
        )
    except ValueError as error:
        raise does_not_fit(str(error), "columns") from error


@router.post("/record", status_code=201)
def start_recording(
    line: LineDep, rig: RigDep, body: RecordIn, desk: DeskDep, session: SessionDep
) -> LineOut:
    """Begin to keep all that arrives."""
    air = body.air.conditions() if body.air else rig.air
    try:
        desk.lines.record(session, line, body.name, air, body.conditions.model_dump())
    except ValueError as error:
        raise ProblemError(409, "Not now", f"{str(error)[:1].upper()}{str(error)[1:]}.") from error
    return line_out(line, desk.lines.sensors(session, line))


@router.post("/stop")
def stop_recording(line: LineDep, session: SessionDep) -> TakeOut:
    """Close the recording; it is whole and can be looked at."""
    recorder = line.stop_recording()
    if recorder is None:
        raise ProblemError(409, "Not recording", "This line is not being recorded.")
    session.expire_all()
    return take_out(session.get_one(Take, recorder.take_id))


@router.post("/marks", status_code=201)
def mark_line(line: LineDep, body: LiveMarkIn, session: SessionDep) -> MarkOut:
    """Mark a known true value on the recording that runs."""
    recorder = line.recorder
    if recorder is None:
        raise ProblemError(409, "Not recording", "Start a recording first; a mark belongs to one.")
    if body.to_axis_s < body.from_axis_s:
        raise does_not_fit("a mark ends after it begins", "to_axis_s")
    channels = line.shape.channels if line.shape else ()
    if body.channel is not None and body.channel >= len(channels):
        raise does_not_fit("there is no such channel", "channel")
    start_s = max(0.0, body.from_axis_s - recorder.started_at_us / 1e6)
    mark = Mark(
        take_id=recorder.take_id,
        channel=body.channel,
        name=body.name,
        start_s=start_s,
        end_s=max(start_s, body.to_axis_s - recorder.started_at_us / 1e6),
        value=body.value,
        u=body.u,
        unit=body.unit,
    )
    session.add(mark)
    session.commit()
    return MarkOut.model_validate(mark)
