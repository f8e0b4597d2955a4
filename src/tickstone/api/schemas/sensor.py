"""A sensor in hand: its bench, settings, recordings, calibrations and rules."""

from __future__ import annotations

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.bench import BenchOut, Values
from tickstone.api.schemas.calibration import CalibrationOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.recording import RecordingOut
from tickstone.api.schemas.rig import SensorRow, SignOffOut
from tickstone.api.schemas.rule import RuleOut


class SensorOut(SensorRow):
    """Everything about one sensor. bench: none when its family has no chain."""

    rig_id: int
    rig_name: str
    rig_air: Air
    asks_of_a_drive: str
    bench: BenchOut | None
    parameters: Values
    recordings: list[RecordingOut]
    calibrations: list[CalibrationOut]
    rules: list[RuleOut]
    sign_offs: list[SignOffOut]
    findings: list[FindingOut]
