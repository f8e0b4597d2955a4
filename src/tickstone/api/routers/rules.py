"""Rules: what readings are decided by, and what speaks for it."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
from fastapi import APIRouter

from tickstone.api.desk import (
    CatalogueDep,
    Desk,
    DeskDep,
    RowId,
    SensorDep,
    SessionDep,
    chain_kind_of,
    find,
)
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.bench import LevelOut, QuantityOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.heaps import LaneThresholdOut
from tickstone.api.schemas.look import Draft
from tickstone.api.schemas.rule import (
    CurveOut,
    ElsewhereOut,
    OpenSumOut,
    PartOut,
    RuleIn,
    RuleOut,
    SuggestionIn,
    SuggestionOut,
    TableRowOut,
    TableWordOut,
)
from tickstone.api.trying import sensing_tried
from tickstone.core.chains.kind import ChainKind
from tickstone.core.display import prefixed
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.inputs import values_of, with_inputs
from tickstone.core.looking import scatter_about_drift
from tickstone.core.rules.kind import Curve, Known, RuleKind, Suggestion
from tickstone.core.timing.loop_budget import LoopBudget
from tickstone.store.models import Recording, Rule, Sensor, utc_now
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.look import results_of, u_at
from tickstone.work.sensing import (
    Sensing,
    fit_of,
    latest_recording,
    parameters_of,
    rule_kind,
)
from tickstone.work.standing import rests_on
from tickstone.work.studies import plan_of, studies_of, study_kind, taken_of
from tickstone.work.wiring import budget_of

router = APIRouter(prefix="/api", tags=["rules"])


def rule_out(row: Rule, kind: ChainKind) -> RuleOut:
    """A rule as kept."""
    rule = rule_kind(kind, row.kind)
    parameters: Any = with_inputs(rule.parameters, row.parameters)
    return RuleOut(
        id=row.id,
        kind=row.kind,
        set_at=row.set_at,
        parameters=values_of(parameters),
        evidence=row.basis.get("evidence"),
        needed=row.basis.get("needed"),
        levels=LevelOut.of(rule.lines(parameters)),
    )


def _rule_kind(sensor: Sensor, catalogue: Catalogue, name: str) -> RuleKind:
    try:
        return rule_kind(chain_kind_of(sensor, catalogue), name)
    except ValueError as error:
        raise does_not_fit(str(error), "kind") from error


def _given(kind: type, values: dict[str, Any], field: str) -> Any:
    try:
        return with_inputs(kind, values)
    except ValueError as error:
        named = str(error).partition(":")[0]
        raise does_not_fit(
            str(error), f"{field}.{named}" if ":" in str(error) else field
        ) from error


def _suggested(
    session: SessionDep,
    desk: Desk,
    catalogue: Catalogue,
    sensor: Sensor,
    body: SuggestionIn,
) -> Suggestion:
    rule = _rule_kind(sensor, catalogue, body.kind)
    evidence = _given(rule.evidence, body.evidence, "evidence")
    tried = _given(rule.parameters, body.tried, "tried") if body.tried is not None else None
    draft = body.draft.model_copy(update={"rule": None})
    sensing = sensing_tried(session, desk, catalogue, sensor, draft, None)
    recording = latest_recording(session, sensor.id)
    budget = budget_of(sensor.rig, catalogue_of(session))
    sample_s, note = _between_readings(sensor, recording, budget)
    if getattr(evidence, "loop_s", 0.0) is None:
        note += f"; one turn of the program takes {prefixed(budget.loop_s, 's')} by its time budget"

    def known_u(value: float) -> float:
        u = u_at(sensing, value, rule.takes)
        if not math.isfinite(u):
            raise does_not_fit(sensing.kind.no_number(sensing.parameters), "parameters")
        return u

    known = Known(
        sample_s=sample_s,
        filter_s=sensing.kind.filter_lag_s(sensing.parameters, sample_s),
        loop_s=budget.loop_s,
        note=note,
        u_at=known_u,
        parameters=sensing.parameters,
        fits={used.kind: fit_of(used.calibration) for used in sensor.in_use},
        raw_said=lambda value: _raw_said(sensing, value),
        lanes=_lanes_heard(recording),
        scatter=lambda: _scatter(session, desk, recording, sensing, rule),
        elsewhere=_elsewhere(session, sensor, sensing.kind),
    )
    try:
        return rule.suggest(evidence, known, tried)
    except ValueError as error:
        raise does_not_fit(str(error), "evidence") from error


def _scatter(
    session: SessionDep, desk: Desk, recording: Recording | None, sensing: Sensing, rule: RuleKind
) -> float:
    """What the output that a rule decides on scatters by in a recording, about its own drift."""
    if recording is None:
        return math.nan
    results = results_of(session, desk.cache, recording, replace(sensing, rules={}))
    if rule.takes not in dict(results.chain.outputs):
        return math.nan
    signal = results.whole(results.chain.node_of(rule.takes))
    return scatter_about_drift(signal.value[signal.ok & ~np.isnan(signal.value)])


def _elsewhere(
    session: SessionDep, sensor: Sensor, kind: ChainKind
) -> tuple[tuple[str, tuple[LaneHeaps, ...]], ...]:
    """What the sensor’s studies read of black and white, and under what."""
    found = []
    for row in studies_of(session, sensor.id):
        study = study_kind(kind, row.kind)
        taken = taken_of(row)
        found += [
            (f"{row.name}: {cell.says}", taken[cell.key].heaps)
            for cell in study.cells(plan_of(row, study))
            if cell.key in taken and cell.is_lit and all(h.dark.n for h in taken[cell.key].heaps)
        ]
    return tuple(found)


def _lanes_heard(recording: Recording | None) -> int:
    """How many channels feed the first input of a sensor, as last recorded."""
    if recording is None or not recording.inputs:
        return 0
    first = recording.inputs[0].role
    return sum(one.role == first for one in recording.inputs)


def _raw_said(sensing: Sensing, value: float) -> str:
    """The raw value at which a sensor reads a value, as the program on its board sees it."""
    raw = sensing.kind.raw_for(
        value, sensing.parameters, sensing.surroundings, sensing.calibrations
    )
    if raw is None or len(raw) != 1:
        return ""
    (signal,) = raw.values()
    quantity = signal.quantity
    number = quantity.said(float(signal.value[-1]), quantity.decimals)
    return f"raw {number}" if quantity.unit else f"raw {number} {quantity.name}"


def _between_readings(
    sensor: Sensor, recording: Recording | None, budget: LoopBudget
) -> tuple[float, str]:
    """From one reading to the next, s, and where that is from: what was recorded, else the budget.

    The budget speaks up beside a recording when it allows fewer readings than were recorded.
    """
    planned_s = max(
        (one.seconds for one in budget.periods if one.device == sensor.name),
        default=budget.loop_s,
    )
    if recording is None or recording.rate_hz <= 0.0:
        between = f"{prefixed(planned_s, 's')} between readings by its time budget"
        return planned_s, f"no recording yet: {between}"
    note = f"{recording.rate_hz:.1f} readings a second in “{recording.name}”"
    if planned_s * recording.rate_hz > 1.5:
        note += f", though its time budget gives one every {prefixed(planned_s, 's')} only"
    return 1.0 / recording.rate_hz, note


@router.post("/sensors/{sensor_id}/suggestion")
def suggest_rule(
    sensor: SensorDep,
    body: SuggestionIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> SuggestionOut:
    """What to set, from what the rig does, and why. Saves nothing."""
    found = _suggested(session, desk, catalogue, sensor, body)
    return SuggestionOut(
        parameters=dict(found.parameters),
        parts=[
            PartOut(
                label=part.label,
                value=part.value,
                quantity=QuantityOut.of(part.quantity),
                note=part.note,
                is_total=part.is_total,
            )
            for part in found.parts
        ],
        note=found.note,
        needed=found.needed,
        tried_says=found.tried_says,
        tried_fails=found.tried_fails,
        taken=dict(found.taken),
        findings=[FindingOut.of(one) for one in found.findings],
        lanes=[LaneThresholdOut.of(one) for one in found.lanes],
        elsewhere=[ElsewhereOut.model_validate(one) for one in found.elsewhere],
        table=[TableRowOut.model_validate(row) for row in found.table],
        table_words=[TableWordOut(letter=one, word=word) for one, word in found.table_words],
        sum=None if found.sum is None else OpenSumOut.model_validate(found.sum),
        curve=None if found.curve is None else _curve_out(found.curve),
    )


def _curve_out(curve: Curve) -> CurveOut:
    return CurveOut(
        x_label=curve.x_label,
        x_quantity=QuantityOut.of(curve.x_quantity),
        y_label=curve.y_label,
        y_quantity=QuantityOut.of(curve.y_quantity),
        x=list(curve.x),
        y=list(curve.y),
        at_x=curve.at[0],
        at_y=curve.at[1],
    )


@router.post("/sensors/{sensor_id}/rules", status_code=201)
def set_rule(
    sensor: SensorDep,
    body: RuleIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> RuleOut:
    """Decide by this from now on; earlier rules are kept and come back by deleting this one."""
    rule = _rule_kind(sensor, catalogue, body.kind)
    parameters = _given(rule.parameters, body.parameters, "parameters")
    try:
        rule.stage(parameters, parameters_of(sensor, chain_kind_of(sensor, catalogue)))
    except ValueError as error:
        raise does_not_fit(str(error), "parameters") from error
    needed = None
    if body.evidence is not None:
        asked = SuggestionIn(
            kind=body.kind, evidence=body.evidence, tried=body.parameters, draft=Draft()
        )
        needed = _suggested(session, desk, catalogue, sensor, asked).needed
    row = Rule(
        sensor_id=sensor.id,
        kind=body.kind,
        parameters=values_of(parameters),
        basis={
            "evidence": body.evidence,
            "needed": needed,
            "calibrations": " ".join(str(used.calibration_id) for used in sensor.in_use),
            **rests_on(sensor, chain_kind_of(sensor, catalogue), catalogue),
        },
    )
    session.add(row)
    session.commit()
    return rule_out(row, chain_kind_of(sensor, catalogue))


@router.delete("/rules/{rule_id}", status_code=204)
def delete_rule(rule_id: RowId, session: SessionDep) -> None:
    """Take a rule back; the one before it counts again."""
    find(session, Rule, rule_id).deleted_at = utc_now()
    session.commit()


@router.post("/rules/{rule_id}/restore")
def restore_rule(rule_id: RowId, session: SessionDep, catalogue: CatalogueDep) -> RuleOut:
    """Bring a rule back."""
    row = find(session, Rule, rule_id, deleted=True)
    row.deleted_at = None
    session.commit()
    return rule_out(row, chain_kind_of(session.get_one(Sensor, row.sensor_id), catalogue))
