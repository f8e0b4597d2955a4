"""Rigs, sensors and their stones."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name, Words
from tickstone.core.families.ultrasonic_ranger import RangerParameters
from tickstone.core.stones.stone import StoneState, WorkStage

FamilyName = Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)]


class StoneOut(Answer):
    """One cell of the table."""

    stage: WorkStage
    state: StoneState
    short: str
    reason: str


class Parameters(Body):
    """The ranger's parameters; see the chain. Left-out fields keep their defaults."""

    model_config = ConfigDict(
        extra="forbid",
        allow_inf_nan=False,
        from_attributes=True,
        json_schema_serialization_defaults_required=True,
        json_schema_extra={"examples": [{"air_model": "cramer", "mount_m": 0.008, "median_n": 3}]},
    )

    air_model: Annotated[str, StringConstraints(max_length=30)] = "cramer"
    fixed_speed_m_per_s: float = Field(default=343.0, ge=250, le=450)
    min_m: float = Field(default=0.02, ge=0, le=20)
    max_m: float = Field(default=4.0, gt=0, le=20)
    timeout_us: float = Field(default=38_000.0, ge=100, le=1e6)
    tick_us: float = Field(default=1.0, ge=0, le=1e4)
    detection_us: float = Field(default=12.5, ge=0, le=1e4)
    baseline_m: float = Field(default=0.026, ge=0, le=0.5)
    mount_m: float = Field(default=0.0, ge=-2, le=2)
    mount_tolerance_m: float = Field(default=0.001, ge=0, le=1)
    median_n: int = Field(default=3, ge=1, le=99)
    blind_stop_s: float = Field(default=0.25, ge=0, le=60)
    silence_is_clear: bool = False
    beam_rad: float = Field(default=RangerParameters().beam_rad, gt=0, lt=3.14)

    def parameters(self) -> RangerParameters:
        """As the core takes it. Raises ValueError when two of them do not fit together."""
        return RangerParameters(**self.model_dump())


class SensorRow(Answer):
    """A sensor in the table of stones."""

    id: int
    name: str
    family: str
    family_label: str
    has_chain: bool
    place: str
    pins: str
    stones: list[StoneOut]


class NextOut(Answer):
    """The stone to turn to."""

    sensor_id: int
    sensor_name: str
    stage: WorkStage
    state: StoneState
    reason: str


class RigSummary(Answer):
    """A rig in the list of rigs. trouble: why its stones cannot be worked out; usually nothing."""

    id: int
    name: str
    description: str
    board: str
    board_label: str
    ticked: int
    stones: int
    trouble: str


class RigOut(RigSummary):
    """A rig's home: every sensor, every stone, and what to do next."""

    air: Air
    sensors: list[SensorRow]
    next: NextOut | None


class RigIn(Body):
    """A new rig."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"name": "Bramble", "board": "five_volt_8bit_small"}]}
    )

    name: Name
    description: Words = ""
    board: FamilyName = ""
    air: Air = Air(temperature_c=20.0)


class RigChange(Body):
    """What to change of a rig; the rest stays."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"air": {"temperature_c": 21.5}}]})

    name: Name | None = None
    description: Words | None = None
    board: FamilyName | None = None
    air: Air | None = None


class Fitting(Body):
    """What was said of a device: its bus address, fastest pulses, full charge, and where it looks.

    SI: Hz, V, rad, left of ahead positive.
    """

    address: int | None = Field(default=None, ge=0, le=127)
    pulse_hz: float | None = Field(default=None, ge=0, le=1e7)
    full_charge_v: float | None = Field(default=None, ge=0.5, le=60)
    facing_rad: float | None = Field(default=None, ge=-6.3, le=6.3)


class SensorIn(Body):
    """A new sensor."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"name": "Rear ranger", "family": "ultrasonic_ranger"}]}
    )

    name: Name
    family: Annotated[str, StringConstraints(max_length=60)] = "ultrasonic_ranger"
    place: Words = ""
    fitting: Fitting | None = None


class SensorChange(Body):
    """What to change of a sensor. `calibration_id`: one of its own, or null for none."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"parameters": {"mount_m": 0.008}}]})

    name: Name | None = None
    place: Words | None = None
    fitting: Fitting | None = None
    parameters: Parameters | None = None
    calibration_id: int | None = Field(default=None, ge=1)


class SignOffIn(Body):
    """A look at the wiring, or a drive."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"stage": "wired", "is_right": True, "note": ""}]}
    )

    stage: WorkStage
    is_right: bool
    note: Words = ""


class SignOffOut(Answer):
    """A sign-off as kept."""

    id: int
    stage: WorkStage
    is_right: bool
    note: str
    at: datetime
