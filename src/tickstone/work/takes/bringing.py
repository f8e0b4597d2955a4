"""Bringing a recording in from a file of any format: a look at it, then a take, all or nothing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.lines.tokens import Manner
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.header import (
    BadRow,
    ChannelInfo,
    LineSeen,
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
)
from tickstone.store.models import Mark, Rig, Sensor, Take
from tickstone.store.takes import TakeWriter
from tickstone.work.background import FileReading
from tickstone.work.catalogue import catalogue_of
from tickstone.work.sensing import kind_of
from tickstone.work.takes.finishing import finish_take

LOOKED_AT_ROWS = 200_000
_SHOWN_ASIDE = 20


@dataclass(frozen=True, slots=True)
class Inspection:
    """What a file holds. rows: counted to the end, or as far as it was read.

    put_aside: the first rows that could not be read.
    """

    format_name: str
    header: TakeHeader
    rows: int
    bad_rows: int
    is_whole: bool
    time_column: str
    time_unit: str
    rate_hz: float | None
    notes: tuple[str, ...]
    problem: str
    asks_rate: bool
    lines: tuple[LineSeen, ...]
    manner: Manner | None
    put_aside: tuple[BadRow, ...]


def inspect_file(reading: TakeReading, most_rows: int | None = None) -> Inspection:
    """Go through a file, or its first rows, without keeping anything.

    A log that holds no time is told of as a problem, not raised: the person can say the rate.
    """
    rows, first_us, last_us, is_whole, problem = 0, None, 0, True, ""
    aside: list[BadRow] = []
    try:
        for block in reading.blocks:
            rows += len(block)
            first_us = int(block.time_us[0]) if first_us is None and len(block) else first_us
            last_us = int(block.time_us[-1]) if len(block) else last_us
            aside += reading.take_bad()[: _SHOWN_ASIDE - len(aside)]
            if most_rows is not None and rows >= most_rows:
                is_whole = False
                break
    except ValueError as error:
        problem = str(error)
    span_us = last_us - (first_us or 0)
    rate = reading.rate_hz
    if reading.asks_rate and not problem:
        problem = "The file holds no time. Say how many rows there are a second."
    elif rows > 1 and span_us > 0:
        rate = (rows - 1) / (span_us / 1e6)
    return Inspection(
        reading.format_name,
        reading.header,
        rows,
        reading.bad_rows,
        is_whole,
        reading.time_column,
        reading.time_unit,
        rate,
        tuple(reading.notes),
        problem,
        reading.asks_rate,
        reading.first_lines,
        reading.manner,
        tuple(aside),
    )


@dataclass(frozen=True, slots=True)
class ColumnUse:
    """What a person says of a channel: whose it is, which input of it, how it comes, and its unit.

    role, form: as most likely when empty. unit: as the file has it when None.
    """

    sensor_id: int | None
    role: str = ""
    form: str = ""
    unit: str | None = None


@dataclass(frozen=True, slots=True)
class NewTake:
    """What the take is to be called, the air, and what is said of its channels, by number."""

    rig_id: int
    name: str
    air: AirConditions
    source_name: str
    sha256: str
    columns: dict[int, ColumnUse] = field(default_factory=dict)


def read_take_into(
    session: Session,
    reading: TakeReading,
    new: NewTake,
    stop: Callable[[], bool] = lambda: False,
    note: Callable[[int, int, int], None] = lambda *_: None,
) -> Take:
    """Read a file into a take, without committing. Raises UnreadableFileError."""
    if reading.asks_rate:
        raise UnreadableFileError("The file holds no time. Say how many rows there are a second.")
    header = reading.header
    take = Take(
        rig_id=new.rig_id,
        name=new.name,
        source_name=new.source_name,
        source={"kind": "file", "format": reading.format_name},
        sha256=new.sha256,
        channels=[
            _channel(session, channel, new.columns.get(number))
            for number, channel in enumerate(header.channels)
        ],
        conditions=header.conditions,
        tags=list(header.tags),
        time_source=header.time_source,
        jitter_us=header.jitter_us,
        samples=0,
        bad_lines=0,
    )
    if header.recorded_at:
        take.recorded_at = datetime.fromisoformat(header.recorded_at)
    take.air = _air(header.air, new.air)
    session.add(take)
    session.flush()
    writer = TakeWriter(session, take)
    for block in reading.blocks:
        writer.append(block)
        writer.put_aside((bad.line, bad.text, bad.reason) for bad in reading.take_bad())
        note(reading.bytes_read(), writer.samples, reading.bad_rows)
        if stop():
            break
    writer.put_aside((bad.line, bad.text, bad.reason) for bad in reading.take_bad())
    writer.flush()
    note(reading.bytes_read(), take.samples, reading.bad_rows)
    origin = take.first_time_us
    take.gaps = [
        {**gap, "from_us": gap["from_us"] + origin, "to_us": gap["to_us"] + origin}
        for gap in header.gaps
    ]
    for mark in header.marks:
        session.add(Mark(take_id=take.id, **_mark(mark)))
    session.flush()
    finish_take(session, take)
    return take


def _channel(session: Session, channel: ChannelInfo, use: ColumnUse | None) -> dict[str, Any]:
    """A channel as it is kept. Raises ValueError for an input that its sensor has none of."""
    kept: dict[str, Any] = {
        "name": channel.name,
        "unit": channel.unit if use is None or use.unit is None else use.unit,
        "quantity": channel.quantity,
        "sensor_id": None if use is None else use.sensor_id,
    }
    if use is None or use.sensor_id is None or not use.role:
        return kept
    sensor = session.get_one(Sensor, use.sensor_id)
    kind = kind_of(sensor, catalogue_of(session))
    try:
        if kind is None:
            raise KeyError(use.role)
        form = kind.role(use.role).form(use.form)
    except KeyError:
        raise ValueError(f"{sensor.name} has no input “{use.role[:40]} {use.form[:40]}”") from None
    return {**kept, "quantity": form.likely, "role": use.role, "form": form.name}


def _air(kept: dict[str, Any], otherwise: AirConditions) -> AirConditions:
    try:
        return AirConditions(**kept) if kept else otherwise
    except (TypeError, ValueError):
        return otherwise


def _mark(mark: dict[str, Any]) -> dict[str, Any]:
    """A mark of a file with what it must have. Raises ValueError."""
    try:
        told = {name: mark[name] for name in ("channel", "name", "start_s", "end_s", "unit")}
        return {**told, "value": mark["true_value"], "u": mark["true_u"]}
    except (KeyError, TypeError) as error:
        raise ValueError(f"A mark in the file lacks {error}.") from error


@dataclass(slots=True)
class TakeImport(FileReading):
    """A recording's file on its way in."""

    rig_id: int = field(kw_only=True)
    found: Inspection = field(kw_only=True)
    read_as: ReadAs = field(kw_only=True, default_factory=ReadAs)

    def look_again(self, read_as: ReadAs) -> None:
        """Look at the file with what the person says of it. Raises UnreadableFileError."""
        self.found = inspect_file(read_take_file(self.path, read_as), LOOKED_AT_ROWS)
        self.read_as = read_as

    def read(self, engine: Engine, new: NewTake) -> None:
        """Read the file in the background."""

        def run(session: Session) -> int:
            reading = read_take_file(self.path, self.read_as)
            return read_take_into(session, reading, new, lambda: self.is_stopped, self.note).id

        self.start(engine, run)


def rig_named(session: Session, name: str) -> Rig | None:
    """The rig of this name, whatever its case; None when there is none."""
    rows = session.query(Rig).where(Rig.deleted_at.is_(None)).all()
    return next((rig for rig in rows if rig.name.casefold() == name.casefold()), None)
