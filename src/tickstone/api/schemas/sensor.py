"""A sensor in hand: its bench, settings, recordings, calibrations and rules."""

from __future__ import annotations

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer
from tickstone.api.schemas.bench import BenchOut, QuantityOut, Values
from tickstone.api.schemas.calibration import CalibrationOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.recording import RecordingOut
from tickstone.api.schemas.rig import SensorRow, SignOffOut
from tickstone.api.schemas.rule import RuleOut
from tickstone.core.stones.calibrated import Due
from tickstone.core.stones.stone import StoneState


class DueOut(Answer):
    """A kind of calibration of a sensor: made, left to make, or old."""

    kind: str
    label: str
    state: StoneState
    short: str
    says: str

    @classmethod
    def of(cls, due: Due) -> DueOut:
        return cls(
            kind=due.kind.name,
            label=due.kind.label,
            state=due.state,
            short=due.short,
            says=due.says,
        )


class RunFigureOut(Answer):
    """A figure of a run as told beforehand and as it was; null where nothing told it."""

    label: str
    quantity: QuantityOut
    predicted: float | None
    measured: float | None
    allowed: float | None
    at_s: float
    is_off: bool


class RunJudgedOut(Answer):
    """A run against what was told. says: why there are no figures. off: what is off, or nothing."""

    figures: list[RunFigureOut]
    says: str
    off: str


class SensorOut(SensorRow):
    """Everything about one sensor. bench: none when its family has no chain. tells_air: whether it
    is the rig's word on the air. schedule: of its calibrations.
    """

    rig_id: int
    rig_name: str
    rig_air: Air
    asks_of_a_drive: str
    tells_air: bool
    bench: BenchOut | None
    parameters: Values
    recordings: list[RecordingOut]
    calibrations: list[CalibrationOut]
    schedule: list[DueOut]
    rules: list[RuleOut]
    sign_offs: list[SignOffOut]
    findings: list[FindingOut]
