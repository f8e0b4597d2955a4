"""Wired: somebody has looked the wiring over."""

from __future__ import annotations

from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, day


def wired_stone(facts: SensorFacts) -> Stone:
    """Ticked when somebody has looked at the wiring and said that it is right."""
    stage = WorkStage.WIRED
    if facts.wired is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "Nobody has noted the wiring as right.")
    if not facts.wired.is_right:
        why = facts.wired.note or "it was noted as wrong"
        return Stone(stage, StoneState.FAILING, "wrong", f"The wiring is not right: {why}.")
    return Stone(
        stage,
        StoneState.TICKED,
        day(facts.wired.at),
        f"Looked over and noted as right on {day(facts.wired.at)}.",
    )
