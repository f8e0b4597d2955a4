"""A run of a rig against what was told of it beforehand."""

from __future__ import annotations

import math
from dataclasses import dataclass

from sqlalchemy.orm import Session

from tickstone.core.inputs import with_inputs
from tickstone.core.rules.kind import RunFigure
from tickstone.store.models import Recording, Sensor
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.look import results_of, u_at
from tickstone.work.sensing import (
    kind_of,
    rule_kind,
    rules_in_use,
    sensing_of,
    surroundings_of_take,
)


@dataclass(frozen=True, slots=True)
class RunJudged:
    """figures: of every rule that tells any. says: where there are none, why."""

    figures: tuple[RunFigure, ...]
    says: str

    @property
    def off(self) -> str:
        """What is off, a sentence; nothing while all is as it was told."""
        for one in self.figures:
            if one.is_off:
                told, was = one.quantity.said(one.predicted), one.quantity.said(one.measured)
                return f"In its run it {one.label} {was}; {told} was told."
        return ""


def judge_run(session: Session, cache: Cache, sensor: Sensor, recording: Recording) -> RunJudged:
    """A recording of a sensor as a run, by the rules that are set now."""
    kind = kind_of(sensor, catalogue_of(session))
    if kind is None:
        return RunJudged((), "Nothing is worked out of this sensor, so nothing was told of a run.")
    rows = rules_in_use(session, sensor.id)
    if not rows:
        return RunJudged((), "Nothing is set that decides, so nothing was told of a run.")
    sensing = sensing_of(session, sensor, kind, surroundings_of_take(recording.take))
    results = results_of(session, cache, recording, sensing)
    given = dict(results.chain.outputs)
    names = {one.quantity: one.name for one in kind.outputs}
    figures: list[RunFigure] = []
    for row in rows:
        rule = rule_kind(kind, row.kind)
        decided = names.get(rule.decision, "")
        if rule.takes not in given or decided not in given:
            continue
        told = row.basis.get("evidence")
        evidence = with_inputs(rule.evidence, told) if told is not None else None
        taken = results.whole(given[rule.takes])
        good = taken.value[taken.ok]
        near = float(good.min()) if len(good) else math.nan
        u = 0.0 if taken.quantity.is_decision else u_at(sensing, near, rule.takes)
        figures += rule.judge_run(
            with_inputs(rule.parameters, row.parameters),
            evidence,
            taken,
            results.whole(given[decided]),
            u if u == u else 0.0,
        )
    if figures:
        return RunJudged(tuple(figures), "")
    return RunJudged((), "In this recording nothing happened that was told beforehand.")
