"""A whole rig as one zip of open files: JSON for what is known, Parquet for what was recorded.

Rows are written as they are kept, with their numbers; brought in, they get new ones, and whatever
names a row by its number is made to follow.
"""

from __future__ import annotations

import json
import math
import tempfile
import zipfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from sqlalchemy import DateTime, inspect, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tickstone.core.calibration.kind import Fit, SpanResult
from tickstone.core.chains import CHAINS
from tickstone.core.chains.kind import ChainKind
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.inputs import known_only, with_inputs
from tickstone.formats.safe_zip import UnsafeZipError, copy_entry, open_zip, read_entry
from tickstone.formats.takes import format_named
from tickstone.formats.takes.header import ReadAs, UnreadableFileError
from tickstone.store.models import (
    Base,
    Calibration,
    CalibrationInUse,
    Mark,
    OwnFamily,
    Recording,
    RecordingInput,
    Rig,
    Rule,
    Sensor,
    SignOff,
    Study,
    Take,
    Wire,
    WiringTick,
)
from tickstone.store.takes import TakeWriter, read_bad_lines
from tickstone.work.archive_versions import VERSION, UnreadableArchiveError, up_to_date
from tickstone.work.catalogue import catalogue_of
from tickstone.work.sensing import rule_stage
from tickstone.work.takes.exporting import export_take
from tickstone.work.wiring import steps_of, wiring_of

_MOST_JSON_BYTES = 256 * 1024 * 1024
_BAD_LINES_AT_ONCE = 2_000


def write_archive(session: Session, rig: Rig, out: BinaryIO) -> None:
    """The rig with its sensors, wires, recordings, marks, calibrations and rules.

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


def read_archive(session: Session, path: Path, check: Callable[[dict[str, Any]], None]) -> Rig:
    """A new rig from an archive, without committing.

    check: refuses a description whose values nobody could have entered.

    Raises UnreadableArchiveError; nothing is kept then, once the session is rolled back.
    """
    try:
        with open_zip(path) as archive:
            text = read_entry(archive, "rig.json", _MOST_JSON_BYTES)
            document = json.loads(text, parse_constant=_no_number, parse_float=_finite)
            document = up_to_date(document)
            check(document)
            return _Reader(session, archive, document).read()
    except (UnsafeZipError, UnreadableFileError) as error:
        raise UnreadableArchiveError(str(error)) from error
    except (ValueError, KeyError, TypeError, AttributeError, IndexError, RecursionError) as error:
        if isinstance(error, UnreadableArchiveError):
            raise
        raise UnreadableArchiveError(f"rig.json does not hold together: {error!r:.200}.") from error
    except DBAPIError as error:
        raise UnreadableArchiveError(
            f"rig.json holds what cannot be kept: {error.orig!s:.200}"
        ) from error


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _finite(text: str) -> float:
    value = float(text)
    return value if math.isfinite(value) else _no_number(text)


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
    return [
        _dump(row)
        for row in session.scalars(select(WiringTick).where(WiringTick.rig_id == rig.id))
        if row.fingerprint in _fingerprints(session, rig).values()
    ]


def _fingerprints(session: Session, rig: Rig) -> dict[str, str]:
    wiring = wiring_of(session, rig, catalogue_of(session))
    if wiring is None:
        return {}
    return {one.step.key: one.step.fingerprint for one in steps_of(session, rig, wiring)}


@contextmanager
def _named(section: str, number: int) -> Iterator[None]:
    """Says which row it is that cannot be."""
    try:
        yield
    except ValueError as error:
        raise UnreadableArchiveError(f"rig.json, {section}, number {number}: {error}.") from error


def _check_mark(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    calibration = next((one for one in kind.calibrations if one.name == row["calibration"]), None)
    if calibration is not None and row["value"] is not None:
        low, high = calibration.values_within
        if not low <= row["value"] <= high:
            raise ValueError(f"value: {row['value']:g} is outside {low:g} to {high:g}")


def _check_calibration(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    calibration = next((one for one in kind.calibrations if one.name == row["kind"]), None)
    if calibration is None:
        raise ValueError(f"kind: there is no calibration “{row['kind']}”")
    span = SpanResult.__dataclass_fields__
    fit = Fit(
        row["parameters"],
        np.array(row["covariance"], dtype=np.float64),
        row["statistics"],
        tuple(SpanResult(**{k: v for k, v in one.items() if k in span}) for one in row["evidence"]),
        heaps=tuple(LaneHeaps.from_json(one) for one in row["heaps"]),
    )
    calibration.check(fit)


def _check_rule(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    rule_stage(kind, row["kind"], row["parameters"], parameters)


class _Reader:
    """Rows of an archive with new numbers. Old numbers map to new rows, kind by kind."""

    def __init__(
        self, session: Session, archive: zipfile.ZipFile, document: dict[str, Any]
    ) -> None:
        self.session = session
        self.archive = archive
        self.document = document
        self.sensors: dict[int, int] = {}
        self.takes: dict[int, int] = {}
        self.recordings: dict[int, int] = {}
        self.calibrations: dict[int, int] = {}

    def read(self) -> Rig:
        self._families()
        rig: Rig = self._make(Rig, self.document["rig"], line={})
        rig.name = self._free_name(rig.name)
        rig.deleted_at = None
        self.session.flush()
        self._check_kinds()
        for row in self.document["sensors"]:
            made = self._make(Sensor, row, rig_id=rig.id)
            self.session.flush()
            self.sensors[row["id"]] = made.id
        rig.line = self._line(self.document["rig"].get("line") or {})
        self._all(Wire, "wires", lambda row: {"sensor_id": self.sensors[row["sensor_id"]]})
        self._all(SignOff, "sign_offs", lambda row: {"sensor_id": self.sensors[row["sensor_id"]]})
        for number, row in enumerate(self.document["takes"], start=1):
            self._take(number, row, rig)
        for row in self.document["recordings"]:
            made_recording = self._make(
                Recording,
                row,
                sensor_id=self.sensors[row["sensor_id"]],
                take_id=self.takes[row["take_id"]],
            )
            self.session.flush()
            self.recordings[row["id"]] = made_recording.id
        self._all(
            RecordingInput,
            "recording_inputs",
            lambda row: {"recording_id": self.recordings[row["recording_id"]]},
        )
        self._all(
            Mark,
            "marks",
            lambda row: {
                "take_id": self.takes[row["take_id"]],
                "sensor_id": self._maybe_sensor(row["sensor_id"]),
            },
        )
        self._calibrations()
        self._all(
            Study,
            "studies",
            lambda row: {
                "sensor_id": self.sensors[row["sensor_id"]],
                "cells": [
                    {**cell, "recording_id": self.recordings.get(cell.get("recording_id"))}
                    for cell in row["cells"]
                ],
            },
        )
        self._all(
            Rule,
            "rules",
            lambda row: {
                "sensor_id": self.sensors[row["sensor_id"]],
                "basis": self._basis(row["basis"]),
            },
        )
        self.session.flush()
        self.session.expire(rig)
        wiring_of(self.session, rig, catalogue_of(self.session))  # refuses what no wiring can be
        self._ticks(rig)
        self.session.flush()
        return rig

    def _check_kinds(self) -> None:
        """What only the kind of a sensor can judge: parameters, marks, calibrations, rules."""
        catalogue = catalogue_of(self.session)
        kinds = {
            row["id"]: CHAINS.get(catalogue.devices[row["family"]].chain)
            for row in self.document["sensors"]
        }
        parameters: dict[int, Any] = {}
        for number, row in enumerate(self.document["sensors"], start=1):
            if (kind := kinds[row["id"]]) is not None:
                with _named("sensors", number):
                    known = known_only(kind.parameters, row["parameters"])
                    parameters[row["id"]] = with_inputs(kind.parameters, known)
        for section, check in (
            ("marks", _check_mark),
            ("calibrations", _check_calibration),
            ("rules", _check_rule),
        ):
            for number, row in enumerate(self.document[section], start=1):
                if (kind := kinds.get(row["sensor_id"])) is not None:
                    with _named(section, number):
                        check(kind, row, parameters[row["sensor_id"]])

    def _make(self, kind: type[Any], row: dict[str, Any], **change: Any) -> Any:
        """A new row of the same values. Raises KeyError, ValueError."""
        values = {}
        for column in inspect(kind).columns:
            if column.key == "id" and column.primary_key:
                continue
            value = change[column.key] if column.key in change else row[column.key]
            if isinstance(column.type, DateTime) and isinstance(value, str):
                value = datetime.fromisoformat(value)
                value = value if value.tzinfo else value.replace(tzinfo=UTC)
            values[column.key] = value
        made = kind(**values)
        self.session.add(made)
        return made

    def _all(
        self, kind: type[Any], name: str, change: Callable[[dict[str, Any]], dict[str, Any]]
    ) -> None:
        for row in self.document[name]:
            self._make(kind, row, **change(row))

    def _families(self) -> None:
        """Families that are not here yet; one of the same name that differs stays as it is here."""
        for row in self.document["families"]:
            known = self.session.scalars(
                select(OwnFamily).where(
                    OwnFamily.kind == row["kind"], OwnFamily.name == row["name"]
                )
            ).first()
            if known is None:
                self.session.add(
                    OwnFamily(kind=row["kind"], name=row["name"], document=row["document"])
                )
            elif known.document != row["document"]:
                raise UnreadableArchiveError(
                    f"The family “{row['name']}” is here already and differs from the one in the "
                    "zip. Rename one of them first."
                )
        self.session.flush()
        catalogue = catalogue_of(self.session)
        for sensor in self.document["sensors"]:
            if sensor["family"] not in catalogue.devices:
                raise UnreadableArchiveError(f"There is no family “{sensor['family']}” here.")
        board = self.document["rig"]["board"]
        if board and board not in catalogue.boards:
            raise UnreadableArchiveError(f"There is no board “{board}” here.")

    def _free_name(self, name: str) -> str:
        taken = set(self.session.scalars(select(Rig.name).where(Rig.deleted_at.is_(None))))
        fresh, number = name, 1
        while fresh in taken:
            number += 1
            fresh = f"{name} ({number})"
        return fresh

    def _line(self, line: dict[str, Any]) -> dict[str, Any]:
        sensors = {
            n: self.sensors[s] for n, s in line.get("sensors", {}).items() if s in self.sensors
        }
        return {**line, "sensors": sensors} if line else {}

    def _take(self, number: int, row: dict[str, Any], rig: Rig) -> None:
        channels = [
            {**channel, "sensor_id": self.sensors.get(channel.get("sensor_id"))}
            for channel in row["channels"]
        ]
        take = self._make(
            Take,
            row,
            rig_id=rig.id,
            channels=channels,
            samples=0,
            bad_lines=0,
            attempts=0,
            first_time_us=0,
            last_time_us=0,
        )
        self.session.flush()
        self.takes[row["id"]] = take.id
        writer = TakeWriter(self.session, take)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "take.parquet"
            copy_entry(self.archive, f"takes/{number:03d}.parquet", path)
            reading = format_named("parquet").read(path, ReadAs())
            if len(reading.header.channels) != len(channels):
                raise UnreadableArchiveError(f"takes/{number:03d}.parquet has other channels.")
            origin = row["first_time_us"]
            for block in reading.blocks:
                writer.append(block.shifted(origin))
        if row["bad_lines"]:
            data = read_entry(self.archive, f"takes/{number:03d}.lines.json", _MOST_JSON_BYTES)
            writer.put_aside([(int(n), str(text), str(why)) for n, text, why in json.loads(data)])
        writer.flush()

    def _calibrations(self) -> None:
        for row in self.document["calibrations"]:
            made = self._make(
                Calibration,
                row,
                sensor_id=self.sensors[row["sensor_id"]],
                recording_id=self.recordings[row["recording_id"]],
            )
            self.session.flush()
            self.calibrations[row["id"]] = made.id
        self._all(
            CalibrationInUse,
            "in_use",
            lambda row: {
                "sensor_id": self.sensors[row["sensor_id"]],
                "calibration_id": self.calibrations[row["calibration_id"]],
            },
        )

    def _maybe_sensor(self, old: int | None) -> int | None:
        return None if old is None else self.sensors[old]

    def _basis(self, basis: dict[str, Any]) -> dict[str, Any]:
        """What a rule was set from, with the new numbers of its calibrations."""
        old = str(basis.get("calibrations") or "").split()
        new = [str(self.calibrations[int(one)]) for one in old if int(one) in self.calibrations]
        return {**basis, "calibrations": " ".join(new)}

    def _ticks(self, rig: Rig) -> None:
        fingerprints = _fingerprints(self.session, rig)
        for row in self.document["ticks"]:
            parts = row["key"].split(":")
            key = ":".join(
                str(self.sensors[int(part)])
                if part.isdigit() and int(part) in self.sensors
                else part
                for part in parts
            )
            if key in fingerprints:
                self._make(WiringTick, row, rig_id=rig.id, key=key, fingerprint=fingerprints[key])
