"""Bringing a log in: send it, look at its shape, have it read."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import StringConstraints
from sqlalchemy import select
from starlette.concurrency import run_in_threadpool

from tickstone.api.desk import CatalogueDep, DeskDep, SessionDep, find
from tickstone.api.problems import ProblemError, does_not_fit, not_found
from tickstone.api.receiving import printable, received
from tickstone.api.schemas.log_import import (
    ImportOut,
    PreviewRow,
    ReadIn,
    SameFile,
    ShapeIn,
    ShapeOut,
)
from tickstone.formats.echo_log import EchoMapping
from tickstone.formats.log_shape import UnreadableLogError
from tickstone.store.models import Recording, Sensor, Take
from tickstone.work.importing import LogImport, NewRecording

router = APIRouter(prefix="/api/imports", tags=["imports"])

FileName = Annotated[str, StringConstraints(max_length=200), Query()]


def _found(desk: DeskDep, key: str) -> LogImport:
    log = desk.imports.get(key)
    if not isinstance(log, LogImport):
        raise not_found("file on its way in; choose it again")
    return log


def _import_out(log: LogImport, session: SessionDep) -> ImportOut:
    same = session.execute(
        select(Recording, Sensor.name)
        .join(Sensor, Sensor.id == Recording.sensor_id)
        .join(Take, Take.id == Recording.take_id)
        .where(Take.sha256 == log.sha256, Recording.deleted_at.is_(None))
        .order_by(Recording.id)
    ).all()
    return ImportOut(
        key=log.key,
        source_name=log.source_name,
        size=log.size,
        state=log.state,
        bytes_read=log.bytes_read,
        samples=log.samples,
        bad_lines=log.bad_lines,
        recording_id=log.made_id,
        problem=log.problem,
        shape=ShapeOut.model_validate(log.preview.shape),
        rows=[PreviewRow(line=line, cells=list(cells)) for line, cells in log.preview.rows],
        same_file=[
            SameFile(
                recording_id=recording.id,
                name=recording.name,
                sensor_name=sensor_name,
                recorded_at=recording.recorded_at,
            )
            for recording, sensor_name in same
            if recording.id != log.made_id
        ],
    )


@router.post(
    "",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string"}}},
        }
    },
)
async def send_log(request: Request, desk: DeskDep, source_name: FileName = "log.csv") -> ImportOut:
    """Send a file as the request's body. It goes to disk as it comes, never whole into memory."""
    path, digest, size = await received(request, desk.imports)
    name = printable(source_name) or "log.csv"

    def take_in() -> ImportOut:
        try:
            log = desk.imports.accept(path, name, digest, size)
        except UnreadableLogError as error:
            raise does_not_fit(f"{name}: {error}", "file") from error
        with desk.make_session() as session:
            return _import_out(log, session)

    return await run_in_threadpool(take_in)


@router.get("/{key}")
def read_import(key: str, desk: DeskDep, session: SessionDep) -> ImportOut:
    """How far a file has come."""
    return _import_out(_found(desk, key), session)


@router.post("/{key}/shape")
def look_again(key: str, body: ShapeIn, desk: DeskDep, session: SessionDep) -> ImportOut:
    """Read the first rows again with another separator or decimal mark."""
    log = _found(desk, key)
    if log.state not in ("waiting", "failed"):
        raise ProblemError(409, "Too late", "This file is being read or has been.")
    log.look_again(body.separator, body.decimal)
    return _import_out(log, session)


@router.post("/{key}/read", status_code=202)
def read_log(
    key: str, body: ReadIn, desk: DeskDep, session: SessionDep, catalogue: CatalogueDep
) -> ImportOut:
    """Read the file into a recording. Goes on in the background; ask how far it has come."""
    log = _found(desk, key)
    sensor = find(session, Sensor, body.sensor_id)
    if not catalogue.devices[sensor.family].has_chain:
        raise does_not_fit(f"{sensor.name} has no bench to listen on here yet", "sensor_id")
    try:
        mapping = EchoMapping(
            body.separator,
            body.decimal,
            body.header_line,
            body.width,
            body.time_column,
            body.time_unit,
            body.echo_column,
            body.echo_unit,
            body.interval_s,
        )
    except ValueError as error:
        raise does_not_fit(str(error), "columns") from error
    same = _import_out(log, session).same_file
    if same and not body.again:
        raise ProblemError(
            409,
            "The same file again",
            f"This very file is already here as “{same[0].name}” of {same[0].sensor_name}. "
            "Bring it in again only if you mean to.",
        )
    if not log.claim():
        raise ProblemError(409, "Too late", "This file is being read or has been.")
    new = NewRecording(sensor.id, body.name, body.air.conditions(), log.source_name, log.sha256)
    log.read(desk.engine, mapping, new)
    return _import_out(log, session)


@router.delete("/{key}")
def cancel_import(key: str, desk: DeskDep, session: SessionDep) -> ImportOut:
    """Stop; nothing of the file is kept."""
    log = _found(desk, key)
    log.cancel()
    return _import_out(log, session)
