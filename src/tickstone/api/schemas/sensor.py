"""A sensor in hand: its parameters, calibrations and thresholds."""

from __future__ import annotations

from datetime import datetime

from pydantic import ConfigDict, Field

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Words
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.recording import RecordingOut
from tickstone.api.schemas.rig import Parameters, SensorRow, SignOffOut


class CalibrationOut(Answer):
    """A calibration as kept; it never changes."""

    id: int
    made_at: datetime
    recording_id: int
    offset_m: float
    scale: float
    scale_fitted: bool
    u_at_1m_m: float
    marks: int
    air: Air
    errors: list[str]


class StoppingIn(Body):
    """What the rig does.

    Times left out are taken from the newest recording, the chain and the rig's time budget.
    """

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"speed_m_per_s": 0.6, "deceleration_m_per_s2": 1.5, "loop_s": 0.04}]
        }
    )

    speed_m_per_s: float = Field(ge=0, le=100)
    speed_u: float = Field(default=0.0, ge=0, le=100)
    deceleration_m_per_s2: float = Field(gt=0, le=100)
    deceleration_u: float = Field(default=0.0, ge=0, le=100)
    sample_s: float | None = Field(default=None, ge=0, le=60)
    filter_s: float | None = Field(default=None, ge=0, le=60)
    loop_s: float | None = Field(default=None, ge=0, le=60)
    actuate_s: float = Field(default=0.05, ge=0, le=60)
    margin_m: float = Field(default=0.05, ge=0, le=10)
    stop_m: float | None = Field(default=None, ge=0, le=20)


class StoppingOut(Answer):
    """The sum and what to set. greatest_speed_m_per_s: for the stop distance asked about."""

    sample_s: float
    filter_s: float
    loop_s: float
    reading_u_m: float
    blind_s: float
    travel_blind_m: float
    travel_braking_m: float
    doubt_m: float
    margin_m: float
    total_m: float
    suggested_stop_m: float
    suggested_go_m: float
    greatest_speed_m_per_s: float | None
    note: Words


class ThresholdIn(Body):
    """Stop and go-again distances, with the stopping distance they were set from, if any."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"stop_m": 0.42, "go_m": 0.5}]})

    stop_m: float = Field(ge=0, le=20)
    go_m: float = Field(gt=0, le=20)
    stopping: StoppingIn | None = None


class ThresholdOut(Answer):
    """A threshold as kept."""

    id: int
    set_at: datetime
    stop_m: float
    go_m: float
    needed_m: float | None
    stopping: StoppingIn | None
    calibration_id: int | None


class FixedRuleOut(Answer):
    """A rule of thumb and the air it assumes."""

    name: str
    label: str
    speed_m_per_s: float
    assumed_temperature_c: float


class AirModelOut(Answer):
    """A way to work out the speed of sound."""

    name: str
    label: str
    formula: str
    source: str


class SensorOut(SensorRow):
    """Everything about one sensor."""

    rig_id: int
    rig_name: str
    rig_air: Air
    asks_of_a_drive: str
    parameters: Parameters
    defaults: Parameters
    air_models: list[AirModelOut]
    fixed_rules: list[FixedRuleOut]
    recordings: list[RecordingOut]
    calibration: CalibrationOut | None
    calibrations: list[CalibrationOut]
    threshold: ThresholdOut | None
    sign_offs: list[SignOffOut]
    findings: list[FindingOut]
