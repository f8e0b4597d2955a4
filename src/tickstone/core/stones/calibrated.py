"""Calibrated: readings were held against something known, and the grounds of that still hold."""

from __future__ import annotations

from datetime import timedelta

from tickstone.core.stones.facts import CalibrationFacts, SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, absent, day


def calibrated_stone(facts: SensorFacts) -> Stone:
    """Ticked while surroundings, chain and calendar are what every calibration in use rests on."""
    stage = WorkStage.CALIBRATED
    if facts.kind is None or not facts.kind.calibrations:
        return absent(stage, facts.family)
    in_use = {one.kind.name: one for one in facts.calibrations}
    for kind in facts.kind.calibrations:
        if kind.is_needed and kind.name not in in_use:
            return Stone(stage, StoneState.HOLLOW, "not yet", kind.unset)
    if not in_use:
        return Stone(stage, StoneState.HOLLOW, "not yet", facts.kind.calibrations[0].unset)
    for one in in_use.values():
        if one.errors:
            return Stone(stage, StoneState.FAILING, "marks at odds", " ".join(one.errors))
    for one in in_use.values():
        stale = _why_stale(facts, one)
        if stale is not None:
            return Stone(stage, StoneState.STALE, *stale)
    first = next(iter(in_use.values()))
    return Stone(stage, StoneState.TICKED, first.kind.short(first.fit), " ".join(_told(facts)))


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
