"""``tickstone formats``, ``inspect``, ``import``, ``export``: recordings as files."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Annotated, Any

import typer
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.cli.failing import fail
from tickstone.cli.store_here import open_store
from tickstone.formats.takes import FORMATS, format_named, read_take_file
from tickstone.formats.takes.csv_format import sidecar_path, write_sidecar
from tickstone.formats.takes.header import (
    ReadAs,
    TakeReading,
    UnreadableFileError,
    UnwritableError,
)

DataOption = Annotated[Path | None, typer.Option(help="Folder for everything that is kept.")]
UrlOption = Annotated[
    str | None,
    typer.Option(envvar="TICKSTONE_DATABASE_URL", help="A PostgreSQL of your own instead."),
]
RateOption = Annotated[
    float | None, typer.Option(help="Rows a second, for a log that holds no time.", min=1e-6)
]


def list_formats(
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """The open formats recordings are read from and written to."""
    if as_json:
        typer.echo(
            json.dumps(
                [
                    {"name": f.name, "label": f.label, "reads": f.reads, "writes": f.writes}
                    for f in FORMATS
                ]
            )
        )
        return
    for one in FORMATS:
        ways = "in and out" if one.reads and one.writes else "in" if one.reads else "out"
        typer.echo(f"{one.name:8} {one.label:12} {ways:11} {one.note}")


def inspect_file(
    file: Annotated[Path, typer.Argument(help="A recording in any format, or any log.")],
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
    rate_hz: RateOption = None,
) -> None:
    """What a file holds: its format, columns, rows and time. Keeps nothing."""
    # These bring the database along, which no other command here needs.
    from tickstone.work.takes.bringing import inspect_file as look

    found = look(_opened(file, rate_hz))
    document: dict[str, Any] = {
        "format": found.format_name,
        "columns": [
            {"name": channel.name, "unit": channel.unit, "guess": channel.quantity}
            for channel in found.header.channels
        ],
        "rows": found.rows,
        "bad_rows": found.bad_rows,
        "time": {
            "column": found.time_column or None,
            "unit": found.time_unit if found.time_column else None,
            "rate_hz": found.rate_hz,
        },
    }
    if as_json:
        typer.echo(json.dumps(document, ensure_ascii=False))
    else:
        typer.echo(f"{file.name}: {found.format_name}, {found.rows} rows, {found.bad_rows} bad")
        time = f"“{found.time_column}” in {found.time_unit}" if found.time_column else "none"
        rate = f", {found.rate_hz:.6g} rows a second" if found.rate_hz else ""
        typer.echo(f"time: {time}{rate}")
        for channel in found.header.channels:
            unit = f" [{channel.unit}]" if channel.unit else ""
            typer.echo(f"  {channel.name}{unit}: {channel.quantity}")
        for note in found.notes:
            typer.echo(note)
    if found.problem:
        typer.echo(found.problem, err=True)
        raise typer.Exit(1)


def import_file(
    file: Annotated[Path, typer.Argument(help="A recording, or a whole rig as zip.")],
    rig: Annotated[str, typer.Option(help="The rig it belongs to, by name.")] = "",
    name: Annotated[str, typer.Option(help="What to call it; the file's name else.")] = "",
    rate_hz: RateOption = None,
    data: DataOption = None,
    database_url: UrlOption = None,
) -> None:
    """Bring a recording in, or with a zip and no rig, a whole rig."""
    if file.suffix.lower() == ".zip":
        _import_archive(file, data, database_url)
        return
    reading = _opened(file, rate_hz)
    digest = hashlib.sha256()
    with file.open("rb") as stream:
        while piece := stream.read(1024 * 1024):
            digest.update(piece)
    from tickstone.work.live.memory import sensors_by_name
    from tickstone.work.takes.bringing import (
        ColumnUse,
        NewTake,
        read_take_into,
        rig_named,
    )

    with open_store(data, database_url) as engine, Session(engine) as session:
        found = rig_named(session, rig)
        if found is None:
            fail(f"There is no rig called “{rig}”. Give one with --rig.")
        new = NewTake(
            found.id,
            name or file.stem,
            found.air,
            file.name,
            digest.hexdigest(),
            {
                number: ColumnUse(sensor_id)
                for number, sensor_id in sensors_by_name(
                    session, found, reading.header.channels
                ).items()
            },
        )
        try:
            take = read_take_into(session, reading, new)
        except ValueError as error:
            fail(f"{file}: {error}")
        if take.samples == 0:
            fail(f"{file}: no row could be read; {reading.bad_rows} were put aside. Nothing kept.")
        session.commit()
        typer.echo(
            f"“{take.name}” of {found.name}: {take.samples} samples of {len(take.channels)} "
            f"channels, {take.bad_lines} rows put aside (recording {take.id})"
        )
        for note in reading.notes:
            typer.echo(note)


def _import_archive(file: Path, data: Path | None, database_url: str | None) -> None:
    from tickstone.api.archive_check import check_archive
    from tickstone.work.archive.reading import read_archive
    from tickstone.work.archive.versions import UnreadableArchiveError

    with open_store(data, database_url) as engine, Session(engine) as session:
        try:
            rig = read_archive(session, file, check_archive)
        except UnreadableArchiveError as error:
            fail(f"{file}: {error} Nothing was kept.")
        session.commit()
        typer.echo(f"Rig “{rig.name}” is here (rig {rig.id})")


def export_recording(
    recording: Annotated[str, typer.Argument(help="Number or name of a recording, or of a rig.")],
    form: Annotated[
        str,
        typer.Option("--format", help=f"{', '.join(f.name for f in FORMATS)}, or zip for a rig."),
    ] = "csv",
    out: Annotated[Path | None, typer.Option(help="File to write; named after it else.")] = None,
    channel: Annotated[str, typer.Option(help="One channel only, by name; needed for WAV.")] = "",
    data: DataOption = None,
    database_url: UrlOption = None,
) -> None:
    """Take a recording away in an open format; CSV with its description beside it."""
    from tickstone.store.models import Take
    from tickstone.work.archive.writing import write_archive
    from tickstone.work.takes.bringing import rig_named
    from tickstone.work.takes.exporting import export_take, header_of

    with open_store(data, database_url) as engine, Session(engine) as session:
        if form == "zip":
            rig = rig_named(session, recording)
            if rig is None:
                fail(f"There is no rig called “{recording}”.")
            path = out or Path(f"{rig.name}.zip")
            with path.open("wb") as file:
                write_archive(session, rig, file)
            typer.echo(f"{path}: the whole of {rig.name}")
            return
        try:
            writer = format_named(form)
        except KeyError:
            fail(f"There is no format “{form}”; `tickstone formats` lists them.")
        kept = select(Take).where(Take.deleted_at.is_(None))
        if recording.isdigit():
            take = session.scalars(kept.where(Take.id == int(recording))).first()
        else:
            by_name = kept.where(Take.name == recording).order_by(Take.id.desc())
            take = session.scalars(by_name).first()
        if take is None:
            fail(f"There is no recording “{recording}”.")
        names = [one["name"] for one in take.channels]
        if channel and channel not in names:
            fail(f"There is no channel “{channel}”; there are {', '.join(names)}.")
        number = (
            names.index(channel) if channel else 0 if form == "wav" and len(names) == 1 else None
        )
        path = out or Path(f"{take.name}.{writer.extension}")
        fresh = path.with_name(f".{path.name}.part")
        try:
            with fresh.open("wb") as file:
                export_take(session, take, writer, file, number)
        except UnwritableError as error:
            fresh.unlink(missing_ok=True)
            fail(str(error))
        fresh.replace(path)
        if form == "csv":
            sidecar_path(path).write_text(write_sidecar(header_of(session, take)), "utf-8")
        typer.echo(f"{path}: {take.samples} samples of “{take.name}”")


def _opened(file: Path, rate_hz: float | None) -> TakeReading:
    try:
        if not file.is_file():
            fail(f"{file} is no file.")
        return read_take_file(file, ReadAs(rate_hz=rate_hz))
    except UnreadableFileError as error:
        fail(f"{file}: {error}")
    except OSError as error:
        fail(f"{file} cannot be read: {error.strerror}.")
