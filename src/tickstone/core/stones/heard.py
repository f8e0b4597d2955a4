"""Heard: there is a recording good enough to work with."""

from __future__ import annotations

from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, absent, day

FEWEST_SAMPLES_HEARD = 20
SMALLEST_GOOD_SHARE = 0.8


def heard_stone(facts: SensorFacts) -> Stone:
    """Ticked when a recording since the last wiring holds enough good readings, and the board does
    not run a program for another wiring.
    """
    stage = WorkStage.HEARD
    if facts.kind is None:
        return absent(stage, facts.family)
    recording = facts.recording
    if recording is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No recording has been brought in.")
    if recording.samples < FEWEST_SAMPLES_HEARD:
        return Stone(
            stage,
            StoneState.FAILING,
            f"{recording.samples} readings",
            f"“{recording.name}” holds {recording.samples} readings; "
            f"{FEWEST_SAMPLES_HEARD} are the least to go by.",
        )
    if recording.good < SMALLEST_GOOD_SHARE * recording.samples:
        short, said = facts.kind.flagged_said(recording.flagged, recording.samples)
        return Stone(
            stage,
            StoneState.FAILING,
            short,
            f"{said.format(name=f'“{recording.name}”')}; "
            f"more than {100 * (1 - SMALLEST_GOOD_SHARE):.0f} % is too many to work with.",
        )
    if facts.wired is not None and facts.wired.at > recording.at:
        return Stone(
            stage,
            StoneState.STALE,
            "re-wired",
            f"The wiring was looked over on {day(facts.wired.at)}, after the last recording "
            f"({day(recording.at)}).",
        )
    if facts.board_lags:
        return Stone(stage, StoneState.STALE, "older program", facts.board_lags)
    return Stone(
        stage,
        StoneState.TICKED,
        f"{recording.rate_hz:.1f} /s",
        f"“{recording.name}”: {recording.samples} readings, {recording.rate_hz:.1f} a second, "
        f"{100.0 * recording.good / recording.samples:.0f} % good.",
    )
