"""What is remembered of a rig's line: port, shape, and which column is which sensor."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.lines.shape import Column, LineShape
from tickstone.core.lines.tokens import Manner
from tickstone.formats.takes.header import ChannelInfo
from tickstone.store.models import Rig, Sensor


def shape_as_json(shape: LineShape) -> dict[str, Any]:
    """A shape as plain values."""
    return asdict(shape)


def shape_from_json(document: dict[str, Any]) -> LineShape:
    """A shape from plain values. Raises TypeError or KeyError when it is none."""
    return LineShape(
        manner=Manner(**document["manner"]),
        columns=tuple(Column(**column) for column in document["columns"]),
        time=document["time"],
        time_unit=document["time_unit"],
        header=document["header"],
    )


@dataclass(frozen=True, slots=True)
class SensorHint:
    """As much of a sensor as is needed to guess its columns. kind: key of its device family."""

    sensor_id: int
    name: str
    kind: str


def signature_of(learnt: LineShape) -> list[str]:
    """What lines are known again by: how they are taken apart and what they call their columns."""
    manner = learnt.manner
    return [
        f"{manner.kind} {manner.separator} {manner.decimal}",
        *(f"{column.label}|{column.name}|{column.unit}" for column in learnt.columns),
    ]


def knows(learnt: LineShape, line: dict[str, Any]) -> bool:
    """Whether what is remembered was settled for lines like these.

    A board that was running already does not print its header again: lines without any names are
    known by how they are taken apart and how many values they have.
    """
    known, now = line.get("signature") or [""], signature_of(learnt)
    is_nameless = not learnt.header and not any(column.label for column in learnt.columns)
    return known == now or (is_nameless and known[0] == now[0] and len(known) == len(now))


def remembered_shape(learnt: LineShape, line: dict[str, Any]) -> LineShape:
    """The learnt shape with the person's corrections, if they were made for lines like these."""
    if not knows(learnt, line):
        return learnt
    try:
        return replace(shape_from_json(line["shape"]), header=learnt.header)
    except (KeyError, TypeError):
        return learnt


def remembered_sensors(shape: LineShape, line: dict[str, Any]) -> dict[str, int]:
    """Which column belongs to which sensor, as far as it was settled for columns of these names."""
    sensors = line.get("sensors", {})
    names = {column.name for column in shape.columns}
    return {name: int(sensor) for name, sensor in sensors.items() if name in names}


_KINDS = {
    "echo time": ("ranger", "ultrasonic"),
    "distance": ("ranger", "triangulation", "time_of_flight", "flight"),
    "pulse": ("hall", "encoder"),
    "pulse count": ("hall", "encoder", "reflective_strip"),
    "pulse gap": ("hall", "encoder"),
    "acceleration": ("axis", "acceler"),
    "rotation rate": ("axis", "gyro"),
    "temperature": ("thermo", "temperature"),
    "humidity": ("humid",),
    "converter counts": ("reflective", "array", "photo", "acceler", "battery"),
    "voltage": ("battery",),
}
_WORDS = {
    "batt": "battery",
    "temp": "thermometer air",
    "ir": "strip line reflective",
    "hall": "wheel axle",
    "side": "left right",
}


def suggested_sensors(shape: LineShape, sensors: Sequence[SensorHint]) -> dict[str, int]:
    """Which sensor each column most likely belongs to, by names and by what it measures.

    >>> shape = LineShape(Manner("labelled"), (Column("f", "front", "µs", "echo time"),))
    >>> suggested_sensors(shape, [SensorHint(7, "Front ranger", "ultrasonic_ranger_4pin")])
    {'front': 7}
    """
    chosen: dict[str, int] = {}
    taken: set[int] = set()
    for index in shape.channels:
        column = shape.columns[index]
        fits = [s for s in sensors if _fits(column.quantity, s.kind)]
        words = _words(column.name)
        named = [s for s in fits if words & _words(s.name)] or [
            s for s in sensors if words & _words(s.name)
        ]
        one_value = column.quantity in ("echo time", "distance")
        free = [s for s in fits if not (one_value and s.sensor_id in taken)]
        found = named[:1] or (free if len(free) == 1 else free[:1] if one_value else [])
        if len(found) == 1:
            chosen[column.name] = found[0].sensor_id
            taken.add(found[0].sensor_id)
    return chosen


def _fits(quantity: str, kind: str) -> bool:
    return any(part in kind for part in _KINDS.get(quantity, ()))


def _words(name: str) -> set[str]:
    words = set(re.findall(r"[a-z]+", name.lower())) - {"us", "cm", "count", "gap", "deg", "c"}
    return words | {
        more
        for word in words
        for start, text in _WORDS.items()
        if word == start
        for more in text.split()
    }


def sensors_by_name(session: Session, rig: Rig, channels: Sequence[ChannelInfo]) -> dict[int, int]:
    """Whose each channel of a file is: by the sensor's name in the file, else as for a line."""
    hints = hints_of(session, rig)
    by_name = {hint.name.casefold(): hint.sensor_id for hint in hints}
    columns = tuple(Column("", c.name, c.unit, c.quantity) for c in channels)
    guessed = suggested_sensors(LineShape(Manner("labelled"), columns), hints)
    found = {}
    for number, channel in enumerate(channels):
        sensor_id = by_name.get(channel.sensor.casefold()) or guessed.get(channel.name)
        if sensor_id is not None:
            found[number] = sensor_id
    return found


def hints_of(session: Session, rig: Rig) -> list[SensorHint]:
    """The rig's sensors, as much of them as is needed to guess."""
    sensors = session.scalars(
        select(Sensor).where(Sensor.rig_id == rig.id, Sensor.deleted_at.is_(None))
    )
    return [SensorHint(sensor.id, sensor.name, sensor.family) for sensor in sensors]


def channels_of(shape: LineShape, sensors: dict[str, int]) -> list[dict[str, Any]]:
    """The channels of a take recorded with this shape."""
    return [
        {
            "name": column.name,
            "unit": column.unit,
            "quantity": column.quantity,
            "sensor_id": sensors.get(column.name),
        }
        for column in (shape.columns[index] for index in shape.channels)
    ]


def renamed(shape: LineShape, changes: Iterable[tuple[int, str, str, str, bool]]) -> LineShape:
    """The shape with columns changed: (position, name, unit, quantity, is_used).

    Raises ValueError when a name is empty or given twice, or nothing would be left.
    """
    columns = list(shape.columns)
    for position, name, unit, quantity, is_used in changes:
        if not 0 <= position < len(columns):
            raise ValueError(f"there is no column {position + 1}")
        columns[position] = replace(
            columns[position], name=name, unit=unit, quantity=quantity, is_used=is_used
        )
    names = [column.name for column in columns]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise ValueError(f"two columns are called “{twice}”")
    fresh = replace(shape, columns=tuple(columns))
    if not fresh.channels:
        raise ValueError("no column would be left to listen to")
    return fresh
