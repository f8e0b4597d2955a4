"""Takes: recordings of all channels of a rig's line."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name, Seconds
from tickstone.api.schemas.bench import QuantityOut, ShownOut
from tickstone.api.schemas.live import Conditions
from tickstone.api.schemas.look import LineOfSamplesOut

Tag = Annotated[
    str,
    StringConstraints(
        strip_whitespace=True, min_length=1, max_length=40, pattern=r"^[^\x00-\x1f,]*$"
    ),
]


class ChannelOut(Answer):
    """One channel. recording_id: the sensor's recording that calibrations can rest on.

    asks_for: what a true value on it is told in, where a calibration asks for one.
    """

    number: int
    name: str
    unit: str
    quantity: str
    sensor_id: int | None
    sensor_name: str
    recording_id: int | None
    asks_for: QuantityOut | None
    stages: list[str]


class GapOut(Answer):
    """A stretch in which nothing could arrive, s from the start."""

    from_s: float
    to_s: float
    why: str


class TakeOut(Answer):
    """A take as kept. state: open, whole, or cut when the server ended before it was closed."""

    id: int
    rig_id: int
    name: str
    source_name: str
    source_kind: str
    state: Literal["open", "whole", "cut"]
    samples: int
    bad_lines: int
    duration_s: float
    rate_hz: float
    recorded_at: datetime
    time_source: str
    jitter_us: float | None
    air: Air
    conditions: Conditions
    tags: list[str]
    gaps: list[GapOut]
    channels: list[ChannelOut]


class TakeChange(Body):
    """What to change of a take. The samples never change."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"tags": ["bench", "curtain"], "name": "walk 3"}]}
    )

    name: Name | None = None
    tags: list[Tag] | None = Field(default=None, max_length=20)
    air: Air | None = None
    conditions: Conditions | None = None


class SpanIn(Body):
    """A stretch of a take, s from its start."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"from_s": 0.5, "to_s": 2.0}]})

    from_s: Seconds
    to_s: Seconds


class SplitIn(Body):
    """Where to split a take, s from its start."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"at_s": 1.0}]})

    at_s: Seconds


class JoinIn(Body):
    """Takes to put one after the other, in this order. They need the same channels."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"take_ids": [1, 2], "name": "all"}]})

    take_ids: list[Annotated[int, Field(ge=1, le=2**62)]] = Field(min_length=2, max_length=50)
    name: Name


class PlotChannelIn(Body):
    """A channel to draw. stage: "" for raw, or the name of the chain's stage to stop after."""

    channel: int = Field(ge=0, le=63)
    stage: Annotated[str, StringConstraints(max_length=40)] = ""


class PlotIn(Body):
    """A window to draw, at most `points` of each channel."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"channels": [{"channel": 0}]}]})

    channels: list[PlotChannelIn] = Field(min_length=1, max_length=16)
    from_s: float | None = Field(default=None, ge=-1e9, le=1e10)
    to_s: float | None = Field(default=None, ge=-1e9, le=1e10)
    points: int = Field(default=1_600, ge=50, le=8_000)


class SeriesOut(LineOfSamplesOut):
    """One drawn channel. unit: of its values; shown: how they are read."""

    channel: int
    stage: str
    unit: str
    shown: ShownOut


class PlotOut(Answer):
    """A window of a take. took_ms: on the server."""

    from_s: float
    to_s: float
    series: list[SeriesOut]
    took_ms: float


class SelectionIn(Body):
    """A stretch of one channel to look into."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"channel": 0, "from_s": 0, "to_s": 2.0}]}
    )

    channel: int = Field(ge=0, le=63)
    stage: Annotated[str, StringConstraints(max_length=40)] = ""
    from_s: Seconds
    to_s: Seconds


class SelectionOut(Answer):
    """What a stretch holds. sd: standard deviation of one sample; pulses: rises through the middle.

    at_from, at_to: the samples nearest to the two ends.
    """

    unit: str
    shown: ShownOut
    n: int
    flagged: int
    mean: float | None
    sd: float | None
    lowest: float | None
    highest: float | None
    rate_hz: float | None
    interval_sd_s: float | None
    at_from_s: float | None
    at_from: float | None
    at_to_s: float | None
    at_to: float | None
    pulses: int
    pulse_hz: float | None
    histogram_edges: list[float]
    histogram: list[int]
    spectrum_hz: list[float]
    spectrum: list[float]
    spectrum_unit: str
    spectrum_note: str
