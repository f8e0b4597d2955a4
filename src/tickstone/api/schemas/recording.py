"""Recordings, marks, imports and views."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Metres, Name, Seconds
from tickstone.api.schemas.rig import Parameters
from tickstone.core.calibration.fit import CalibrationFit
from tickstone.core.finding import Finding


class RecordingOut(Answer):
    """A recording as kept."""

    id: int
    sensor_id: int
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


class ThresholdDraft(Body):
    """Two distances to try, m."""

    stop_m: float = Field(ge=0, le=20)
    go_m: float = Field(gt=0, le=20)


class ViewIn(Body):
    """A look at a recording. What is left out is taken as saved; `saved` words can be tried out.

    calibration: ``saved`` uses the calibration in use, ``none`` leaves it out, ``fit`` uses the
    marks of this recording as they stand.
    """

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"from_s": 0, "to_s": 42, "air": {"temperature_c": 21.5}}]}
    )

    from_s: float | None = None
    to_s: float | None = None
    at_s: float | None = None
    points: int = Field(default=1_600, ge=100, le=8_000)
    air: Air | None = None
    parameters: Parameters | None = None
    calibration: Literal["saved", "none", "fit"] = "saved"
    threshold: ThresholdDraft | None = None


class FindingOut(Answer):
    """What Tick Stone thinks."""

    severity: Literal["error", "warning", "note"]
    title: str
    why: str
    remedy: str

    @classmethod
    def of(cls, finding: Finding) -> FindingOut:
        return cls.model_validate(finding)


class ComponentOut(Answer):
    """A line of an uncertainty budget; contribution in the step's unit, standard uncertainty."""

    name: str
    u_input: float
    input_unit: str
    contribution: float | None
    shared: bool
    basis: str


class StepOut(Answer):
    """A cell of the working line. `shown` and `operand_shown` are rounded by their uncertainty."""

    stage: str
    label: str
    sign: str
    operand_shown: str
    operand_unit: str
    operand_note: str
    formula: str
    filled: str
    value: float | None
    shown: str
    unit: str
    u: float | None
    spread_shown: str
    status: str
    components: list[ComponentOut]
    source: str
    note: str


class FlagOut(Answer):
    """A flagged sample."""

    time_s: float
    status: str


class DecisionOut(Answer):
    """A stretch with one decision."""

    from_s: float
    to_s: float
    decision: Literal["clear", "stop", "blind"]


class ViewOut(Answer):
    """A window of a recording, ready to draw. `distance_m` is null where the line is broken."""

    samples: int
    shown_samples: int
    duration_s: float
    from_s: float
    to_s: float
    time_s: list[float]
    distance_m: list[float | None]
    flags: list[FlagOut]
    decisions: list[DecisionOut]
    counts: dict[str, int]
    at_index: int | None
    at_s: float | None
    at_status: str
    working: list[StepOut]
    footprint_m: float | None
    spread_at_m: list[float]
    spread_m: list[float]
    findings: list[FindingOut]


class MarkIn(Body):
    """A true distance held over a span. true_u_m: standard uncertainty of ruler and placing."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"name": "first nail", "start_s": 3, "end_s": 9, "true_m": 0.3}]
        }
    )

    name: Name
    start_s: Seconds
    end_s: Seconds
    true_m: Annotated[Metres, Field(ge=0)]
    true_u_m: float = Field(default=0.001, gt=0, le=1)


class MarkOut(Answer):
    """A mark as kept."""

    id: int
    recording_id: int
    name: str
    start_s: float
    end_s: float
    true_m: float
    true_u_m: float


class MarkResultOut(Answer):
    """A mark after the fit."""

    mark_id: int
    name: str
    true_m: float
    read_m: float | None
    scatter_m: float | None
    count: int
    flagged: int
    wild: int
    still: bool
    used: bool
    residual_m: float | None


class FitOut(Answer):
    """What the marks say: d_true = offset + scale × d_read."""

    offset_m: float
    offset_u_m: float
    scale: float
    scale_u: float
    scale_fitted: bool
    chi_square: float
    degrees: int
    u_at_1m_m: float
    marks: list[MarkResultOut]
    findings: list[FindingOut]

    @classmethod
    def of(cls, fit: CalibrationFit, mark_ids: list[int]) -> FitOut:
        return cls(
            offset_m=fit.offset_m,
            offset_u_m=max(0.0, fit.var_offset) ** 0.5,
            scale=fit.scale,
            scale_u=max(0.0, fit.var_scale) ** 0.5,
            scale_fitted=fit.scale_fitted,
            chi_square=fit.chi_square,
            degrees=fit.degrees,
            u_at_1m_m=fit.u_at(1.0),
            marks=[
                MarkResultOut(
                    mark_id=mark_id,
                    name=mark.name,
                    true_m=mark.true_m,
                    read_m=mark.read_m if mark.used else None,
                    scatter_m=mark.scatter_m if mark.used else None,
                    count=mark.count,
                    flagged=mark.flagged,
                    wild=mark.wild,
                    still=mark.still,
                    used=mark.used,
                    residual_m=mark.residual_m,
                )
                for mark_id, mark in zip(mark_ids, fit.marks, strict=True)
            ],
            findings=[FindingOut.of(remark) for remark in fit.remarks],
        )


class MarksOut(Answer):
    """The marks of a recording and their fit; `fit_problem` says why when there is none."""

    marks: list[MarkOut]
    fit: FitOut | None
    fit_problem: str


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
