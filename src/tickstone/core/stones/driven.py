"""Driven: a drive went as expected, with what is set now."""

from __future__ import annotations

from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, day


def driven_stone(facts: SensorFacts, tuned: Stone) -> Stone:
    """Ticked when a drive went as expected and nothing it rests on has changed since."""
    stage = WorkStage.DRIVEN
    if not facts.family.is_driven:
        return Stone(
            stage,
            StoneState.ABSENT,
            "not driven",
            f"No drive tries out the {facts.family.label} by itself.",
        )
    if facts.driven is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No drive has been noted.")
    if not facts.driven.is_right:
        why = facts.driven.note or "it did not go as expected"
        return Stone(stage, StoneState.FAILING, "went wrong", f"The last drive failed: {why}.")
    newer = any(one.at > facts.driven.at for one in facts.rules)
    if newer or tuned.state in (StoneState.STALE, StoneState.FAILING):
        return Stone(
            stage,
            StoneState.STALE,
            "follows",
            f"What it was driven with on {day(facts.driven.at)} has changed since.",
        )
    run = facts.driven.grounds.get("run", "")
    if facts.driven.grounds.get("off"):
        return Stone(stage, StoneState.STALE, "not as told", f"{facts.driven.grounds['off']}")
    said = f"Went well on {day(facts.driven.at)}{f', by {run}' if run else ''}."
    return Stone(stage, StoneState.TICKED, day(facts.driven.at), said)
