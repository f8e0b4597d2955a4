"""Rigs, sensors and their stones."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body, Name, Words
from tickstone.api.schemas.bench import Values
from tickstone.core.stones.stone import StoneState, WorkStage

FamilyName = Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)]


class StoneOut(Answer):
    """One cell of the table."""

    stage: WorkStage
    state: StoneState
    short: str
    reason: str


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


class CrackedOut(Answer):
    """A decision in use whose grounds have changed. is_rules: or a controller."""

    name: str
    is_rules: bool
    says: str


class RigOut(RigSummary):
    """A rig's home: every sensor, every stone, and what to do next. cracked: decisions over all of
    it that rest on what is no more as it was.
    """

    cracked: list[CrackedOut]
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
    """What to change of a sensor. parameters: of its chain; those left out go back to usual."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"parameters": {"mount_m": 0.008}}]})

    name: Name | None = None
    place: Words | None = None
    fitting: Fitting | None = None
    parameters: Annotated[Values, Field(max_length=80)] | None = None


class SignOffIn(Body):
    """A look at the wiring, or a drive. recording_id: of the run, as evidence."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"stage": "wired", "is_right": True, "note": ""}]}
    )

    stage: WorkStage
    is_right: bool
    note: Words = ""
    recording_id: int | None = Field(default=None, ge=1, le=2**63 - 1)


class SignOffOut(Answer):
    """A sign-off as kept. run: the recording that bears it out, and what it says, or nothing."""

    id: int
    stage: WorkStage
    is_right: bool
    note: str
    run: str
    at: datetime
