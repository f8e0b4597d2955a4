"""What the rules look at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from tickstone.core.air.conditions import AirConditions
from tickstone.core.families.device_family import DeviceFamily


@dataclass(frozen=True, slots=True)
class SignOffFacts:
    """Somebody looked, and said whether it is right. grounds: what they looked at."""

    at: datetime
    is_right: bool
    note: str = ""
    grounds: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class WiringFacts:
    """How a sensor is wired now. grounds: where each lead goes, and on which board.

    errors: what the checks say against the wires there are. gaps: what they say is not there yet.
    steps, done: of its wiring list.
    """

    grounds: Mapping[str, str]
    errors: tuple[str, ...] = ()
    gaps: tuple[str, ...] = ()
    steps: int = 0
    done: int = 0


@dataclass(frozen=True, slots=True)
class RecordingFacts:
    """The newest recording of a sensor. rate_hz: readings per second. statuses: count by status."""

    name: str
    at: datetime
    samples: int
    good: int
    no_echo: int
    rate_hz: float


@dataclass(frozen=True, slots=True)
class CalibrationFacts:
    """The calibration in use. grounds: the chain parameters it rests on, by name."""

    identity: str
    at: datetime
    air: AirConditions
    grounds: Mapping[str, float | str]
    scale: float
    offset_m: float
    u_at_1m_m: float
    marks: int
    errors: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ThresholdFacts:
    """The threshold in use and the stopping distance it was set from, m."""

    at: datetime
    stop_m: float
    go_m: float
    needed_m: float | None
    calibration_identity: str | None


@dataclass(frozen=True, slots=True)
class SensorFacts:
    """All the rules look at. grounds: the chain's parameters as they are now."""

    family: DeviceFamily
    now: datetime
    air: AirConditions
    grounds: Mapping[str, float | str] = field(default_factory=dict)
    reads_the_air: bool = True
    wired: SignOffFacts | None = None
    wiring: WiringFacts | None = None
    recording: RecordingFacts | None = None
    calibration: CalibrationFacts | None = None
    threshold: ThresholdFacts | None = None
    driven: SignOffFacts | None = None
