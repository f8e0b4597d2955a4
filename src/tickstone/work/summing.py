"""A rig's chains for its board: as they are set and calibrated now, behind what a program reads."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from types import MappingProxyType
from typing import Any

from sqlalchemy.orm import Session

from tickstone.core.chain import Chain
from tickstone.core.emit.code import CannotEmitError
from tickstone.core.emit.routine import Routine, routine_of
from tickstone.core.emit.summing import Fed, Summing
from tickstone.core.inputs import values_of
from tickstone.core.lines.names import known_unit
from tickstone.core.listening.plan import LeftOut, ListeningPlan
from tickstone.core.listening.reading import Reading
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import Rig, Rule, Sensor
from tickstone.work.catalogue import Catalogue
from tickstone.work.sensing import Sensing, kind_of, parameters_of, rules_of, sensing_of
from tickstone.work.sources import RoleSource, likely_inputs, roles_of

_NEXT_BEST = "What it reads is printed as it comes, and worked out here."


@dataclass(frozen=True, slots=True)
class Summed:
    """A rig's chains for its board, what was left out of them, and what they rest on."""

    summings: tuple[Summing, ...]
    left_out: tuple[LeftOut, ...]
    basis: dict[str, Any]


def sum_up(
    session: Session, rig: Rig, catalogue: Catalogue, plan: ListeningPlan,
    asks: Mapping[int, frozenset[str]] = MappingProxyType({}),
) -> Summed:  # fmt: skip
    """What each sensor that is read tells, with the calibrations and rules in use.

    asks: outputs that are wanted besides, by the number of the sensor.
    """
    summings, left_out = [], []
    basis: dict[str, Any] = {}
    rules = rules_of(session, [one.id for one in rig.sensors])
    by_id = {str(one.id): one for one in rig.sensors}
    for reading in plan.readings:
        sensor = by_id[reading.device]
        try:
            wanted = asks.get(sensor.id, frozenset())
            summings.append(_summing(session, sensor, catalogue, reading, wanted))
        except CannotEmitError as error:
            left_out.append(LeftOut(reading.device, reading.label, str(error), _NEXT_BEST))
            continue
        numbers = {one.name: one.value for one in summings[-1].routine.constants}
        basis[reading.device] = {
            **sums_rest_on(sensor, catalogue, rules.get(sensor.id, [])),
            "numbers": numbers,
        }
    return Summed(tuple(summings), tuple(left_out), basis)


def sums_rest_on(sensor: Sensor, catalogue: Catalogue, rules: Sequence[Rule]) -> dict[str, Any]:
    """What a sensor's sums are worked out from. decided: calibrations and rules, each with its
    label, what tells it from another, and when it was made, as ISO 8601. settings: all others.
    """
    kind = kind_of(sensor, catalogue)
    if kind is None:
        return {"decided": {}, "settings": ""}
    labels = {one.name: one.label for one in kind.calibrations}
    labels |= {one.name: one.label for one in kind.rules}
    made = {
        f"calibration {used.kind}": [
            labels.get(used.kind, used.kind),
            json.dumps(used.calibration.parameters, sort_keys=True),
            used.calibration.made_at.isoformat(),
        ]
        for used in sensor.in_use
    }
    decided = {
        f"rule {one.kind}": [
            labels.get(one.kind, one.kind),
            json.dumps(one.parameters, sort_keys=True),
            one.set_at.isoformat(),
        ]
        for one in rules
    }
    settings = [values_of(parameters_of(sensor, kind)), asdict(sensor.rig.air)]
    return {"decided": {**made, **decided}, "settings": json.dumps(settings, default=str)}


def _summing(
    session: Session, sensor: Sensor, catalogue: Catalogue, reading: Reading,
    asks: frozenset[str],
) -> Summing:  # fmt: skip
    kind = kind_of(sensor, catalogue)
    if kind is None:
        raise CannotEmitError("there is no chain for its kind here yet")
    channels = [
        {
            "quantity": column.quantity,
            "unit": known_unit(column.unit) or "",
            "sensor_id": sensor.id,
        }
        for column in reading.columns
    ]
    roles = roles_of(kind, likely_inputs(kind, channels, sensor.id), channels)
    if not {one.name for one in kind.roles if one.is_needed} <= {one.role for one in roles}:
        raise CannotEmitError("what it prints is not all that its chain takes in")
    sensing = sensing_of(session, sensor, kind, Surroundings(sensor.rig.air))
    chain = replace(
        sensing,
        forms={one.role: one.form.name for one in roles},
        lanes={one.role: len(one.channels) for one in roles},
    ).chain()
    routine = _routine(sensing, chain, reading.name, asks)
    return Summing(reading.device, reading.label, routine, _fed(routine, roles, reading))


def _routine(sensing: Sensing, chain: Chain, name: str, asks: frozenset[str]) -> Routine:
    """The headline, whatever is decided, and what is asked for. Raises CannotEmitError."""
    told = [sensing.kind.headline(chain).name]
    told += [
        output
        for output, _ in chain.outputs
        if (chain.quantity_of(chain.node_of(output)).states or output in asks)
        and output not in told
    ]
    return routine_of(chain, name, told)


def _fed(routine: Routine, roles: Sequence[RoleSource], reading: Reading) -> tuple[Fed, ...]:
    by_role = {one.role: one for one in roles}
    found: list[Fed] = []
    for entry in routine.entries:
        source = by_role.get(entry.role)
        for lane, _ in enumerate(entry.names):
            if source is None or lane >= len(source.channels):
                found.append(Fed(None))
            else:
                column = reading.columns[source.channels[lane]].name
                found.append(Fed(column, source.scales[lane]))
    return tuple(found)
