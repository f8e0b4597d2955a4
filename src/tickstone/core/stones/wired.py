"""Wired: somebody has looked the wiring over, and it is still what they looked at."""

from __future__ import annotations

from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, day


def wired_stone(facts: SensorFacts) -> Stone:
    """Ticked while the wiring is what somebody noted as right and no check says no.

    Wires that are missing count as wrong only once somebody has begun to string them.
    """
    stage = WorkStage.WIRED
    if not facts.family.is_wired:
        why = "It has no leads: it is worked out from what others say."
        return Stone(stage, StoneState.ABSENT, "nothing to wire", why)
    wiring, wired = facts.wiring, facts.wired
    if wiring is not None:
        has_begun = wiring.done > 0 or (wired is not None and bool(wired.grounds))
        against = (*wiring.errors, *(wiring.gaps if has_begun else ()))
        if against:
            short = "a check says no" if len(against) == 1 else f"{len(against)} checks say no"
            return Stone(stage, StoneState.FAILING, short, against[0])
        if wired is None and wiring.gaps:
            return Stone(stage, StoneState.HOLLOW, "to be planned", wiring.gaps[0])
        if wired is None and wiring.done:
            done, steps = wiring.done, wiring.steps
            return Stone(
                stage,
                StoneState.HOLLOW,
                f"{done} of {steps}",
                f"{done} of {steps} steps of the wiring list are done.",
            )
    if wired is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "Nobody has noted the wiring as right.")
    if not wired.is_right:
        why = wired.note or "it was noted as wrong"
        return Stone(stage, StoneState.FAILING, "wrong", f"The wiring is not right: {why}.")
    changed = _changed_leads(facts)
    if changed:
        return Stone(
            stage,
            StoneState.STALE,
            f"{changed[0]} changed",
            f"It was noted as right on {day(wired.at)}; since then {_what(facts, changed)}.",
        )
    return Stone(
        stage,
        StoneState.TICKED,
        day(wired.at),
        f"Looked over and noted as right on {day(wired.at)}.",
    )


def _changed_leads(facts: SensorFacts) -> list[str]:
    """Leads, or the board, that are not what they were; none when nothing was written down."""
    if facts.wiring is None or facts.wired is None or not facts.wired.grounds:
        return []
    was, now = facts.wired.grounds, facts.wiring.grounds
    return [name for name in {**was, **now} if was.get(name) != now.get(name)]


def _what(facts: SensorFacts, changed: list[str]) -> str:
    assert facts.wiring is not None
    assert facts.wired is not None
    name = changed[0]
    was = facts.wired.grounds.get(name, "nothing")
    now = facts.wiring.grounds.get(name, "nothing")
    more = f", and {len(changed) - 1} more" if len(changed) > 1 else ""
    return f"{name} went from {was} to {now}{more}"
