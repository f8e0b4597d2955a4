"""Recordings and whole rigs as files, out and in."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable
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
    FileColumnOut,
    FileReadIn,
    FormatOut,
    SameTake,
    TakeFileOut,
)
from tickstone.formats.takes import FORMATS, format_named, read_take_file
from tickstone.formats.takes.csv_format import write_sidecar
from tickstone.formats.takes.header import UnreadableFileError, UnwritableError
from tickstone.store.models import Rig, Sensor, Take
from tickstone.work.archive import read_archive, write_archive
from tickstone.work.archive_versions import UnreadableArchiveError
from tickstone.work.live.memory import sensors_by_name
from tickstone.work.takes.bringing import NewTake, TakeImport, inspect_file
from tickstone.work.takes.channel import channel_of
from tickstone.work.takes.exporting import Drawn, export_as_drawn, export_take, header_of

router = APIRouter(prefix="/api", tags=["files"])

DrawnText = Annotated[str, StringConstraints(pattern=r"^\d{1,2}:[a-z_]{0,40}$")]
FileName = Annotated[str, StringConstraints(max_length=200), Query()]
_LOOKED_AT_ROWS = 200_000


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
            found = inspect_file(read_take_file(path), _LOOKED_AT_ROWS)
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
            return _file_out(reading, session)

    return await run_in_threadpool(take_in)


@router.get("/files/{key}")
def read_take_import(key: str, desk: DeskDep, session: SessionDep) -> TakeFileOut:
    """How far a file has come."""
    return _file_out(_found(desk, key), session)


@router.post("/files/{key}/read", status_code=202)
def read_file_into_take(
    key: str, body: FileReadIn, desk: DeskDep, session: SessionDep
) -> TakeFileOut:
    """Read a file into a recording. Goes on in the background; ask how far it has come."""
    reading = _found(desk, key)
    rig = find(session, Rig, reading.rig_id)
    for sensor_id in body.sensors.values():
        if find(session, Sensor, sensor_id).rig_id != rig.id:
            raise does_not_fit("that sensor is not on this rig", "sensors")
    if _needs_rate(reading) and body.rate_hz is None:
        raise does_not_fit(
            "the file holds no time; say how many rows there are a second", "rate_hz"
        )
    same = _file_out(reading, session).same_file
    if same and not body.again:
        raise ProblemError(
            409,
            "The same file again",
            f"This very file is already here as “{same[0].name}”. Bring it in again only if you "
            "mean to.",
        )
    if not reading.claim():
        raise ProblemError(409, "Too late", "This file is being read or has been.")
    air = body.air.conditions() if body.air else rig.air
    new = NewTake(rig.id, body.name, air, reading.source_name, reading.sha256, body.sensors)
    reading.read(desk.engine, new, body.rate_hz)
    return _file_out(reading, session)


@router.delete("/files/{key}")
def cancel_take_import(key: str, desk: DeskDep, session: SessionDep) -> TakeFileOut:
    """Stop; nothing of the file is kept."""
    reading = _found(desk, key)
    reading.cancel()
    return _file_out(reading, session)


def _found(desk: Desk, key: str) -> TakeImport:
    reading = desk.imports.get(key)
    if not isinstance(reading, TakeImport):
        raise not_found("file on its way in; choose it again")
    return reading


def _needs_rate(reading: TakeImport) -> bool:
    return bool(reading.found.problem) and reading.found.rows == 0 and not reading.found.time_column


def _file_out(reading: TakeImport, session: SessionDep) -> TakeFileOut:
    found = reading.found
    rig = session.get_one(Rig, reading.rig_id)
    sensors = sensors_by_name(session, rig, found.header.channels)
    same = session.scalars(
        select(Take)
        .where(Take.sha256 == reading.sha256, Take.rig_id == rig.id, Take.deleted_at.is_(None))
        .order_by(Take.id)
    )
    return TakeFileOut(
        key=reading.key,
        source_name=reading.source_name,
        size=reading.size,
        state=reading.state,
        format=found.format_name,
        columns=[
            FileColumnOut(
                number=number,
                name=channel.name,
                unit=channel.unit,
                guess=channel.quantity,
                sensor_id=sensors.get(number),
            )
            for number, channel in enumerate(found.header.channels)
        ],
        rows=found.rows,
        bad_rows=reading.bad_lines if reading.state != "waiting" else found.bad_rows,
        is_whole=found.is_whole,
        time_column=found.time_column,
        time_unit=found.time_unit,
        rate_hz=found.rate_hz,
        needs_rate=_needs_rate(reading),
        notes=list(found.notes),
        problem=reading.problem or found.problem,
        bytes_read=reading.bytes_read,
        samples=reading.samples,
        take_id=reading.made_id,
        same_file=[
            SameTake(take_id=take.id, name=take.name, recorded_at=take.recorded_at)
            for take in same
            if take.id != reading.made_id
        ],
    )
