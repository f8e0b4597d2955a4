"""A rig, and all that belongs to it, into a zip."""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Iterable
from datetime import datetime
from typing import Any, BinaryIO

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session

from tickstone.formats.takes import format_named
from tickstone.store.models import (
    Base,
    BoardRuns,
    Calibration,
    Decision,
    DecisionInUse,
    Mark,
    OwnFamily,
    Program,
    Recording,
    Rig,
    Rule,
    Sensor,
    SignOff,
    Study,
    Take,
    Wire,
    WiringTick,
)
from tickstone.store.takes import read_bad_lines
from tickstone.work.archive.versions import VERSION
from tickstone.work.catalogue import catalogue_of
from tickstone.work.takes.exporting import export_take
from tickstone.work.wiring import fingerprints_of

_BAD_LINES_AT_ONCE = 2_000


def write_archive(session: Session, rig: Rig, out: BinaryIO) -> None:
    """The rig with its sensors, wires, recordings, marks, calibrations, rules and programs.

    Rows that were put away are left behind, unless something that is kept rests on them.
    """
    sensors = list(session.scalars(_of_rig(Sensor, Sensor.rig_id == rig.id)))
    ids = [sensor.id for sensor in sensors]
    calibrations = list(
        session.scalars(
            select(Calibration).where(Calibration.sensor_id.in_(ids)).order_by(Calibration.id)
        )
    )
    needed = {calibration.recording_id for calibration in calibrations}
    recordings = [
        recording
        for recording in session.scalars(
            select(Recording).where(Recording.sensor_id.in_(ids)).order_by(Recording.id)
        )
        if recording.deleted_at is None or recording.id in needed
    ]
    takes = [
        take
        for take in session.scalars(select(Take).where(Take.rig_id == rig.id).order_by(Take.id))
        if take.state != "open"
        and (take.deleted_at is None or any(r.take_id == take.id for r in recordings))
    ]
    take_ids = [take.id for take in takes]
    document = {
        "tickstone_rig": VERSION,
        "rig": _dump(rig),
        "families": _families(session, rig, sensors),
        "sensors": _dumps(sensors),
        "wires": _dumps(session.scalars(_by_id(Wire, Wire.sensor_id.in_(ids)))),
        "ticks": _ticks(session, rig),
        "sign_offs": _dumps(session.scalars(_of_rig(SignOff, SignOff.sensor_id.in_(ids)))),
        "takes": _dumps(takes),
        "recordings": _dumps(recordings),
        "recording_inputs": [_dump(one) for recording in recordings for one in recording.inputs],
        "marks": _dumps(session.scalars(_of_rig(Mark, Mark.take_id.in_(take_ids)))),
        "calibrations": _dumps(calibrations),
        "in_use": [_dump(one) for sensor in sensors for one in sensor.in_use],
        "studies": _dumps(session.scalars(_of_rig(Study, Study.sensor_id.in_(ids)))),
        "decisions": _dumps(session.scalars(_by_id(Decision, Decision.rig_id == rig.id))),
        "decisions_in_use": _dumps(
            session.scalars(
                select(DecisionInUse)
                .where(DecisionInUse.rig_id == rig.id)
                .order_by(DecisionInUse.slot)
            )
        ),
        "programs": _dumps(session.scalars(_by_id(Program, Program.rig_id == rig.id))),
        "board_runs": _dumps(session.scalars(select(BoardRuns).where(BoardRuns.rig_id == rig.id))),
        "rules": _dumps(session.scalars(_of_rig(Rule, Rule.sensor_id.in_(ids)))),
    }
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("rig.json", json.dumps(document, ensure_ascii=False, indent=1))
        for number, take in enumerate(takes, start=1):
            with tempfile.TemporaryFile() as file:
                export_take(session, take, format_named("parquet"), file)
                file.seek(0)
                entry = zipfile.ZipInfo(f"takes/{number:03d}.parquet")
                with archive.open(entry, "w", force_zip64=True) as into:
                    while piece := file.read(1024 * 1024):
                        into.write(piece)
            if take.bad_lines:
                lines = [
                    list(line)
                    for first in range(0, take.bad_lines, _BAD_LINES_AT_ONCE)
                    for line in read_bad_lines(session, take.id, first, _BAD_LINES_AT_ONCE)
                ]
                archive.writestr(
                    f"takes/{number:03d}.lines.json", json.dumps(lines, ensure_ascii=False)
                )


def _of_rig(kind: Any, condition: Any) -> Any:
    return select(kind).where(condition, kind.deleted_at.is_(None)).order_by(kind.id)


def _by_id(kind: Any, condition: Any) -> Any:
    return select(kind).where(condition).order_by(kind.id)


def _dump(row: Base) -> dict[str, Any]:
    values = {}
    for column in inspect(type(row)).columns:
        value = getattr(row, column.key)
        values[column.key] = value.isoformat() if isinstance(value, datetime) else value
    return values


def _dumps(rows: Iterable[Base]) -> list[dict[str, Any]]:
    return [_dump(row) for row in rows]


def _families(session: Session, rig: Rig, sensors: list[Sensor]) -> list[dict[str, Any]]:
    """Families of one's own that the rig uses."""
    used = {("device", sensor.family) for sensor in sensors} | {("board", rig.board)}
    return [
        {"kind": row.kind, "name": row.name, "document": row.document}
        for row in session.scalars(select(OwnFamily).order_by(OwnFamily.kind, OwnFamily.name))
        if (row.kind, row.name) in used
    ]


def _ticks(session: Session, rig: Rig) -> list[dict[str, Any]]:
    """Ticks of the wiring list that still hold."""
    holding = set(fingerprints_of(session, rig, catalogue_of(session)).values())
    return [
        _dump(row)
        for row in session.scalars(select(WiringTick).where(WiringTick.rig_id == rig.id))
        if row.fingerprint in holding
    ]
