"""Rules over a rig: checked, replayed on recordings, run on the line, kept."""

from __future__ import annotations

from typing import Any

import numpy as np
from fastapi import APIRouter
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.api.desk import DeskDep, RigDep, RowId, SessionDep, find
from tickstone.api.machines_out import (
    causes_out,
    confusion_out,
    not_run,
    sight_out,
    stay_out,
    trace_out,
    visits_out,
)
from tickstone.api.problems import ProblemError, does_not_fit, not_found
from tickstone.api.schemas.bench import OutputOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.machines import (
    CheckedOut,
    Document,
    EnteredOut,
    KeepRulesIn,
    KeptOut,
    LiveRulesOut,
    OfferedOut,
    ReplayOut,
    ReplayRulesIn,
    RulesBenchOut,
    RulesIn,
    SawIn,
    SawOut,
    StartingPointOut,
    TakeOfferedOut,
    TraceOut,
    TransitionOut,
    TruthOut,
    VersionOut,
    VisitsOut,
    WordOut,
)
from tickstone.core.machines.checking import blind_distance_m, check_machine
from tickstone.core.machines.document import MachineError
from tickstone.core.machines.machine import (
    BLIND_WORDS,
    HOLD,
    LAST,
    Machine,
)
from tickstone.core.machines.measures import confusion, stays
from tickstone.core.machines.running import Runner, Visits, cause_said
from tickstone.core.machines.starting import STARTING_POINTS
from tickstone.core.machines.together import WAYS
from tickstone.core.status import Status
from tickstone.store.models import Decision, Rig, Take
from tickstone.work.deciding.grounds import cracks_in
from tickstone.work.deciding.keeping import RULES, in_use_of, keep, kept_of, use
from tickstone.work.deciding.offered import Offered, fed, machine_of, offered_by, sensors_of
from tickstone.work.deciding.replaying import (
    Heard,
    UnheardError,
    decided_by,
    heard_in,
    seen_at,
    truths_in,
)
from tickstone.work.live.machines import LiveMachine, LiveVisit

router = APIRouter(prefix="/api", tags=["rules over a rig"])

_ENTERED = 5
CAUTION = (
    "Wheels off the floor for the first run, a stop within reach, people out of the way. "
    "Tick Stone is not a safety device."
)


def kept_out(session: Session, rig: Rig, row: Decision, in_use: dict[str, Decision]) -> KeptOut:
    """A decision as kept, and what of its grounds has changed."""
    used = in_use.get(row.slot)
    is_in_use = used is not None and used.id == row.id
    return KeptOut(
        id=row.id,
        slot=row.slot,
        name=row.name,
        note=row.note,
        made_at=row.made_at,
        is_in_use=is_in_use,
        cracks=cracks_in(session, rig, row) if is_in_use else [],
        document=row.document,
    )


def takes_offered(session: Session, rig: Rig) -> list[TakeOfferedOut]:
    """The recordings of a rig, the newest first."""
    rows = session.scalars(
        select(Take)
        .where(Take.rig_id == rig.id, Take.deleted_at.is_(None), Take.state != "open")
        .order_by(Take.recorded_at.desc(), Take.id.desc())
        .limit(200)
    )
    return [
        TakeOfferedOut(
            id=one.id,
            name=one.name,
            recorded_at=one.recorded_at,
            duration_s=one.duration_s,
            samples=one.samples,
            sensors=[r.sensor_id for r in one.recordings if r.deleted_at is None],
        )
        for one in rows
    ]


@router.get("/rigs/{rig_id}/rules")
def rules_bench(rig: RigDep, session: SessionDep) -> RulesBenchOut:
    """What rules may look at here, rules to begin with, those kept, and recordings to try them."""
    offered = offered_by(session, rig)
    in_use = in_use_of(session, rig)
    return RulesBenchOut(
        offered=[
            OfferedOut(
                sensor_id=one.sensor.id,
                sensor=one.sensor.name,
                kind=one.kind.name,
                output=OutputOut.of(one.output),
                is_set=one.is_set,
            )
            for one in offered
        ],
        starting_points=[_starting_out(name, offered) for name in STARTING_POINTS],
        kept=[kept_out(session, rig, row, in_use) for row in kept_of(session, rig, RULES)],
        takes=takes_offered(session, rig),
        blind_words=[WordOut(name=name, label=label) for name, label in BLIND_WORDS.items()],
        together_words=[WordOut(name=name, label=label) for name, label in WAYS.items()],
        statuses=[WordOut(name=one.code, label=one.meaning) for one in Status],
        caution=CAUTION,
    )


def _starting_out(name: str, offered: list[Offered]) -> StartingPointOut:
    point = STARTING_POINTS[name]
    rules = fed(point, offered)
    missing = [
        need.label
        for need, one in zip(point.needs, rules["inputs"], strict=True)
        if not one.get("sensor")
    ]
    return StartingPointOut(
        name=point.name, label=point.label, what=point.what, rules=rules, missing=missing
    )


def _machine(document: Document, offered: list[Offered], field: str = "rules") -> Machine:
    try:
        return machine_of(document, offered)
    except MachineError as error:
        raise does_not_fit(str(error), f"{field}.{error.where}") from error
    except (AttributeError, KeyError, TypeError) as error:
        raise does_not_fit("the rules are not put together as rules are", field) from error


@router.post("/rigs/{rig_id}/rules/check")
def check_rules(rig: RigDep, body: RulesIn, session: SessionDep) -> CheckedOut:
    """What is amiss with rules before they run. Saves nothing."""
    machine = _machine(body.rules, offered_by(session, rig))
    blind = machine.when_blind
    ends = blind.how in (HOLD, LAST) and blind.hold_s is not None and blind.go_to
    return CheckedOut(
        states=[one.name for one in machine.states],
        transitions=[
            TransitionOut(
                leaves=one.leaves, to=one.to, said=condition.said, inputs=sorted(condition.inputs)
            )
            for one, condition in zip(machine.transitions, machine.conditions, strict=True)
        ],
        from_blind=[
            one.name
            for one in machine.states
            if ends and one.name != blind.go_to and machine.watched(one.name)
        ],
        findings=[FindingOut.of(one) for one in check_machine(machine)],
        blind_distance_m=blind_distance_m(machine),
    )


def _take(session: Session, rig: Rig, take_id: int) -> Take:
    take = find(session, Take, take_id)
    if take.rig_id != rig.id:
        raise not_found("recording of this rig")
    return take


@router.post("/rigs/{rig_id}/rules/replay")
def replay_rules(rig: RigDep, body: ReplayRulesIn, session: SessionDep, desk: DeskDep) -> ReplayOut:
    """Versions of rules over a recording, side by side. Saves nothing."""
    take = _take(session, rig, body.take_id)
    offered = offered_by(session, rig)
    from_s = body.from_s or 0.0
    to_s = take.duration_s if body.to_s is None else body.to_s
    if not to_s > from_s:
        raise does_not_fit("the window ends before it begins", "to_s")
    versions: list[VersionOut] = []
    traces: dict[tuple[str, str], TraceOut] = {}
    truths: dict[tuple[str, float], TruthOut] = {}
    for document in body.versions:
        name = str(document.get("name", ""))[:120]
        try:
            machine = machine_of(document, offered)
            heard = heard_in(session, desk.cache, take, machine)
        except MachineError as error:
            versions.append(not_run(name, str(error), error.where))
            continue
        except UnheardError as error:
            versions.append(not_run(name, str(error), unheard=error.names))
            continue
        except (AttributeError, KeyError, TypeError):
            versions.append(not_run(name, "the rules are not put together as rules are"))
            continue
        known = truths_in(session, take, machine)
        truths |= {(t.state, t.from_s): TruthOut.model_validate(t) for t in known}
        versions.append(_version(heard, body, from_s, to_s, known))
        for trace in _traces(heard, offered, from_s, to_s):
            key = (trace.label, trace.output.name)
            cuts = sorted({*trace.cuts, *(traces[key].cuts if key in traces else ())})
            traces[key] = trace.model_copy(update={"cuts": cuts})
    session.commit()  # overviews of long recordings
    return ReplayOut(
        take_id=take.id,
        duration_s=take.duration_s,
        from_s=from_s,
        to_s=to_s,
        versions=versions,
        traces=list(traces.values()),
        truths=sorted(truths.values(), key=lambda one: one.from_s),
    )


def _version(
    heard: Heard, body: ReplayRulesIn, from_s: float, to_s: float, truths: list[Any]
) -> VersionOut:
    machine, visits = heard.machine, heard.visits()
    return VersionOut(
        name=machine.name,
        error="",
        where="",
        unheard=[],
        states=[one.name for one in machine.states],
        alarms=[one.name for one in machine.states if one.is_alarm],
        causes=causes_out(machine),
        visits=visits_out(machine, visits, from_s, to_s),
        transitions=len(visits) - 1,
        stays=[stay_out(one) for one in stays(machine, visits, body.restless_s)],
        confusion=(
            confusion_out(confusion(machine, visits, truths, heard.sample_s)) if truths else None
        ),
    )


def _traces(heard: Heard, offered: list[Offered], from_s: float, to_s: float) -> list[TraceOut]:
    by_place = {(str(one.sensor.id), one.output.name): one for one in offered}
    cuts = Runner(heard.machine).cuts
    return [
        trace_out(
            one,
            heard.signals[one.name],
            by_place[one.sensor, one.output].sensor.name,
            by_place[one.sensor, one.output].output,
            [] if one.states else cuts[one.name].tolist(),
            from_s,
            to_s,
        )
        for one in heard.machine.inputs
        if not one.together
    ]


@router.post("/rigs/{rig_id}/rules/saw")
def what_rules_saw(rig: RigDep, body: SawIn, session: SessionDep, desk: DeskDep) -> SawOut:
    """What every input said at a time, which state the rules were in, and why. Saves nothing."""
    take = _take(session, rig, body.take_id)
    machine = _machine(body.rules, offered_by(session, rig))
    try:
        heard = heard_in(session, desk.cache, take, machine)
        visits = heard.visits()
        place = visits.at(min(max(body.at_s, float(visits.from_s[0])), float(visits.to_s[-1])))
    except ValueError as error:
        raise does_not_fit(str(error), "take_id") from error
    sights = seen_at(heard, body.at_s)
    session.commit()
    return SawOut(
        at_s=body.at_s,
        state=machine.states[int(visits.state[place])].name,
        since_s=float(visits.from_s[place]),
        until_s=float(visits.to_s[place]),
        why=cause_said(machine, int(visits.cause[place])),
        by=decided_by(heard, int(visits.cause[place]), float(visits.from_s[place])),
        sights=[sight_out(one, machine) for one in sights],
    )


@router.post("/rigs/{rig_id}/rules/live")
def rules_on_the_line(
    rig: RigDep, body: RulesIn, session: SessionDep, desk: DeskDep
) -> LiveRulesOut:
    """What rules make of the open line since they were first asked about. Saves nothing."""
    machine = _machine(body.rules, offered_by(session, rig))
    line = desk.lines.line(rig.id)
    nothing = VisitsOut(from_s=[], to_s=[], state=[], why=[], many=[])
    is_open = line is not None and line.state != "ended"
    if line is None or line.ring is None or not is_open:
        return LiveRulesOut(
            is_open=is_open, unheard=[], silent_s=0.0, state="", until_s=0.0, restarts=0,
            visits=nothing, states=[one.name for one in machine.states], causes=[], entered=[],
            sights=[],
        )  # fmt: skip
    by_id = {one.sensor_id: one for one in desk.lines.sensors(session, line).values()}
    sensors = {
        one.name: by_id[int(one.sensor)]
        for one in machine.inputs
        if one.sensor.isdigit() and int(one.sensor) in by_id
    }
    live = desk.lines.machine(line, machine, sensors)
    entered = [
        EnteredOut(
            at_s=one.from_s,
            state=machine.states[one.state].name,
            why=cause_said(machine, one.cause),
            by=list(one.by),
        )
        for one in list(live.visits)[: -_ENTERED - 1 : -1]
    ]
    return LiveRulesOut(
        is_open=True,
        unheard=list(live.unheard),
        silent_s=line.silent_s,
        state=entered[0].state if entered else "",
        until_s=live.until_s,
        restarts=live.restarts,
        visits=_live_visits(machine, live),
        states=[one.name for one in machine.states],
        causes=causes_out(machine),
        entered=entered,
        sights=[sight_out(one, machine) for one in live.sights()],
    )


def _live_visits(machine: Machine, live: LiveMachine) -> VisitsOut:
    """The visits of the last half minute."""
    rows: list[LiveVisit] = list(live.visits)
    if not rows:
        return VisitsOut(from_s=[], to_s=[], state=[], why=[], many=[])
    from_s = np.array([one.from_s for one in rows])
    visits = Visits(
        from_s,
        np.append(from_s[1:], live.until_s),
        np.array([one.state for one in rows]),
        np.array([one.cause for one in rows]),
    )
    return visits_out(machine, visits, max(live.until_s - 30.0, 0.0), live.until_s)


@router.post("/rigs/{rig_id}/rules", status_code=201)
def keep_rules(rig: RigDep, body: KeepRulesIn, session: SessionDep) -> KeptOut:
    """Go by these rules from now on. Earlier ones are kept, and can be gone back to."""
    offered = offered_by(session, rig)
    machine = _machine(body.rules, offered)
    row = keep(
        session, rig, RULES, machine.name or "Rules", body.rules, sensors_of(machine), body.note
    )
    session.commit()
    return kept_out(session, rig, row, in_use_of(session, rig))


@router.post("/rigs/{rig_id}/decisions/{decision_id}/use")
def go_back_to(rig: RigDep, decision_id: RowId, session: SessionDep) -> KeptOut:
    """Go by an earlier decision again."""
    row = session.get(Decision, decision_id)
    if row is None or row.rig_id != rig.id:
        raise ProblemError(404, "Not here", "There is no such decision on this rig.")
    use(session, row)
    session.commit()
    return kept_out(session, rig, row, in_use_of(session, rig))
