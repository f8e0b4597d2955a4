"""The tables. SI units and raw integers, units in the names.

Rows that a person can delete carry `deleted_at` and come back by clearing it. Tables name one
another, so that whoever takes one has them all.
"""

from tickstone.store.models.base import Base, Deletable, utc_now
from tickstone.store.models.calibrations import Calibration, CalibrationInUse, Study
from tickstone.store.models.decisions import Decision, DecisionInUse, Rule
from tickstone.store.models.families import OwnFamily
from tickstone.store.models.programs import BoardRuns, Program
from tickstone.store.models.rigs import Rig, Sensor, SignOff, Wire, WiringTick
from tickstone.store.models.takes import (
    BadLineChunk,
    Mark,
    Recording,
    RecordingInput,
    ResultOverview,
    Take,
    TakeChunk,
    TakeColumn,
)

__all__ = [
    "BadLineChunk",
    "Base",
    "BoardRuns",
    "Calibration",
    "CalibrationInUse",
    "Decision",
    "DecisionInUse",
    "Deletable",
    "Mark",
    "OwnFamily",
    "Program",
    "Recording",
    "RecordingInput",
    "ResultOverview",
    "Rig",
    "Rule",
    "Sensor",
    "SignOff",
    "Study",
    "Take",
    "TakeChunk",
    "TakeColumn",
    "Wire",
    "WiringTick",
    "utc_now",
]
