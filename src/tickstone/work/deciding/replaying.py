"""A machine over a take: what each input hears in it, what became of it, and what it saw."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.machines.conditions import TRUE
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.measures import Truth
from tickstone.core.machines.running import USABLE, Runner, Visits
from tickstone.core.machines.together import by_name
from tickstone.core.signal import Signal
from tickstone.core.status import Status
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
        """What becomes of it."""
        return Runner(self.machine).replay(self.signals)

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


@dataclass(frozen=True, slots=True)
class Sight:
    """What an input said last at a time. u: standard uncertainty, NaN where not known. word: of a
    decision. age_s: how old it was. who: which of those put together decided, or nothing.
    """

    name: str
    value: float
    u: float
    status: Status
    word: str
    age_s: float
    who: str


def seen_at(heard: Heard, time_s: float) -> list[Sight]:
    """What every input said at a time, with its doubt where that is known."""
    told = []
    for one in _readings(heard, time_s):
        u = math.nan
        if one.name in heard.results and not one.word and math.isfinite(one.age_s):
            results, node = heard.results[one.name]
            try:
                u = results.working(node, time_s - one.age_s)[-1].u
            except (IndexError, ValueError):
                u = math.nan
        told.append(replace(one, u=u))
    return told


def _readings(heard: Heard, time_s: float) -> list[Sight]:
    """What every input said last at a time."""
    told = []
    every = Runner(heard.machine).heard(heard.signals)
    for one in heard.machine.inputs:
        signal = every[one.name]
        place = int(np.searchsorted(signal.time_s, time_s, side="right")) - 1
        if place < 0:
            told.append(Sight(one.name, math.nan, math.nan, Status.NOT_YET, "", math.nan, ""))
            continue
        value, at_s = float(signal.value[place]), float(signal.time_s[place])
        status = Status(int(signal.flag[place]))
        if time_s - at_s >= one.longest_s:
            status = Status.OUTDATED
        word = one.states[int(value)] if one.states and math.isfinite(value) else ""
        who = _who(heard, one.name, time_s)
        told.append(Sight(one.name, value, math.nan, status, word, time_s - at_s, who))
    return told


def deciders(heard: Heard, cause: int, at_s: float) -> list[str]:
    """Which inputs made the condition of a transition true at a time; none for a time running out.

    Of those put together, the one whose value it was.
    """
    if cause < 0:
        return []
    readings = {one.name: one for one in _readings(heard, at_s)}
    found = []
    for atom in heard.machine.conditions[cause].atoms:
        one = readings[atom.input]
        if atom.told(one.value, one.status, one.status in USABLE) == TRUE:
            found.append(f"{atom.input} by {one.who}" if one.who else atom.input)
    return list(dict.fromkeys(found))


def _who(heard: Heard, name: str, time_s: float) -> str:
    """Which of those put together the value is of."""
    one = next(each for each in heard.machine.inputs if each.name == name)
    if not one.together:
        return ""
    longest = {each.name: each.longest_s for each in heard.machine.inputs}
    made = by_name(one.name, one.of, heard.signals, longest, one.together, one.us)
    place = int(np.searchsorted(made.signal.time_s, time_s, side="right")) - 1
    if place < 0 or made.who[place] < 0:
        return ""
    return one.of[int(made.who[place])]
