"""Tuned: what is decided covers what it has to, and rests on the calibrations in use, the delays
and the geometry that it was set with.
"""

from __future__ import annotations

from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, absent


def tuned_stone(facts: SensorFacts, calibrated: Stone) -> Stone:
    """Ticked while every rule rests on the calibrations in use and covers what it was set from."""
    stage = WorkStage.TUNED
    if facts.kind is None or not facts.kind.rules:
        return absent(stage, facts.family)
    order = [one.name for one in facts.kind.rules]
    rules = sorted(facts.rules, key=lambda one: order.index(one.kind.name))
    if not rules:
        return Stone(stage, StoneState.HOLLOW, "not yet", facts.kind.rules[0].unset)
    for rule in rules:
        failing = rule.kind.failing(rule.parameters, rule.needed)
        if failing is not None:
            return Stone(stage, StoneState.FAILING, *failing)
    for rule in rules:
        if rule.outgrown is not None:
            return Stone(stage, StoneState.STALE, *rule.outgrown)
    for rule in rules:
        if rule.moved is not None:
            return Stone(stage, StoneState.STALE, *rule.moved)
    if any(one.calibration_identity != facts.calibration_identity for one in rules):
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
        rules[0].kind.short(rules[0].parameters),
        " ".join(one.kind.sentence(one.parameters, one.needed) for one in rules),
    )
