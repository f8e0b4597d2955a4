"""The demo's recordings, read from the logs that ship with Tick Stone."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.demo.logs import log_path
from tickstone.formats.takes import read_take_file
from tickstone.store.models import Recording, Rig, Sensor, Take, utc_now
from tickstone.work.catalogue import catalogue_of
from tickstone.work.sensing import kind_of
from tickstone.work.takes.bringing import ColumnUse, NewTake, read_take_into


def bring_in_plain(session: Session, rig: Rig, log: str, name: str, days_ago: float) -> Take:
    """A log as a recording whose columns belong to no sensor."""
    path = log_path(log)
    sha256 = hashlib.sha256(path.read_bytes()).hexdigest()
    take = read_take_into(
        session, read_take_file(path), NewTake(rig.id, name, rig.air, log, sha256, {})
    )
    take.recorded_at = utc_now() - timedelta(days=days_ago)
    session.flush()
    return take


def bring_in(
    session: Session,
    sensor: Sensor,
    log: str,
    name: str,
    air: AirConditions,
    days_ago: float = 17.0,
    beside: Sequence[Sensor] = (),
) -> Recording:
    """A log as the recording of a sensor: those columns that can only be its own.

    beside: sensors that have columns in it too.
    """
    path = log_path(log)
    reading = read_take_file(path)
    catalogue = catalogue_of(session)
    columns = {}
    for one in (sensor, *beside):
        kind = kind_of(one, catalogue)
        assert kind is not None
        for number, channel in enumerate(reading.header.channels):
            if kind.inputs_like(channel.quantity, channel.unit):
                columns[number] = ColumnUse(one.id)
    sha256 = hashlib.sha256(path.read_bytes()).hexdigest()
    take = read_take_into(session, reading, NewTake(sensor.rig_id, name, air, log, sha256, columns))
    take.recorded_at = utc_now() - timedelta(days=days_ago)
    session.flush()
    return next(one for one in take.recordings if one.sensor_id == sensor.id)
