"""Tuned: the thresholds cover the stopping distance and rest on the calibration in use."""

from __future__ import annotations

from tickstone.core.reading_units import length
from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, absent


def tuned_stone(facts: SensorFacts, calibrated: Stone) -> Stone:
    """Ticked while thresholds rest on the calibration in use and cover the stopping distance."""
    stage = WorkStage.TUNED
    if not facts.family.has_chain:
        return absent(stage, facts.family)
    threshold = facts.threshold
    if threshold is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No stop and go-again distances are set.")
    if threshold.needed_m is not None and threshold.stop_m < threshold.needed_m:
        return Stone(
            stage,
            StoneState.FAILING,
            "too short",
            f"It stops below {length(threshold.stop_m, 2)}, but stopping takes "
            f"{length(threshold.needed_m, 2)}.",
        )
    identity = facts.calibration.identity if facts.calibration else None
    if threshold.calibration_identity != identity:
        return Stone(
            stage,
            StoneState.STALE,
            "other calibration",
            "The thresholds were set on another calibration than the one in use.",
        )
    if calibrated.state in (StoneState.STALE, StoneState.FAILING):
        return Stone(
            stage, StoneState.STALE, "follows", "They rest on a calibration that wants a look."
        )
    stop, go = length(threshold.stop_m, 2), length(threshold.go_m, 2)
    needed = threshold.needed_m
    return Stone(
        stage,
        StoneState.TICKED,
        f"stop {stop}",
        f"Stops below {stop}, goes again above {go}"
        + ("." if needed is None else f"; stopping takes {length(needed, 2)}."),
    )
