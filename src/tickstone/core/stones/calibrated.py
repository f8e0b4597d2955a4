"""Calibrated: readings were held against something known, and the grounds of that still hold."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.stones.facts import CalibrationFacts, SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, absent, day


def calibrated_stone(facts: SensorFacts) -> Stone:
    """Ticked while surroundings, chain and calendar are what every calibration in use rests on."""
    stage = WorkStage.CALIBRATED
    if facts.kind is None or not facts.kind.calibrations:
        return absent(stage, facts.family)
    due = schedule(facts)
    missing = [one for one in due if one.state is StoneState.HOLLOW]
    needed = next((one for one in missing if one.kind.is_needed), None)
    if needed is not None or len(missing) == len(due):
        return Stone(stage, StoneState.HOLLOW, "not yet", (needed or missing[0]).says)
    for state in (StoneState.FAILING, StoneState.STALE):
        for one in due:
            if one.state is state:
                return Stone(stage, state, one.short, one.says)
    first = facts.calibrations[0]
    return Stone(stage, StoneState.TICKED, first.kind.short(first.fit), " ".join(_told(facts)))


@dataclass(frozen=True, slots=True)
class Due:
    """One kind of calibration of a sensor: whether it is there, holds, or wants to be made."""

    kind: CalibrationKind
    state: StoneState
    short: str
    says: str


def schedule(facts: SensorFacts) -> list[Due]:
    """What is made, what is left and what is old, in the order it is made in."""
    if facts.kind is None:
        return []
    in_use = {one.kind.name: one for one in facts.calibrations}
    due = []
    for kind in facts.kind.calibrations:
        one = in_use.get(kind.name)
        if one is None:
            short = "not yet" if kind.is_needed else "if you like"
            due.append(Due(kind, StoneState.HOLLOW, short, kind.unset))
        elif one.errors:
            due.append(Due(kind, StoneState.FAILING, "marks at odds", " ".join(one.errors)))
        elif (stale := _why_stale(facts, one)) is not None:
            due.append(Due(kind, StoneState.STALE, *stale))
        else:
            said = facts.kind.calibration_said(kind, one.fit, day(one.at), one.surroundings)
            due.append(Due(kind, StoneState.TICKED, kind.short(one.fit), said))
    return due


def _told(facts: SensorFacts) -> list[str]:
    assert facts.kind is not None
    return [
        facts.kind.calibration_said(one.kind, one.fit, day(one.at), one.surroundings)
        for one in facts.calibrations
    ]


def _why_stale(facts: SensorFacts, calibration: CalibrationFacts) -> tuple[str, str] | None:
    assert facts.kind is not None
    if calibration.undone_by:
        return calibration.undone_by, (
            f"Since the {calibration.kind.label.lower()} of {day(calibration.at)}: "
            f"{calibration.undone_by}. It has to be made anew."
        )
    grounds = facts.kind.grounds(facts.parameters)
    changed = [name for name, was in calibration.grounds.items() if grounds.get(name, was) != was]
    if changed:
        return (
            f"{changed[0]} changed",
            f"It was fitted with another {' and '.join(changed)} than the chain has now.",
        )
    if facts.wired is not None and facts.wired.at > calibration.at:
        return "re-wired", f"The wiring was looked over since, on {day(facts.wired.at)}."
    if calibration.outgrown is not None:
        return calibration.outgrown
    elsewhere = facts.kind.changed(calibration.surroundings, facts.surroundings, facts.parameters)
    if elsewhere is not None:
        return elsewhere
    interval = timedelta(days=calibration.kind.interval_days)
    if facts.now - calibration.at > interval:
        days = (facts.now - calibration.at).days
        return f"{days} days old", (
            f"It was made {days} days ago; after {interval.days} it wants another look."
        )
    return None
