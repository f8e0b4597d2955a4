"""Recordings as files: what there is, what one holds, having it read."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import ConfigDict, Field

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name


class FormatOut(Answer):
    """An open format."""

    name: str
    label: str
    extension: str
    reads: bool
    writes: bool
    note: str


class FileColumnOut(Answer):
    """A channel of a file. guess: what it most likely is; sensor_id: whose, by its name; role,
    form: which input of that, and how it comes.
    """

    number: int
    name: str
    unit: str
    guess: str
    sensor_id: int | None
    role: str
    form: str


class FormChoice(Answer):
    """One way in which an input may come. loses: what is lost by that. most_columns: how many it
    may be.
    """

    role: str
    form: str
    label: str
    most_columns: int
    units: list[str]
    loses: str


class SensorChoice(Answer):
    """What a channel may be of a sensor: its inputs, none when it has no bench."""

    sensor_id: int
    name: str
    forms: list[FormChoice]


class LinePartOut(Answer):
    """Characters start to end of a line, and which channel they are: -1 the time, None a name."""

    start: int
    end: int
    column: int | None


class FileLineOut(Answer):
    """One of the first lines as it stands there, with what was understood of it."""

    number: int
    text: str
    verdict: str
    reason: str
    parts: list[LinePartOut]


class AsideOut(Answer):
    """A row that could not be read, and why."""

    line: int
    text: str
    reason: str


class SameTake(Answer):
    """A recording made from the very same file."""

    take_id: int
    name: str
    recorded_at: datetime


class TakeFileOut(Answer):
    """A recording's file on its way in. needs_rate: it holds no time; say the rows a second.

    separator, decimal: of separated text, else empty. lines: the first ones of text. aside: the
    first rows that could not be read. sensors: what channels may be. recordings: by sensor, once
    it is done.
    """

    key: str
    source_name: str
    size: int
    state: Literal["waiting", "reading", "done", "failed", "cancelled"]
    format: str
    separator: str
    decimal: str
    lines: list[FileLineOut]
    aside: list[AsideOut]
    sensors: list[SensorChoice]
    columns: list[FileColumnOut]
    rows: int
    bad_rows: int
    is_whole: bool
    time_column: str
    time_unit: str
    rate_hz: float | None
    needs_rate: bool
    notes: list[str]
    problem: str
    bytes_read: int
    samples: int
    take_id: int | None
    recordings: dict[int, int]
    same_file: list[SameTake]


class FileLookIn(Body):
    """Look at a file again. time: the column of times by name, "" for none; as found without."""

    separator: Literal["", "comma", "semicolon", "tab", "bar", "space"] = ""
    decimal: Literal["", "point", "comma"] = ""
    time: str | None = Field(default=None, max_length=200)
    time_unit: Literal["", "ns", "µs", "ms", "s", "min"] = ""
    rate_hz: float | None = Field(default=None, gt=0, le=1e7)


class FileColumnIn(Body):
    """Whose a channel is, which input, how it comes and in which unit; as found where left out."""

    number: int = Field(ge=0, le=63)
    sensor_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    role: str = Field(default="", max_length=40)
    form: str = Field(default="", max_length=40)
    unit: str | None = Field(default=None, max_length=40)


class FileReadIn(Body):
    """Read a file. columns: those that belong to a sensor. again: although it is here already."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"name": "walk", "columns": [{"number": 0, "sensor_id": 1}]}]
        }
    )

    name: Name
    air: Air | None = None
    columns: list[FileColumnIn] = Field(default_factory=list, max_length=64)
    rate_hz: float | None = Field(default=None, gt=0, le=1e7)
    again: bool = False
