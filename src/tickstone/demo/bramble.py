"""Fills an empty store with Bramble as the club left it: some done, some stale, some to find."""

from __future__ import annotations

import hashlib
import io
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.stones.stone import WorkStage
from tickstone.demo.logs import CURTAIN_AIR, FRONT_CURTAIN, LEFT_AIR, LEFT_RULER, log_path
from tickstone.formats.echo_log import EchoMapping
from tickstone.formats.log_shape import preview_log
from tickstone.store.models import (
    Mark,
    Recording,
    Rig,
    Sensor,
    SignOff,
    Threshold,
    utc_now,
)
from tickstone.work.cache import RecordingCache
from tickstone.work.fitting import calibration_row, fit_recording
from tickstone.work.importing import NewRecording, read_into

SHED_AIR = AirConditions(16.0, 0.58)


@dataclass(frozen=True, slots=True)
class _Part:
    name: str
    family: str
    place: str
    leads: str


_PARTS = (
    _Part("Front ranger", "ultrasonic_ranger", "front, 95 mm up", "D7 D8"),
    _Part("Left ranger", "ultrasonic_ranger", "left side, 95 mm up", "D4 D5"),
    _Part("Nose strip", "reflective_array", "nose, 6 mm up", "A0–A4"),
    _Part("Rear wheel", "hall_switch", "rear axle, 4 magnets", "D2"),
    _Part("Deck level", "six_axis", "deck, centre", "SDA SCL"),
    _Part("Shed air", "thermometer", "deck, shaded", "D12"),
    _Part("Battery", "battery_divider", "four cells", "A6"),
)


def plant_bramble(session: Session) -> Rig | None:
    """Add Bramble to a store that holds no rig at all; returns None when it holds one."""
    if session.scalars(select(Rig.id).limit(1)).first() is not None:
        return None
    rig = Rig(
        name="Bramble",
        description="Seed-tray cart of the Fernhollow allotment club",
        board="5 V 8-bit board",
    )
    rig.air = SHED_AIR
    session.add(rig)
    session.flush()
    sensors = [
        Sensor(
            rig_id=rig.id,
            name=part.name,
            family=part.family,
            place=part.place,
            leads=part.leads,
            position=position,
            parameters={},
        )
        for position, part in enumerate(_PARTS)
    ]
    session.add_all(sensors)
    session.flush()
    wired_at = utc_now() - timedelta(days=20)
    session.add_all(
        SignOff(
            sensor_id=sensor.id,
            stage=WorkStage.WIRED.value,
            is_right=True,
            note="looked over by two people",
            at=wired_at,
        )
        for sensor in sensors
    )
    front, left = sensors[0], sensors[1]
    front.parameters = {"mount_m": 0.008}
    _bring_in(session, front, FRONT_CURTAIN, "first try, curtain", CURTAIN_AIR)
    _finish_left(session, left)
    session.commit()
    return rig


def _finish_left(session: Session, left: Sensor) -> None:
    """The left ranger was done on a cold morning, which by now is stale."""
    recording = _bring_in(session, left, LEFT_RULER, "ruler, frosty morning", LEFT_AIR)
    marks = [
        Mark(
            recording_id=recording.id,
            name=name,
            start_s=start_s,
            end_s=end_s,
            true_m=true_m,
            true_u_m=0.001,
        )
        for name, start_s, end_s, true_m in (
            ("bench leg", 1.0, 10.0, 0.150),
            ("first slab", 14.0, 24.0, 0.400),
            ("second slab", 29.0, 38.0, 0.800),
            ("door frame", 44.0, 52.0, 1.400),
        )
    ]
    session.add_all(marks)
    session.flush()
    row = calibration_row(
        recording, marks, fit_recording(session, RecordingCache(), recording, marks)
    )
    row.made_at = utc_now() - timedelta(days=17)
    session.add(row)
    session.flush()
    left.calibration = row
    session.add(
        Threshold(
            sensor_id=left.id,
            calibration_id=row.id,
            set_at=utc_now() - timedelta(days=17),
            stop_m=0.15,
            go_m=0.22,
            needed_m=None,
            stopping={},
        )
    )


def _bring_in(
    session: Session, sensor: Sensor, log: str, name: str, air: AirConditions
) -> Recording:
    raw = log_path(log).read_bytes()
    shape = preview_log(raw).shape
    assert shape.echo_column is not None
    mapping = EchoMapping(
        shape.separator,
        shape.decimal,
        shape.header_line,
        len(shape.columns),
        shape.time_column,
        shape.time_unit,
        shape.echo_column,
        shape.echo_unit,
    )
    new = NewRecording(sensor.id, name, air, log, hashlib.sha256(raw).hexdigest())
    recording = read_into(session, io.BytesIO(raw), mapping, new)
    recording.recorded_at = utc_now() - timedelta(days=17)
    return recording
