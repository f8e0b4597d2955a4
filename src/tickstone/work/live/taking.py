"""From an open line to a take."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.store.models import Take
from tickstone.work.live.line import LiveLine
from tickstone.work.live.memory import channels_of, shape_as_json


def open_take(
    session: Session,
    line: LiveLine,
    name: str,
    air: AirConditions,
    conditions: dict[str, Any],
) -> Take:
    """A take of what the line says from now on. Raises ValueError while no shape is known."""
    if line.shape is None:
        raise ValueError("no line could be read yet, so there is nothing to record")
    take = Take(
        rig_id=line.rig_id,
        name=name,
        source_name=line.place.label,
        source={
            "kind": line.place.kind,
            "path": line.place.path,
            "speed": line.place.speed,
        },
        sha256="",
        channels=channels_of(line.shape, line.sensors),
        conditions=conditions,
        state="open",
        shape=shape_as_json(line.shape),
        time_source="board" if line.shape.time is not None else "arrival",
        samples=0,
        bad_lines=0,
    )
    take.air = air
    session.add(take)
    session.commit()
    return take
