"""What the air that a thermometer told does to every distance of its rig."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.quantity import DISTANCE
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import Recording, Sensor
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue
from tickstone.work.look import results_of, step_of, u_at
from tickstone.work.sensing import Sensing, kind_of, latest_recordings, sensing_of

_WITHOUT_RECORDING_M = 1.0


@dataclass(frozen=True, slots=True)
class DistanceMoved:
    """One distance in the rig's air, and in the air that was told.

    is_heard: whether it is the middle one of the sensor's newest recording. rests: whether the air
    has a say at all. u: standard uncertainties, all of the working. NaN where nothing can be said.
    """

    sensor: Sensor
    is_heard: bool
    rests: bool
    typed_m: float
    told_m: float
    u_typed_m: float
    u_told_m: float


@dataclass(frozen=True, slots=True)
class AirEffect:
    """The rig's air as it is noted, as the thermometer told it, and what that moves."""

    typed: AirConditions
    told: AirConditions
    distances: tuple[DistanceMoved, ...]


def air_effect(
    session: Session, cache: Cache, catalogue: Catalogue, recording: Recording, sensing: Sensing
) -> AirEffect:
    """The last temperature of a thermometer's recording, put in the place of the rig's.

    sensing: of the thermometer. Raises ValueError when nothing good was read, or when no air is so.
    """
    results = results_of(session, cache, recording, sensing)
    signal = results.whole(results.chain.node_of("temperature"))
    good = signal.value[signal.flag == Status.OK]
    if good.size == 0:
        raise ValueError("there is no good temperature in this recording")
    # By then it has come to the air it hangs in, and it is the one that the bench shows.
    celsius = float(good[-1])
    within = math.sqrt(3.0) * u_at(sensing, celsius)
    rig = recording.sensor.rig
    # To a tenth: more of it is not known, and nobody types more.
    told = replace(
        rig.air,
        temperature_c=round(celsius, 1),
        temperature_tolerance_c=max(0.1, math.ceil(within * 10.0 - 1e-9) / 10.0),
    )
    rows = latest_recordings(session, [one.id for one in rig.sensors])
    moved = [
        _moved(session, cache, catalogue, one, rows.get(one.id), rig.air, told)
        for one in rig.sensors
    ]
    return AirEffect(rig.air, told, tuple(one for one in moved if one is not None))


def _moved(
    session: Session,
    cache: Cache,
    catalogue: Catalogue,
    sensor: Sensor,
    newest: Recording | None,
    typed: AirConditions,
    told: AirConditions,
) -> DistanceMoved | None:
    """None for a sensor that tells no distance."""
    kind = kind_of(sensor, catalogue)
    if kind is None or kind.outputs[0].quantity.name != DISTANCE.name:
        return None
    before, after = (
        sensing_of(session, sensor, kind, Surroundings(air), with_rules=False)
        for air in (typed, told)
    )
    heard_m = _middle(session, cache, newest, before) if newest is not None else math.nan
    at_m = _WITHOUT_RECORDING_M if math.isnan(heard_m) else heard_m
    raw = kind.raw_for(at_m, before.parameters, before.surroundings, before.calibrations)
    steps = [None if raw is None else step_of(one, raw) for one in (before, after)]
    first, second = (
        (math.nan, math.nan) if step is None or step.status != Status.OK else (step.value, step.u)
        for step in steps
    )
    return DistanceMoved(
        sensor, not math.isnan(heard_m), kind.rests_on_air(before.parameters),
        first[0], second[0], first[1], second[1],
    )  # fmt: skip


def _middle(session: Session, cache: Cache, recording: Recording, sensing: Sensing) -> float:
    """Median of what is good of the headline; NaN where none is."""
    results = results_of(session, cache, recording, sensing)
    node = results.chain.node_of(sensing.kind.headline(results.chain).name)
    signal = results.whole(node)
    good = signal.value[(signal.flag == Status.OK) & (signal.value > 0.0)]
    return float(np.median(good)) if good.size else math.nan
