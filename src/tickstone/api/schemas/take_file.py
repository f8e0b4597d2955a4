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
    """A channel of a file. guess: what it most likely is; sensor_id: whose, by its name."""

    number: int
    name: str
    unit: str
    guess: str
    sensor_id: int | None


class SameTake(Answer):
    """A recording made from the very same file."""

    take_id: int
    name: str
    recorded_at: datetime


class TakeFileOut(Answer):
    """A recording's file on its way in. needs_rate: it holds no time; say the rows a second."""

    key: str
    source_name: str
    size: int
    state: Literal["waiting", "reading", "done", "failed", "cancelled"]
    format: str
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
    same_file: list[SameTake]


class FileReadIn(Body):
    """Read a file. sensors: channel number to sensor. again: although the file is here already."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"name": "walk", "sensors": {}, "rate_hz": 20}]}
    )

    name: Name
    air: Air | None = None
    sensors: dict[int, int] = Field(default_factory=dict, max_length=64)
    rate_hz: float | None = Field(default=None, gt=0, le=1e7)
    again: bool = False
