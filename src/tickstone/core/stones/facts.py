"""What the rules look at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from tickstone.core.calibration.kind import CalibrationKind, Fit
from tickstone.core.chains.kind import ChainKind
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.rules.kind import RuleKind
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings


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
    """The newest recording of a sensor. rate_hz: readings per second. flagged: count by status."""

    name: str
    at: datetime
    samples: int
    good: int
    flagged: Mapping[Status, int]
    rate_hz: float


@dataclass(frozen=True, slots=True)
class CalibrationFacts:
    """A calibration in use. grounds: the chain parameters it rests on, by name. undone_by: what
    somebody said has changed since. outgrown: why a newer recording says that it holds no more.
    """

    identity: str
    kind: CalibrationKind
    fit: Fit
    at: datetime
    surroundings: Surroundings
    grounds: Mapping[str, float | str]
    errors: tuple[str, ...] = ()
    undone_by: str = ""
    outgrown: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True)
class RuleFacts:
    """A rule in use. needed: what its parameters have to cover, as far as it was worked out.

    calibration_identity: of the calibrations that were in use when it was set. outgrown: why the
    newest recording says that it holds no more. moved: why delays or geometry do.
    """

    kind: RuleKind
    parameters: Any
    at: datetime
    needed: float | None
    calibration_identity: str
    outgrown: tuple[str, str] | None = None
    moved: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True)
class SensorFacts:
    """All the rules look at. kind: what the sensor is to the chain; None when it has none yet.

    board_lags: why the board runs something older than what holds now, a sentence; or nothing.
    """

    family: DeviceFamily
    now: datetime
    surroundings: Surroundings
    kind: ChainKind | None = None
    parameters: Any = None
    wired: SignOffFacts | None = None
    wiring: WiringFacts | None = None
    recording: RecordingFacts | None = None
    calibrations: tuple[CalibrationFacts, ...] = ()
    rules: tuple[RuleFacts, ...] = ()
    driven: SignOffFacts | None = None
    board_lags: str = ""

    @property
    def calibration_identity(self) -> str:
        """Which calibrations are in use; empty when none is."""
        return " ".join(one.identity for one in self.calibrations)
