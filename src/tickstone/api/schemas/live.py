"""Ports, open lines, stand-in boards."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name, Seconds, Words
from tickstone.api.schemas.bench import OutputOut, QuantityOut
from tickstone.core.lines.guess import Quantity

Path = Annotated[str, StringConstraints(min_length=1, max_length=300, pattern=r"^[^\x00-\x1f]*$")]
ColumnName = Annotated[
    str,
    StringConstraints(
        strip_whitespace=True, min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]*$"
    ),
]
UnitText = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=20, pattern=r"^[^\x00-\x1f]*$")
]
Speed = Annotated[int, Field(ge=50, le=20_000_000)]


class PortOut(Answer):
    """A port of this machine. `held_by`: another program that has it open."""

    path: str
    label: str
    detail: str
    is_stand_in: bool
    speed: int | None
    held_by: str
    rig_id: int | None
    rig_name: str


class ControlOut(Answer):
    """Something that can be moved in a stand-in board's world."""

    word: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    value: float


class FaultOut(Answer):
    """Something that can go wrong on a stand-in board."""

    word: str
    label: str
    looks: str


class StandInOut(Answer):
    """A stand-in board. `path`: its port while it runs, else empty."""

    name: str
    label: str
    path: str
    speed: int
    controls: list[ControlOut]
    faults: list[FaultOut]


class StandInIn(Body):
    """Start a stand-in board. The same seed gives the same noise."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"seed": 1}]})

    seed: int = Field(default=1, ge=0, le=2**31)


class OpenIn(Body):
    """Listen to a port. Without a speed it is guessed by readable text."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"path": "/dev/ttyS90", "speed": 115200}]}
    )

    path: Path
    speed: Speed | None = None
    resets: bool = True


class ReplayIn(Body):
    """Play a take as if it came now. pace: 1 as it was."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"take_id": 1, "pace": 1}]})

    take_id: int = Field(ge=1, le=2**62)
    pace: float = Field(default=1.0, ge=0.05, le=100)


class ColumnOut(Answer):
    """A value of each line. channel: its number among the channels, None for the time."""

    position: int
    label: str
    name: str
    unit: str
    quantity: str
    is_used: bool
    is_time: bool
    channel: int | None
    sensor_id: int | None
    gives: OutputOut | None
    asks_for: QuantityOut | None


class LineShapeOut(Answer):
    """How lines are read."""

    kind: str
    separator: str
    decimal: str
    bare_hex: bool
    time_unit: str
    says: str
    columns: list[ColumnOut]


class RecordingNowOut(Answer):
    """A take while it is recorded."""

    take_id: int
    name: str
    samples: int
    written_samples: int
    bad_lines: int
    started_at_s: float
    trouble: str


class BoardProgramOut(Answer):
    """A program that a board says it runs. says: what the record knows of it, a sentence."""

    kind: str
    identity: str
    standing: Literal["now", "older", "changed", "unknown", "other rig"]
    says: str


class LineOut(Answer):
    """An open line. jitter_us: how unevenly lines arrive, as a standard deviation."""

    rig_id: int
    kind: str
    path: str
    label: str
    speed: int | None
    resets: bool
    state: Literal["live", "lost", "ended"]
    trouble: str
    revision: int
    shape: LineShapeOut | None
    bytes: int
    lines: int
    rows: int
    bad: int
    text: int
    missing: int
    never_came: int
    lost: int
    rate_hz: float
    jitter_us: float | None
    clock_note: str
    axis_s: float
    board: str
    program: BoardProgramOut | None
    recording: RecordingNowOut | None


class ColumnChange(Body):
    """What a column is called and taken for."""

    name: ColumnName
    unit: UnitText = ""
    quantity: Quantity = "number"
    is_used: bool = True
    sensor_id: int | None = Field(default=None, ge=1, le=2**62)


class LineShapeIn(Body):
    """Correct how lines are read: take them apart otherwise, or rename and assign the columns.

    With `kind` the shape is learnt anew in that manner; otherwise `columns` has one entry a column.
    """

    model_config = ConfigDict(json_schema_extra={"examples": [{"kind": "labelled"}]})

    kind: Literal["json", "labelled", "separated", "words", "learn"] | None = None
    separator: Literal["", "comma", "semicolon", "tab", "bar", "space"] = ""
    decimal: Literal["point", "comma"] = "point"
    bare_hex: bool = False
    time_position: int | None = Field(default=None, ge=0, le=63)
    time_unit: Literal["ns", "µs", "ms", "s", "min", "clock"] = "ms"
    columns: list[ColumnChange] = Field(default_factory=list, max_length=64)


class Conditions(Body):
    """What the take was made in, besides the air."""

    model_config = ConfigDict(
        extra="forbid", json_schema_serialization_defaults_required=True, from_attributes=True
    )

    light: Annotated[str, StringConstraints(max_length=200)] = ""
    height_mm: float | None = Field(default=None, ge=0, le=10_000)
    battery_v: float | None = Field(default=None, ge=0, le=1_000)
    notes: Words = ""


class RecordIn(Body):
    """Begin a take. Without air, the rig's."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"name": "walk along the bench"}]})

    name: Name
    air: Air | None = None
    conditions: Conditions = Field(default_factory=Conditions)


class SendIn(Body):
    """A line of text for the board."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"text": "target 0.6"}]})

    text: Annotated[str, StringConstraints(min_length=1, max_length=200, pattern=r"^[^\x00\r\n]*$")]


class LiveMarkIn(Body):
    """A true value of a channel, held from `from_axis_s` to `to_axis_s` of the line's time."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {"channel": 0, "from_axis_s": 3, "to_axis_s": 6, "value": 0.6, "unit": "m"}
            ]
        }
    )

    channel: int | None = Field(default=None, ge=0, le=63)
    from_axis_s: Seconds
    to_axis_s: Seconds
    value: float | None = Field(default=None, ge=-1e12, le=1e12)
    u: float | None = Field(default=None, gt=0, le=1e12)
    unit: UnitText = ""
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""


class JudgedOut(Answer):
    """A line as it came and what became of it."""

    number: int
    text: str
    verdict: str
    reason: str
    at_s: float


class SpeedGuessOut(Answer):
    """What was heard at each speed."""

    speed: int | None
    heard: list[tuple[int, int, float]]
