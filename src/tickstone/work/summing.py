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
from tickstone.core.emit.whole.routine import in_whole_numbers
from tickstone.core.inputs import values_of
from tickstone.core.lines.names import known_unit
from tickstone.core.listening.plan import LeftOut, ListeningPlan
from tickstone.core.listening.reading import Reading
from tickstone.core.listening.ways.converter import ConverterReading
from tickstone.core.listening.ways.echo import EchoReading
from tickstone.core.listening.ways.levels import LevelsReading
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import Rig, Rule, Sensor
from tickstone.work.catalogue import Catalogue
from tickstone.work.sensing import Sensing, kind_of, parameters_of, rules_of, sensing_of
from tickstone.work.sources import RoleSource, likely_inputs, roles_of

_LATE_US = 100
"""So much later than its timeout a program may notice it."""
_NEXT_BEST = "What it reads is printed as it comes, and worked out here."


@dataclass(frozen=True, slots=True)
class Summed:
    """A rig's chains for its board, what was left out of them, what they rest on, and what to
    know.
    """

    summings: tuple[Summing, ...]
    left_out: tuple[LeftOut, ...]
    basis: dict[str, Any]
    notes: tuple[str, ...] = ()


def sum_up(
    session: Session, rig: Rig, catalogue: Catalogue, plan: ListeningPlan,
    asks: Mapping[int, frozenset[str]] = MappingProxyType({}), is_whole: bool = False,
) -> Summed:  # fmt: skip
    """What each sensor that is read tells, with the calibrations and rules in use.

    asks: outputs that are wanted besides, by the number of the sensor. is_whole: whether in whole
    numbers, where that can be.
    """
    summings, left_out, notes = [], [], []
    basis: dict[str, Any] = {}
    rules = rules_of(session, [one.id for one in rig.sensors])
    by_id = {str(one.id): one for one in rig.sensors}
    for reading in plan.readings:
        sensor = by_id[reading.device]
        try:
            wanted = asks.get(sensor.id, frozenset())
            own = rules.get(sensor.id, [])
            summings.append(_summing(session, sensor, catalogue, reading, own, wanted))
        except CannotEmitError as error:
            left_out.append(LeftOut(reading.device, reading.label, str(error), _NEXT_BEST))
            continue
        if is_whole:
            try:
                summings[-1] = _in_whole_numbers(summings[-1], reading, plan)
            except CannotEmitError as error:
                notes.append(f"{reading.label} stays in floating point: {error}.")
        numbers = {one.name: one.value for one in summings[-1].routine.constants}
        basis[reading.device] = {
            **sums_rest_on(sensor, catalogue, rules.get(sensor.id, [])),
            "numbers": numbers,
        }
    return Summed(tuple(summings), tuple(left_out), basis, tuple(notes))


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
    rules: Sequence[Rule], asks: frozenset[str],
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
    nodes = {one.name: one.node for one in kind.rules}
    for rule in rules:
        if rule.kind in nodes:
            routine = routine.said_further(f"set {rule.set_at:%-d %b %Y}", nodes[rule.kind])
    return Summing(reading.device, reading.label, routine, _fed(routine, roles, reading))


def _in_whole_numbers(one: Summing, reading: Reading, plan: ListeningPlan) -> Summing:
    """The same without floating point. Raises CannotEmitError."""
    names = [name for entry in one.routine.entries for name in entry.names]
    places = {column.name: n for n, column in enumerate(reading.columns)}
    spans = {}
    for name, fed in zip(names, one.fed, strict=True):
        if fed.column is None:
            spans[name] = (0, 0)
            continue
        span = _span(reading, plan)
        if span is None or fed.scale != 1.0 or fed.column not in places:
            raise CannotEmitError("what it reads does not come as the whole number of a pin")
        spans[name] = span
    return replace(one, whole=in_whole_numbers(one.routine, spans))


def _span(reading: Reading, plan: ListeningPlan) -> tuple[int, int] | None:
    """Between which whole numbers each of its values lies; None where it may be a fraction."""
    match reading:
        case EchoReading():
            return 0, reading.timeout_us + _LATE_US
        case ConverterReading() if plan.board.converter is not None:
            return 0, 2**plan.board.converter.bits - 1
        case LevelsReading():
            return 0, 1
    return None


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
