"""A stone: a stage of the work, where it stands, and why."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from tickstone.core.families.device_family import DeviceFamily


class WorkStage(StrEnum):
    """The five stages of the work, in their order."""

    WIRED = "wired"
    HEARD = "heard"
    CALIBRATED = "calibrated"
    TUNED = "tuned"
    DRIVEN = "driven"


class StoneState(StrEnum):
    """Where a stage of the work stands for one sensor. ABSENT: the family has no such stage."""

    HOLLOW = "hollow"
    TICKED = "ticked"
    STALE = "stale"
    FAILING = "failing"
    ABSENT = "absent"


@dataclass(frozen=True, slots=True)
class Stone:
    """One cell of the table. short: a few words for the cell. reason: one sentence."""

    stage: WorkStage
    state: StoneState
    short: str
    reason: str


_MEANWHILE = {
    WorkStage.HEARD: "listen under Line",
    WorkStage.CALIBRATED: "mark in recordings",
    WorkStage.TUNED: "choose by eye",
}


def absent(stage: WorkStage, family: DeviceFamily) -> Stone:
    """A stone this family of sensors has no bench for, and what to do until it has."""
    meanwhile = _MEANWHILE[stage]
    return Stone(
        stage,
        StoneState.ABSENT,
        meanwhile,
        f"Tick Stone has no bench for the {family.label} here yet; {meanwhile}.",
    )


def day(at: datetime) -> str:
    """A day as it stands in a cell, such as ``3 Nov``."""
    return f"{at.day} {at:%b}"
