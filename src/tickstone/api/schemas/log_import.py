"""Bringing a log in."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name


class ShapeOut(Answer):
    """The shape of a log; see the import screen."""

    separator: str
    decimal: str
    header_line: int
    columns: list[str]
    time_column: int | None
    time_unit: str
    echo_column: int | None
    echo_unit: str


class PreviewRow(Answer):
    """A line of the file, cut into cells."""

    line: int
    cells: list[str]


class SameFile(Answer):
    """A recording made from the very same file."""

    recording_id: int
    name: str
    sensor_name: str
    recorded_at: datetime


class ImportOut(Answer):
    """A file on its way in."""

    key: str
    source_name: str
    size: int
    state: Literal["waiting", "reading", "done", "failed", "cancelled"]
    bytes_read: int
    samples: int
    bad_lines: int
    recording_id: int | None
    problem: str
    shape: ShapeOut
    rows: list[PreviewRow]
    same_file: list[SameFile]


class ShapeIn(Body):
    """What the person settled; the rest is guessed again."""

    separator: Literal["comma", "semicolon", "tab", "bar", "space"] | None = None
    decimal: Literal["point", "comma"] | None = None


class ReadIn(Body):
    """How to read the log, and what to call the recording."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "sensor_id": 1,
                    "name": "ruler by the bench",
                    "air": {"temperature_c": 9.5},
                    "separator": "comma",
                    "decimal": "point",
                    "header_line": 1,
                    "width": 2,
                    "time_column": 0,
                    "time_unit": "ms",
                    "echo_column": 1,
                    "echo_unit": "us",
                }
            ]
        }
    )

    sensor_id: int = Field(ge=1, le=2**63 - 1)
    name: Name
    air: Air
    separator: Annotated[str, StringConstraints(max_length=20)]
    decimal: Annotated[str, StringConstraints(max_length=20)]
    header_line: int = Field(ge=0, le=400)
    width: int = Field(ge=1, le=10_000)
    time_column: int | None = Field(default=None, ge=0)
    time_unit: Literal["us", "ms", "s"] = "ms"
    echo_column: int = Field(ge=0)
    echo_unit: Literal["us", "ms", "s"] = "us"
    interval_s: float = Field(default=0.05, ge=1e-6, le=3600)
    again: bool = False
