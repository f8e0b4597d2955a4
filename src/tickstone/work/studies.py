"""Stored studies: their cells, and stretches that are taken for them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.chains.kind import ChainKind
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.inputs import with_inputs
from tickstone.core.signal import Signal
from tickstone.core.studies.kind import Cell, Outcome, StudyKind, Taken
from tickstone.store.models import Recording, Study, utc_now
from tickstone.work.cache import Cache
from tickstone.work.fitting import compared
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.ring import Ring
from tickstone.work.sensing import Sensing


def study_kind(kind: ChainKind, name: str) -> StudyKind:
    """The kind of study of that name. Raises ValueError when the sensor’s kind offers none such."""
    for one in kind.studies:
        if one.name == name:
            return one
    known = ", ".join(one.name for one in kind.studies) or "none"
    raise ValueError(f"there is no study “{name[:40]}” for this kind of sensor; known: {known}")


def studies_of(session: Session, sensor_id: int) -> list[Study]:
    """Those of a sensor that are not deleted, the newest first."""
    rows = session.scalars(
        select(Study)
        .where(Study.sensor_id == sensor_id, Study.deleted_at.is_(None))
        .order_by(Study.made_at.desc(), Study.id.desc())
    )
    return list(rows)


def plan_of(row: Study, kind: StudyKind) -> Any:
    """The plan as its kind has it."""
    return with_inputs(kind.plan, row.plan)


def taken_of(row: Study) -> dict[str, Taken]:
    """What was taken so far, by cell."""
    return {
        cell["key"]: Taken(
            cell["key"],
            tuple(LaneHeaps.from_json(one) for one in cell["heaps"]),
            int(cell["samples"]),
            cell.get("facts", {}),
        )
        for cell in row.cells
    }


def outcome_of(row: Study, kind: StudyKind) -> Outcome:
    """What a study says so far."""
    return kind.outcome(plan_of(row, kind), taken_of(row))


def cell_of(row: Study, kind: StudyKind, key: str) -> Cell:
    """The cell of that key. Raises KeyError."""
    return {one.key: one for one in kind.cells(plan_of(row, kind))}[key]


def keep_cell(row: Study, taken: Taken, where: dict[str, Any]) -> None:
    """Put what a cell gave in its place; an earlier take of it goes."""
    others = [cell for cell in row.cells if cell["key"] != taken.key]
    row.cells = [
        *others,
        {
            "key": taken.key,
            "samples": taken.samples,
            "taken_at": utc_now().isoformat(),
            "heaps": [one.as_json() for one in taken.heaps],
            "facts": dict(taken.facts),
            **where,
        },
    ]


def stretch_of(
    session: Session,
    cache: Cache,
    recording: Recording,
    sensing: Sensing,
    start_s: float,
    end_s: float,
) -> Signal:
    """What the sensor’s calibration compares, over a stretch of a recording."""
    calibration = sensing.kind.calibrations[0]
    signal = compared(session, cache, recording, calibration, sensing)
    first, last = np.searchsorted(signal.time_s, [start_s, end_s])
    return signal.between(int(first), int(last), end_s)


def last_of_line(live: LiveSensor, ring: Ring, last_s: float) -> Signal:
    """The same over the last seconds of a live line."""
    newest = ring.since(0, 1)
    if len(newest) == 0:
        return Signal.of([], [])
    from_us = int(newest.time_us[-1]) - round(last_s * 1e6)
    signals = live.signals(ring.since(ring.first_at_or_after(from_us)))
    sensing = replace(live.sensing, rules={})
    chain, node = sensing.compared_with(sensing.kind.calibrations[0])
    return chain.fold(signals, node).results[node]
