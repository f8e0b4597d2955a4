"""What is remembered of a rig's line: port, shape, and which column is which sensor."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import asdict, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.families.columns import Candidate, owners, usual_columns
from tickstone.core.lines.shape import Column, LineShape
from tickstone.core.lines.tokens import Manner
from tickstone.formats.takes.header import ChannelInfo
from tickstone.store.models import Rig, Sensor
from tickstone.work.catalogue import catalogue_of


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
    alike = known[0] == now[0] and len(known) == len(now)
    return known == now or (is_nameless(learnt) and alike)


def is_nameless(shape: LineShape) -> bool:
    """Whether nothing that was printed says what the columns are."""
    return not shape.header and not any(column.label for column in shape.columns)


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


def as_written(shape: LineShape, columns: Sequence[dict[str, Any]]) -> LineShape:
    """The shape with the quantities that the program which prints the lines was written with."""
    return replace(
        shape,
        columns=tuple(
            one if one.quantity == "time" else replace(one, quantity=told["quantity"])
            for one, told in zip(shape.columns, columns, strict=True)
        ),
    )


def could_be_written(shape: LineShape, columns: Sequence[dict[str, Any]]) -> bool:
    """Whether these may be the columns of a program, for all that nameless ones tell."""
    return is_nameless(shape) and len(shape.columns) == len(columns)


def named_as_written(shape: LineShape, columns: Sequence[dict[str, Any]]) -> LineShape | None:
    """Nameless columns with the names that the program which prints them was written with; None
    when they are not nameless, or not as many.

    Such a program tells its own time first, in µs.
    """
    if not could_be_written(shape, columns):
        return None
    return replace(
        shape,
        columns=tuple(
            replace(one, name=told["name"], unit=told["unit"], quantity=told["quantity"])
            for one, told in zip(shape.columns, columns, strict=True)
        ),
        time=0,
        time_unit="µs",
        header=",".join(told.get("header", "") for told in columns),
    )


def sensors_as_written(
    columns: Sequence[dict[str, Any]], candidates: Sequence[Candidate]
) -> dict[str, int]:
    """Which sensor each column of a program belongs to, as far as they are still there."""
    there = {one.sensor_id for one in candidates}
    return {one["name"]: one["sensor_id"] for one in columns if one["sensor_id"] in there}


def suggested_sensors(shape: LineShape, candidates: Sequence[Candidate]) -> dict[str, int]:
    """Which sensor each column most likely belongs to."""
    columns = [shape.columns[index] for index in shape.channels]
    return owners([(one.name, one.quantity) for one in columns], candidates)


def sensors_by_name(session: Session, rig: Rig, channels: Sequence[ChannelInfo]) -> dict[int, int]:
    """Whose each channel of a file is: by the sensor's name in the file, else as for a line."""
    candidates = candidates_of(session, rig)
    by_name = {one.name.casefold(): one.sensor_id for one in candidates}
    guessed = owners([(one.name, one.quantity) for one in channels], candidates)
    found = {}
    for number, channel in enumerate(channels):
        sensor_id = by_name.get(channel.sensor.casefold()) or guessed.get(channel.name)
        if sensor_id is not None:
            found[number] = sensor_id
    return found


def candidates_of(session: Session, rig: Rig) -> list[Candidate]:
    """The rig's sensors, as much of them as is needed to guess."""
    sensors = session.scalars(
        select(Sensor).where(Sensor.rig_id == rig.id, Sensor.deleted_at.is_(None))
    )
    families = catalogue_of(session).devices
    return [
        Candidate(one.id, one.name, usual_columns(families[one.family]))
        for one in sensors
        if one.family in families
    ]


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
