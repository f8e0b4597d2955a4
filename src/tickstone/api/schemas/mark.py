"""Marks: something held or noted over a span of a take."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.base import Answer, Body, Seconds
from tickstone.api.schemas.live import UnitText

MarkName = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$")
]
KindName = Annotated[str, StringConstraints(max_length=40)]


class MarkIn(Body):
    """A true value held over a span, s from the take's start, or a note when there is no value.

    channel: it is of. u: standard uncertainty of the value. pose: of a calibration's, if any.
    lane: the only one of the sensor that it speaks of; all when left out.
    """

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {"channel": 0, "name": "nail", "start_s": 3, "end_s": 6, "value": 0.6, "unit": "m"}
            ]
        }
    )

    channel: int | None = Field(default=None, ge=0, le=63)
    calibration: KindName = ""
    pose: KindName = ""
    name: MarkName = ""
    start_s: Seconds
    end_s: Seconds
    value: float | None = Field(default=None, ge=-1e12, le=1e12)
    u: float | None = Field(default=None, gt=0, le=1e12)
    unit: UnitText = ""
    lane: int | None = Field(default=None, ge=0, le=63)


class MarkOut(Answer):
    """A mark as kept. sensor_id: whose calibration it is for; none for notes and other values."""

    id: int
    take_id: int
    sensor_id: int | None
    channel: int | None
    calibration: str
    pose: str
    name: str
    start_s: float
    end_s: float
    value: float | None
    u: float | None
    unit: str
    lane: int | None
