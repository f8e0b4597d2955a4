"""Recordings and the lines put aside when they were read."""

from __future__ import annotations

from datetime import datetime

from pydantic import ConfigDict

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name


class RecordingOut(Answer):
    """A recording as kept."""

    id: int
    sensor_id: int
    take_id: int
    name: str
    source_name: str
    samples: int
    bad_lines: int
    duration_s: float
    rate_hz: float
    recorded_at: datetime
    air: Air


class RecordingChange(Body):
    """What to change of a recording. The raw readings themselves never change."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"air": {"temperature_c": 9.5}}]})

    name: Name | None = None
    air: Air | None = None


class BadLineOut(Answer):
    """A line that was put aside."""

    line: int
    text: str
    reason: str


class BadLinesOut(Answer):
    """A page of bad lines."""

    total: int
    lines: list[BadLineOut]
