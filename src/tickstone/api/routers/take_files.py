"""Recordings and whole rigs as files, out and in."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Annotated, BinaryIO

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, PlainTextResponse
from pydantic import StringConstraints
from sqlalchemy import select
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from tickstone.api.archive_check import check_archive
from tickstone.api.desk import (
    CatalogueDep,
    Desk,
    DeskDep,
    RigDep,
    RowId,
    SessionDep,
    TakeDep,
    checked_channel,
    find,
)
from tickstone.api.problems import ProblemError, does_not_fit, not_found
from tickstone.api.receiving import BODY_IS_A_FILE, printable, received
from tickstone.api.schemas.take_file import (
    AsideOut,
    FileColumnIn,
    FileColumnOut,
    FileLineOut,
    FileLookIn,
    FileReadIn,
    FormatOut,
    FormChoice,
    SameTake,
    SensorChoice,
    TakeFileOut,
)
from tickstone.formats.takes import FORMATS, format_named, read_take_file
from tickstone.formats.takes.csv_format import write_sidecar
from tickstone.formats.takes.header import (
    ChannelInfo,
    ReadAs,
    UnreadableFileError,
    UnwritableError,
)
from tickstone.store.models import Rig, Sensor, Take
from tickstone.work.archive.reading import read_archive
from tickstone.work.archive.versions import UnreadableArchiveError
from tickstone.work.archive.writing import write_archive
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.live.memory import sensors_by_name
from tickstone.work.sensing import kind_of
from tickstone.work.sources import likely_inputs
from tickstone.work.takes.bringing import (
    LOOKED_AT_ROWS,
    ColumnUse,
    NewTake,
    TakeImport,
    inspect_file,
)
from tickstone.work.takes.channel import channel_of
from tickstone.work.takes.exporting import Drawn, export_as_drawn, export_take, header_of

router = APIRouter(prefix="/api", tags=["files"])

DrawnText = Annotated[str, StringConstraints(pattern=r"^\d{1,2}:[a-z_]{0,40}$")]
FileName = Annotated[str, StringConstraints(max_length=200), Query()]


@router.get("/formats")
def list_formats() -> list[FormatOut]:
    """The open formats for recordings."""
    return [FormatOut.model_validate(one) for one in reversed(FORMATS)]


@router.get(
    "/takes/{take_id}/file",
    response_class=FileResponse,
    responses={200: {"content": {"application/octet-stream": {}}, "description": "The file."}},
)
def download_take(
    take: TakeDep,
    session: SessionDep,
    desk: DeskDep,
    format: Annotated[str, Query(max_length=20)] = "csv",  # noqa: A002 - the address says format
    channel: Annotated[int | None, Query(ge=0, le=63)] = None,
) -> FileResponse:
    """A recording in an open format; for WAV, one channel of it."""
    try:
        form = format_named(format)
    except KeyError:
        known = ", ".join(one.name for one in FORMATS if one.writes)
        raise does_not_fit(f"there is no format “{format}”; there are {known}", "format") from None

    def write(out: BinaryIO) -> None:
        try:
            export_take(session, take, form, out, channel)
        except UnwritableError as error:
            raise does_not_fit(str(error), "format") from error

    return _file_of(write, desk, f"{_safe(take.name)}.{form.extension}", form.media_type)


@router.get(
    "/takes/{take_id}/drawn",
    response_class=FileResponse,
    responses={200: {"content": {"text/csv": {}}, "description": "The table."}},
)
def download_as_drawn(
    take: TakeDep,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
    draw: Annotated[list[DrawnText], Query(min_length=1, max_length=16)],
    from_s: Annotated[float | None, Query(ge=-1e9, le=1e10)] = None,
    to_s: Annotated[float | None, Query(ge=-1e9, le=1e10)] = None,
) -> FileResponse:
    """What a plot shows, every sample of it: channels such as `0:median`, or `1:` as they came."""
    drawn = []
    for one in draw:
        number, _, stage = one.partition(":")
        channel = checked_channel(take, int(number))
        drawn.append(Drawn(channel_of(session, desk.cache, take, channel, catalogue), stage))
    window_s = (0.0 if from_s is None else from_s, take.duration_s if to_s is None else to_s)
    if window_s[1] < window_s[0]:
        raise does_not_fit("the window ends before it begins", "to_s")

    def write(out: BinaryIO) -> None:
        try:
            export_as_drawn(take, drawn, window_s, out)
        except ValueError as error:
            raise does_not_fit(str(error), "draw") from error

    return _file_of(write, desk, f"{_safe(take.name)}-as-drawn.csv", "text/csv")


@router.get(
    "/takes/{take_id}/description",
    response_class=PlainTextResponse,
    responses={200: {"content": {"application/json": {}}, "description": "The description."}},
)
def download_description(take: TakeDep, session: SessionDep) -> PlainTextResponse:
    """What a CSV file of this recording does not say: channels, air, marks. Lies beside it."""
    return PlainTextResponse(
        write_sidecar(header_of(session, take)),
        media_type="application/json",
        headers={"content-disposition": f'attachment; filename="{_safe(take.name)}.meta.json"'},
    )


@router.get(
    "/rigs/{rig_id}/archive",
    response_class=FileResponse,
    responses={200: {"content": {"application/zip": {}}, "description": "The zip."}},
)
def download_archive(rig: RigDep, session: SessionDep, desk: DeskDep) -> FileResponse:
    """The whole rig with its recordings, as a zip of open files."""
    return _file_of(
        lambda out: write_archive(session, rig, out),
        desk,
        f"{_safe(rig.name)}.zip",
        "application/zip",
    )


def _file_of(
    write: Callable[[BinaryIO], None], desk: Desk, name: str, media_type: str
) -> FileResponse:
    with tempfile.NamedTemporaryFile(dir=desk.imports.folder, suffix=".out", delete=False) as file:
        path = Path(file.name)
        try:
            write(file)  # type: ignore[arg-type]
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    return FileResponse(
        path,
        media_type=media_type,
        filename=name,
        background=BackgroundTask(path.unlink, missing_ok=True),
    )


def _safe(name: str) -> str:
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-")[:80] or "recording"


@router.post("/archives", status_code=201, openapi_extra=BODY_IS_A_FILE)
async def send_archive(request: Request, desk: DeskDep) -> dict[str, int]:
    """Send a rig's zip; it becomes a rig of its own. Returns its number."""
    path, _, _ = await received(request, desk.imports)

    def read() -> int:
        try:
            with desk.make_session() as session:
                rig = read_archive(session, path, check_archive)
                session.commit()
                return rig.id
        except UnreadableArchiveError as error:
            raise does_not_fit(str(error), "file") from error
        finally:
            path.unlink(missing_ok=True)

    return {"rig_id": await run_in_threadpool(read)}


@router.post("/rigs/{rig_id}/files", status_code=201, openapi_extra=BODY_IS_A_FILE)
async def send_take_file(
    request: Request, rig_id: RowId, desk: DeskDep, source_name: FileName = "recording"
) -> TakeFileOut:
    """Send a recording's file; its format is recognised by what is in it."""

    def check_rig() -> None:
        with desk.make_session() as session:
            find(session, Rig, rig_id)

    await run_in_threadpool(check_rig)
    path, digest, size = await received(request, desk.imports)
    name = printable(source_name) or "recording"

    def look() -> TakeImport:
        try:
            found = inspect_file(read_take_file(path), LOOKED_AT_ROWS)
        except UnreadableFileError as error:
            path.unlink(missing_ok=True)
            raise does_not_fit(f"{name}: {error}", "file") from error
        except BaseException:
            path.unlink(missing_ok=True)
            raise
        return TakeImport(path.stem, path, name, digest, size, rig_id=rig_id, found=found)

    def take_in() -> TakeFileOut:
        reading = look()
        desk.imports.hold(reading)
        with desk.make_session() as session:
            return _file_out(reading, session, catalogue_of(session))

    return await run_in_threadpool(take_in)


@router.get("/files/{key}")
def read_take_import(
    key: str, desk: DeskDep, session: SessionDep, catalogue: CatalogueDep
) -> TakeFileOut:
    """How far a file has come."""
    return _file_out(_found(desk, key), session, catalogue)


@router.post("/files/{key}/look")
def look_again(
    key: str, body: FileLookIn, desk: DeskDep, session: SessionDep, catalogue: CatalogueDep
) -> TakeFileOut:
    """Look at a file again with what the person says of it."""
    reading = _found(desk, key)
    if reading.state not in ("waiting", "failed"):
        raise ProblemError(409, "Too late", "This file is being read or has been.")
    said = ReadAs(body.rate_hz, body.separator, body.decimal, body.time, body.time_unit)
    try:
        reading.look_again(said)
    except UnreadableFileError as error:
        raise does_not_fit(str(error), "separator") from error
    return _file_out(reading, session, catalogue)


@router.post("/files/{key}/read", status_code=202)
def read_file_into_take(
    key: str, body: FileReadIn, desk: DeskDep, session: SessionDep, catalogue: CatalogueDep
) -> TakeFileOut:
    """Read a file into a recording. Goes on in the background; ask how far it has come."""
    reading = _found(desk, key)
    rig = find(session, Rig, reading.rig_id)
    _check_columns(session, catalogue, rig, reading, body.columns)
    if reading.found.asks_rate and body.rate_hz is None:
        raise does_not_fit(
            "the file holds no time; say how many rows there are a second", "rate_hz"
        )
    same = _file_out(reading, session, catalogue).same_file
    if same and not body.again:
        raise ProblemError(
            409,
            "The same file again",
            f"This very file is already here as “{same[0].name}”. Bring it in again only if you "
            "mean to.",
        )
    if not reading.claim():
        raise ProblemError(409, "Too late", "This file is being read or has been.")
    if body.rate_hz is not None:
        reading.read_as = replace(reading.read_as, rate_hz=body.rate_hz)
    air = body.air.conditions() if body.air else rig.air
    uses = {
        one.number: ColumnUse(one.sensor_id, one.role, one.form, one.unit) for one in body.columns
    }
    new = NewTake(rig.id, body.name, air, reading.source_name, reading.sha256, uses)
    reading.read(desk.engine, new)
    return _file_out(reading, session, catalogue)


def _check_columns(
    session: SessionDep,
    catalogue: CatalogueDep,
    rig: Rig,
    reading: TakeImport,
    columns: list[FileColumnIn],
) -> None:
    """Refuse what cannot be before anything is read: strangers, and an input given twice."""
    taken: dict[tuple[int, str], list[int]] = {}
    wanting: dict[tuple[int, str], str] = {}
    count = len(reading.found.header.channels)
    for one in columns:
        if one.number >= count:
            raise does_not_fit(f"there is no column {one.number + 1}; there are {count}", "columns")
        if one.sensor_id is None:
            continue
        sensor = find(session, Sensor, one.sensor_id)
        if sensor.rig_id != rig.id:
            raise does_not_fit("that sensor is not on this rig", "columns")
        kind = kind_of(sensor, catalogue)
        if not one.role:
            continue
        roles = {role.name: role for role in kind.roles} if kind is not None else {}
        if one.role not in roles or one.form not in {f.name for f in roles[one.role].forms}:
            known = ", ".join(roles) or "none"
            raise does_not_fit(
                f"{sensor.name} has no input “{one.role} {one.form}”; there are {known}", "columns"
            )
        form = roles[one.role].form(one.form)
        if one.unit is not None and form.scale_of(one.unit) is None:
            units = ", ".join(unit or "no unit" for unit in form.units)
            raise does_not_fit(
                f"“{one.unit}” is no unit of {form.label}; it comes in {units}", "columns"
            )
        given = taken.setdefault((sensor.id, one.role), [])
        given.append(one.number)
        if len(given) > roles[one.role].most_lanes:
            names = " and ".join(
                f"“{reading.found.header.channels[number].name}”" for number in given
            )
            raise does_not_fit(
                f"{names} cannot both be {roles[one.role].label} of {sensor.name}", "columns"
            )
        wanting[sensor.id, one.role] = (
            f"{roles[one.role].label} of {sensor.name} are {roles[one.role].least_lanes} columns, "
            f"and {len(given)} {'is' if len(given) == 1 else 'are'} given; say which the others are"
            if len(given) < roles[one.role].least_lanes
            else ""
        )
    for problem in filter(None, wanting.values()):
        raise does_not_fit(problem, "columns")


@router.delete("/files/{key}")
def cancel_take_import(
    key: str, desk: DeskDep, session: SessionDep, catalogue: CatalogueDep
) -> TakeFileOut:
    """Stop; nothing of the file is kept."""
    reading = _found(desk, key)
    reading.cancel()
    return _file_out(reading, session, catalogue)


def _found(desk: Desk, key: str) -> TakeImport:
    reading = desk.imports.get(key)
    if not isinstance(reading, TakeImport):
        raise not_found("file on its way in; choose it again")
    return reading


def _file_out(reading: TakeImport, session: SessionDep, catalogue: Catalogue) -> TakeFileOut:
    found = reading.found
    rig = session.get_one(Rig, reading.rig_id)
    whose = sensors_by_name(session, rig, found.header.channels)
    same = session.scalars(
        select(Take)
        .where(Take.sha256 == reading.sha256, Take.rig_id == rig.id, Take.deleted_at.is_(None))
        .order_by(Take.id)
    )
    is_separated = found.manner is not None and found.manner.kind == "separated"
    return TakeFileOut(
        key=reading.key,
        source_name=reading.source_name,
        size=reading.size,
        state=reading.state,
        format=found.format_name,
        separator=found.manner.separator if found.manner is not None and is_separated else "",
        decimal=found.manner.decimal if found.manner is not None and is_separated else "",
        lines=[FileLineOut.model_validate(line) for line in found.lines],
        aside=[AsideOut.model_validate(row) for row in found.put_aside],
        sensors=[_choice(sensor, catalogue) for sensor in rig.sensors if sensor.deleted_at is None],
        columns=_columns(rig, catalogue, found.header.channels, whose),
        rows=found.rows,
        bad_rows=reading.bad_lines if reading.state != "waiting" else found.bad_rows,
        is_whole=found.is_whole,
        time_column=found.time_column,
        time_unit=found.time_unit,
        rate_hz=found.rate_hz,
        needs_rate=found.asks_rate,
        notes=list(found.notes),
        problem=reading.problem or found.problem,
        bytes_read=reading.bytes_read,
        samples=reading.samples,
        take_id=reading.made_id,
        recordings=_recordings(session, reading.made_id),
        same_file=[
            SameTake(take_id=take.id, name=take.name, recorded_at=take.recorded_at)
            for take in same
            if take.id != reading.made_id
        ],
    )


def _recordings(session: SessionDep, take_id: int | None) -> dict[int, int]:
    take = session.get(Take, take_id) if take_id is not None else None
    return {} if take is None else {one.sensor_id: one.id for one in take.recordings}


def _choice(sensor: Sensor, catalogue: Catalogue) -> SensorChoice:
    """What a channel may be of a sensor."""
    kind = kind_of(sensor, catalogue)
    labels = [form.label for role in (kind.roles if kind else ()) for form in role.forms]
    forms = [
        FormChoice(
            role=role.name,
            form=form.name,
            # What two inputs may both come as is told by the input too.
            label=(f"{role.label}: {form.label}" if labels.count(form.label) > 1 else form.label),
            most_columns=role.most_lanes,
            units=list(form.units),
            loses=form.loses,
        )
        for role in (kind.roles if kind is not None else ())
        for form in role.forms
    ]
    return SensorChoice(sensor_id=sensor.id, name=sensor.name, forms=forms)


def _columns(
    rig: Rig, catalogue: Catalogue, channels: Sequence[ChannelInfo], whose: Mapping[int, int]
) -> list[FileColumnOut]:
    """Every channel with what it most likely is."""
    kept = [
        {"quantity": one.quantity, "unit": one.unit, "sensor_id": whose.get(number)}
        for number, one in enumerate(channels)
    ]
    inputs = {}
    for sensor in rig.sensors:
        kind = kind_of(sensor, catalogue)
        if kind is not None:
            inputs.update({one.channel: one for one in likely_inputs(kind, kept, sensor.id)})
    return [
        FileColumnOut(
            number=number,
            name=channel.name,
            unit=channel.unit,
            guess=channel.quantity,
            sensor_id=whose.get(number),
            role=inputs[number].role if number in inputs else "",
            form=inputs[number].form if number in inputs else "",
        )
        for number, channel in enumerate(channels)
    ]
