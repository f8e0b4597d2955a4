"""What of a rig a machine may look at, and rules to begin with that already look at it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from tickstone.core.chains.kind import ChainKind, Output
from tickstone.core.machines.document import MachineError
from tickstone.core.machines.machine import Machine, MachineInput
from tickstone.core.machines.starting.point import Need, StartingPoint
from tickstone.store.models import Rig, Sensor
from tickstone.work.catalogue import catalogue_of
from tickstone.work.sensing import kind_of, rules_in_use


@dataclass(frozen=True, slots=True)
class Offered:
    """An output of a sensor. is_set: whether it can be told as the sensor is set now."""

    sensor: Sensor
    kind: ChainKind
    output: Output
    is_set: bool


def offered_by(session: Session, rig: Rig) -> list[Offered]:
    """Every output with one lane, sensor by sensor; a decision only counts once it is set."""
    catalogue = catalogue_of(session)
    found = []
    for sensor in rig.sensors:
        kind = kind_of(sensor, catalogue)
        if kind is None:
            continue
        decided = {one.decision: one.name for one in kind.rules}
        in_use = {row.kind for row in rules_in_use(session, sensor.id)}
        for output in kind.outputs:
            if len(output.quantity.lanes) != 1:
                continue
            rule = decided.get(output.quantity)
            found.append(Offered(sensor, kind, output, rule is None or rule in in_use))
    return found


def fed(point: StartingPoint, offered: Sequence[Offered]) -> dict[str, Any]:
    """The rules of a starting point with the outputs that most likely are meant."""
    taken: dict[str, dict[str, Any]] = {}
    used: set[tuple[int, str]] = set()
    for need in point.needs:
        best = _likeliest(need, offered, used)
        if best is not None:
            used.add((best.sensor.id, best.output.name))
            taken[need.name] = {"sensor": str(best.sensor.id), "output": best.output.name}
    return point.document(taken)


def _likeliest(
    need: Need, offered: Sequence[Offered], used: set[tuple[int, str]]
) -> Offered | None:
    fits = [
        one
        for one in offered
        if one.output.quantity.name == need.quantity
        and (one.sensor.id, one.output.name) not in used
    ]

    def worth(one: Offered) -> tuple[bool, bool]:
        said = f"{one.sensor.name} {one.sensor.place}".casefold()
        is_head = one.output is one.kind.outputs[0]
        return any(word in said for word in need.names), is_head or not need.names

    return max(fits, key=worth, default=None)


def filled_in(document: dict[str, Any], offered: Sequence[Offered]) -> dict[str, Any]:
    """Rules with unit and words of every input as the rig has them.

    Raises MachineError for a sensor or an output that is not on the rig.
    """
    inputs = document.get("inputs")
    if not isinstance(inputs, list):
        return document
    by_place = {(str(one.sensor.id), one.output.name): one for one in offered}
    sensors = {str(one.sensor.id): one.sensor.name for one in offered}
    found = []
    for number, one in enumerate(inputs, 1):
        if not isinstance(one, dict) or one.get("together") or not one.get("sensor"):
            found.append(one)
            continue
        where = f"inputs {number}, sensor"
        key = (str(one["sensor"]), str(one.get("output", "")))
        if key[0] not in sensors:
            raise MachineError(where, "there is no such sensor on this rig with anything to tell")
        if key not in by_place:
            known = ", ".join(o.output.name for o in offered if str(o.sensor.id) == key[0])
            raise MachineError(
                f"inputs {number}, output",
                f"{sensors[key[0]]} tells no “{key[1][:40]}”; it tells {known}",
            )
        quantity = by_place[key].output.quantity
        states = [state.name for state in quantity.states]
        found.append({**one, "unit": quantity.unit, "states": states})
    return {**document, "inputs": found}


def machine_of(document: dict[str, Any], offered: Sequence[Offered]) -> Machine:
    """The machine, its inputs filled in and those put together given the unit of their parts.

    Raises MachineError.
    """
    filled = filled_in(document, offered)
    inputs = filled.get("inputs")
    if not isinstance(inputs, list):
        return Machine.of(filled)
    known = {
        one["name"]: one.get("unit", "")
        for one in inputs
        if isinstance(one, dict) and isinstance(one.get("name"), str)
    }
    return Machine.of({**filled, "inputs": [_like_its_parts(one, known) for one in inputs]})


def _like_its_parts(one: Any, known: Mapping[str, str]) -> Any:
    """An input that is put together, in the unit of its parts; any other as it is."""
    if not isinstance(one, dict) or not one.get("together") or not isinstance(one.get("of"), list):
        return one
    units = {known.get(str(of), "") for of in one["of"]}
    if len(units) > 1:
        where = f"inputs, {str(one.get('name'))[:40]}"
        raise MachineError(where, "what is put together is not alike")
    return {**one, "unit": units.pop() if units else ""}


def sensors_of(machine: Machine) -> list[int]:
    """The numbers of the sensors it looks at."""
    return [int(one.sensor) for one in machine.inputs if one.sensor.isdigit()]


def own_inputs(machine: Machine) -> list[MachineInput]:
    """Those that are an output of a sensor."""
    return [one for one in machine.inputs if not one.together]
