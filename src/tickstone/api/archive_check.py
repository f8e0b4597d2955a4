"""A rig's archive held to what the API accepts: what comes in by a file passes the same schemas."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Body, Seconds
from tickstone.api.schemas.live import Conditions
from tickstone.api.schemas.mark import MarkIn
from tickstone.api.schemas.program import ProgramKind
from tickstone.api.schemas.rig import RigIn, SensorIn, SignOffIn
from tickstone.api.schemas.rule import RuleIn
from tickstone.api.schemas.study import StudyIn
from tickstone.api.schemas.take import TakeChange
from tickstone.api.schemas.wiring import TickIn
from tickstone.work.archive.versions import UnreadableArchiveError

_Row = dict[str, Any]
_IDENTITY = "^[0-9a-f]{8}$"
_AIR = tuple(Air.model_fields)


class _Channel(Body):
    model_config = ConfigDict(extra="allow")

    name: str = Field(max_length=400)
    unit: str = Field(max_length=40)
    quantity: str = Field(max_length=40)


class _Take(Body):
    channels: list[_Channel] = Field(min_length=1, max_length=64)
    samples: int = Field(ge=0, le=2**53)
    first_time_us: int = Field(ge=-(2**62), le=2**62)
    last_time_us: int = Field(ge=-(2**62), le=2**62)


Number = Annotated[float, Field(ge=-1e12, le=1e12)]


class _Calibration(Body):
    kind: str = Field(max_length=40)
    parameters: dict[str, Number | list[Number]] = Field(max_length=40)
    covariance: list[list[Number]] = Field(max_length=200)
    statistics: dict[str, Number] = Field(max_length=40)


class _Cell(Body):
    model_config = ConfigDict(extra="allow")

    key: str = Field(max_length=80)
    samples: int = Field(ge=0, le=2**53)
    taken_at: datetime
    recording_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    start_s: Seconds | None = None
    end_s: Seconds | None = None
    facts: dict[str, list[Number]] = Field(max_length=20)


class _Study(StudyIn):
    cells: list[_Cell] = Field(max_length=400)


class _Input(Body):
    role: str = Field(max_length=40)
    lane: int = Field(ge=0, le=63)
    channel: int = Field(ge=0, le=63)
    form: str = Field(max_length=40)


class _PrintedColumn(Body):
    name: str = Field(max_length=200)
    header: str = Field(max_length=400)
    unit: str = Field(max_length=40)
    quantity: str = Field(max_length=40)
    sensor_id: int | None = Field(ge=1, le=2**63 - 1)


class _SummedThen(Body):
    decided: dict[str, tuple[str, str, datetime]]
    settings: str
    numbers: dict[str, Any]


class _DecidedThen(Body):
    id: int
    name: str
    made_at: datetime
    sensors: list[int]
    is_in: bool


class _ProgramBasis(Body):
    wiring: dict[str, dict[str, str]]
    sums: dict[str, _SummedThen] = Field(default_factory=dict)
    decisions: dict[str, _DecidedThen] = Field(default_factory=dict)


class _Program(Body):
    identity: str = Field(pattern=_IDENTITY)
    kind: ProgramKind
    target: str = Field(max_length=40)
    text: str = Field(max_length=1_000_000)
    columns: list[_PrintedColumn] = Field(max_length=400)
    basis: _ProgramBasis


class _BoardRuns(Body):
    kind: str = Field(max_length=40)
    identity: str = Field(pattern=_IDENTITY)
    is_changed: bool
    heard_at: datetime


def _air(row: _Row) -> Air:
    return Air.model_validate({name: row[name] for name in _AIR})


def _picked(schema: type[BaseModel], *left_out: str) -> Callable[[_Row], BaseModel]:
    """The schema asked for those of its fields that a row has too."""
    names = [name for name in schema.model_fields if name not in left_out]
    return lambda row: schema.model_validate({name: row[name] for name in names if name in row})


def _sensor(row: _Row) -> None:
    _picked(SensorIn)({**row, "fitting": row["fitting"] or None})
    if not isinstance(row["parameters"], dict):
        raise ValueError("parameters are values by name")


def _rule(row: _Row) -> None:
    _picked(RuleIn)({**row, "evidence": row["basis"].get("evidence")})


def _surroundings(row: _Row) -> None:
    Air.model_validate(row["surroundings"]["air"])


_CHECKS: dict[str, tuple[Callable[[_Row], object], ...]] = {
    "rig": (_picked(RigIn, "air"), _air),
    "sensors": (_sensor,),
    "takes": (
        _picked(TakeChange, "air", "conditions"),
        _picked(_Take),
        lambda row: Conditions.model_validate(row["conditions"]),
        _air,
    ),
    "marks": (_picked(MarkIn),),
    "recording_inputs": (_picked(_Input),),
    "calibrations": (_picked(_Calibration), _surroundings),
    "rules": (_rule,),
    "studies": (_picked(_Study),),
    "sign_offs": (_picked(SignOffIn),),
    "programs": (_picked(_Program),),
    "board_runs": (_picked(_BoardRuns),),
    "ticks": (_picked(TickIn, "done", "seen"),),
}


def check_archive(document: dict[str, Any]) -> None:
    """Raises UnreadableArchiveError naming the first row and field that would be refused."""
    for section, checks in _CHECKS.items():
        rows = [document["rig"]] if section == "rig" else document[section]
        for number, row in enumerate(rows, start=1):
            where = section if section == "rig" else f"{section}, number {number}"
            for check in checks:
                _checked(check, row, where)


def _checked(check: Callable[[_Row], object], row: _Row, where: str) -> None:
    try:
        check(row)
    except ValidationError as error:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"])
        said = str(first["msg"]).removeprefix("Value error, ")
        raise UnreadableArchiveError(f"rig.json, {where}, {field}: {said}.") from error
    except ValueError as error:
        raise UnreadableArchiveError(f"rig.json, {where}: {error}.") from error
