"""Tuned: the thresholds cover the stopping distance and rest on the calibration in use."""

from __future__ import annotations

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
            f"It stops below {threshold.stop_m:.2f} m, but stopping takes "
            f"{threshold.needed_m:.2f} m.",
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
    return Stone(
        stage,
        StoneState.TICKED,
        f"stop {threshold.stop_m:.2f} m",
        f"Stops below {threshold.stop_m:.2f} m, goes again above {threshold.go_m:.2f} m"
        + ("." if threshold.needed_m is None else f"; stopping takes {threshold.needed_m:.2f} m."),
    )
