"""What a rig decides by, for its board: the rules and controllers in use, behind their sensors."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Rig as LoopRig
from tickstone.core.control.routine import controller_routine
from tickstone.core.emit.code import CannotEmitError
from tickstone.core.emit.deciding import Deciding, FromSum
from tickstone.core.emit.summing import Summing
from tickstone.core.listening.names import identifier
from tickstone.core.listening.plan import LeftOut
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.routine import machine_routine
from tickstone.store.models import Decision, Rig
from tickstone.work.deciding.keeping import RULES, TUNING, in_use_of
from tickstone.work.deciding.offered import machine_of, offered_by, own_inputs

_PACE_BEARS = 0.1
"""A controller may be stepped so much faster or slower than it was tuned at before it is said."""
_NEXT_BEST = "What its sensors tell is printed, and decided here on the line."


@dataclass(frozen=True, slots=True)
class Asked:
    """What is in use on a rig. machine: of the rules, where there are any. asks: outputs by the
    number of the sensor that has to tell them.
    """

    rows: tuple[Decision, ...]
    machine: Machine | None
    asks: Mapping[int, frozenset[str]]


@dataclass(frozen=True, slots=True)
class Decided:
    """Decisions for a board, what was left out of them, what to know, and what they rest on."""

    decidings: tuple[Deciding, ...]
    left_out: tuple[LeftOut, ...]
    notes: tuple[str, ...]
    basis: dict[str, Any]


def decisions_of(session: Session, rig: Rig) -> list[Decision]:
    """The rules and the controllers in use, the rules first."""
    in_use = in_use_of(session, rig)
    tunings = [row for slot, row in sorted(in_use.items()) if slot.startswith(TUNING)]
    return [*([in_use[RULES]] if RULES in in_use else []), *tunings]


def asked_of(session: Session, rig: Rig) -> Asked:
    """What is in use. Raises ValueError when the rules no longer fit the rig."""
    rows = decisions_of(session, rig)
    rules = next((row for row in rows if row.slot == RULES), None)
    machine = machine_of(rules.document, offered_by(session, rig)) if rules is not None else None
    asks: dict[int, set[str]] = {}
    for one in own_inputs(machine) if machine is not None else ():
        if one.sensor.isdigit():
            asks.setdefault(int(one.sensor), set()).add(one.output)
    return Asked(tuple(rows), machine, {key: frozenset(one) for key, one in asks.items()})


def decide(
    asked: Asked, summings: Sequence[Summing], left_out: Sequence[LeftOut], period_us: int
) -> Decided:
    """The decisions in use as code behind these chains."""
    decidings, missing, notes = [], [], []
    taken: set[str] = {one.routine.name for one in summings}
    for row in asked.rows:
        try:
            if row.slot == RULES:
                assert asked.machine is not None
                one = _rules(
                    row, asked.machine, summings, left_out, _free("rules", taken), period_us
                )
            else:
                name = _free(identifier(row.slot.removeprefix(TUNING)) or "loop", taken)
                one = _controller(row, summings, left_out, name, period_us)
                notes += _pace_notes(row, period_us)
        except CannotEmitError as error:
            missing.append(LeftOut("", f"“{row.name}”", str(error), _NEXT_BEST))
            continue
        taken.add(one.routine.name)
        decidings.append(one)
    slots = {one.slot for one in decidings}
    return Decided(
        tuple(decidings),
        tuple(missing),
        tuple(notes),
        {row.slot: decision_grounds(row) | {"is_in": row.slot in slots} for row in asked.rows},
    )


def decision_grounds(row: Decision) -> dict[str, Any]:
    """What tells a decision from another, and the sensors it looks at."""
    return {
        "id": row.id,
        "name": row.name,
        "made_at": row.made_at.isoformat(),
        "sensors": [int(one) for one in row.basis.get("sensors", {})],
    }


def _free(name: str, taken: set[str]) -> str:
    while name in taken:
        name += "_too"
    return name


def _rules(
    row: Decision, machine: Machine, summings: Sequence[Summing], left_out: Sequence[LeftOut],
    name: str, period_us: int,
) -> Deciding:  # fmt: skip
    routine = machine_routine(machine, name, period_us)
    fed = tuple(
        _told_by(int(one.sensor) if one.sensor.isdigit() else 0, one.output, one.name, summings,
                 left_out)
        for one in own_inputs(machine)
    )  # fmt: skip
    return Deciding(row.slot, row.name, routine.said_further(_made(row)), fed, machine)


def _told_by(
    sensor_id: int, output: str, whose: str, summings: Sequence[Summing],
    left_out: Sequence[LeftOut],
) -> FromSum:  # fmt: skip
    """What feeds an input. output: empty for the headline. Raises CannotEmitError."""
    for one in summings:
        if one.device != str(sensor_id):
            continue
        for told in one.routine.told:
            if told.name == output or (not output and len(told.values) == 1):
                return FromSum(one.routine.name, told.values[0], told.statuses[0])
    why = next((one.why for one in left_out if one.device == str(sensor_id)), "")
    label = next((one.label for one in left_out if one.device == str(sensor_id)), "its sensor")
    raise CannotEmitError(
        f"{whose} looks at {label}, which the program does not convert"
        + (f": {why}" if why else "")
    )


def _controller(
    row: Decision, summings: Sequence[Summing], left_out: Sequence[LeftOut], name: str,
    period_us: int,
) -> Deciding:  # fmt: skip
    sensors = list(row.basis.get("sensors", {}))
    if len(sensors) != 1:
        raise CannotEmitError(
            "it was kept without saying which one sensor it steers by; keep it again with one"
        )
    try:
        controller = Controller(**row.document["settings"])
        rig = LoopRig(**row.document.get("rig_inputs", {}))
    except (KeyError, TypeError, ValueError) as error:
        raise CannotEmitError(f"its settings cannot be read as they were kept: {error}") from error
    routine = controller_routine(controller, name, period_us * 1e-6)
    measured = _told_by(int(sensors[0]), "", "it", summings, left_out)
    fed = (measured, float(rig.target))
    return Deciding(row.slot, row.name, routine.said_further(_made(row)), fed)


def _made(row: Decision) -> str:
    return f"kept {row.made_at:%-d %b %Y}"


def _pace_notes(row: Decision, period_us: int) -> list[str]:
    tuned_s = LoopRig(**row.document.get("rig_inputs", {})).sample_s
    if abs(period_us * 1e-6 - tuned_s) <= _PACE_BEARS * tuned_s:
        return []
    return [
        f"“{row.name}” was tuned for a reading every {1e3 * tuned_s:.0f} ms; here one comes every "
        f"{period_us * 1e-3:.0f} ms. Try it on its bench at that pace before it steers."
    ]
