"""A machine over a take: what each input hears in it, what became of it, and what it saw."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.machines.machine import Machine
from tickstone.core.machines.measures import Truth
from tickstone.core.machines.running import Runner, Visits
from tickstone.core.machines.sight import Sight, deciders, sight_at
from tickstone.core.signal import Signal
from tickstone.store.models import Mark, Recording, Sensor, Take
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.deciding.offered import own_inputs
from tickstone.work.look import results_of
from tickstone.work.results import Results
from tickstone.work.sensing import kind_of, sensing_of, surroundings_of_take


class UnheardError(ValueError):
    """A take holds nothing of what some inputs look at. names: of the inputs."""

    def __init__(self, names: Sequence[str], said: str) -> None:
        super().__init__(said)
        self.names = tuple(names)


@dataclass(frozen=True, slots=True)
class Heard:
    """What a take gives to a machine. signals: by input. results: where each comes from."""

    machine: Machine
    signals: Mapping[str, Signal]
    results: Mapping[str, tuple[Results, str]]

    def visits(self) -> Visits:
        """What becomes of it, from the first sample of the take on."""
        return Runner(self.machine).replay(self.signals, start_s=0.0)

    @property
    def sample_s(self) -> Any:
        """When the input that speaks most often spoke."""
        return max(self.signals.values(), key=len).time_s


def heard_in(session: Session, cache: Cache, take: Take, machine: Machine) -> Heard:
    """What each input hears in a take. Raises UnheardError naming what it holds nothing of."""
    signals: dict[str, Signal] = {}
    results: dict[str, tuple[Results, str]] = {}
    missing, said = [], []
    by_sensor = {one.sensor_id: one for one in take.recordings if one.deleted_at is None}
    for one in own_inputs(machine):
        sensor = session.get(Sensor, int(one.sensor)) if one.sensor.isdigit() else None
        if sensor is None or sensor.rig_id != take.rig_id:
            missing.append(one.name)
            said.append(f"{one.name} looks at no sensor of this rig")
            continue
        recording = by_sensor.get(sensor.id)
        if recording is None:
            missing.append(one.name)
            said.append(f"“{take.name}” holds nothing of {sensor.name}")
            continue
        found = _output(session, cache, recording, sensor, one.output)
        if found is None:
            missing.append(one.name)
            said.append(f"{sensor.name} tells no {one.output} in “{take.name}”")
            continue
        results[one.name] = found
        signals[one.name] = found[0].whole(found[1])
    if missing:
        raise UnheardError(missing, "; ".join(dict.fromkeys(said)))
    return Heard(machine, signals, results)


def _output(
    session: Session, cache: Cache, recording: Recording, sensor: Sensor, output: str
) -> tuple[Results, str] | None:
    kind = kind_of(sensor, catalogue_of(session))
    if kind is None:
        return None
    sensing = sensing_of(session, sensor, kind, surroundings_of_take(recording.take))
    results = results_of(session, cache, recording, sensing)
    given = dict(results.chain.outputs)
    return (results, given[output]) if output in given else None


def truths_in(session: Session, take: Take, machine: Machine) -> list[Truth]:
    """Stretches of a take that are marked with the name of a state, without a value."""
    rows = session.scalars(
        select(Mark)
        .where(Mark.take_id == take.id, Mark.deleted_at.is_(None), Mark.value.is_(None))
        .order_by(Mark.start_s, Mark.id)
    )
    found: list[Truth] = []
    for row in rows:
        name = row.name.strip().casefold().replace(" ", "_")
        if name not in machine.numbers or not row.end_s > row.start_s:
            continue
        if found and row.start_s < found[-1].to_s:
            continue  # Where two were marked, the first counts.
        found.append(Truth(name, row.start_s, row.end_s))
    return found


def seen_at(heard: Heard, time_s: float) -> list[Sight]:
    """What every input said at a time, with its doubt where that is known."""
    told = []
    for one in _sights(heard, time_s).values():
        u = math.nan
        if one.name in heard.results and not one.word and math.isfinite(one.age_s):
            results, node = heard.results[one.name]
            try:
                u = results.working(node, time_s - one.age_s)[-1].u
            except (IndexError, ValueError):
                u = math.nan
        told.append(replace(one, u=u))
    return told


def decided_by(heard: Heard, cause: int, at_s: float) -> list[str]:
    """Which inputs made the condition of a transition true; none where a time ran out."""
    if cause < 0:
        return []
    return deciders(heard.machine.conditions[cause], _sights(heard, at_s))


def _sights(heard: Heard, time_s: float) -> dict[str, Sight]:
    every = Runner(heard.machine).sources(heard.signals)
    return {one.name: sight_at(one, every[one.name], time_s) for one in heard.machine.inputs}
