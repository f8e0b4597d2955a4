"""A new rig from a zip: rows with new numbers, all or nothing."""

from __future__ import annotations

import json
import math
import tempfile
import zipfile
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import DateTime, inspect, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tickstone.core.wiring.netlist import place_of
from tickstone.formats.safe_zip import UnsafeZipError, copy_entry, open_zip, read_entry
from tickstone.formats.takes import format_named
from tickstone.formats.takes.header import ReadAs, UnreadableFileError
from tickstone.store.models import (
    BoardRuns,
    Calibration,
    CalibrationInUse,
    Decision,
    DecisionInUse,
    Mark,
    OwnFamily,
    Program,
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
from tickstone.store.takes import TakeWriter
from tickstone.work.archive.judging import judge
from tickstone.work.archive.versions import UnreadableArchiveError, up_to_date
from tickstone.work.catalogue import catalogue_of
from tickstone.work.deciding.grounds import basis_renumbered, renumbered
from tickstone.work.wiring import fingerprints_of, wiring_of

_MOST_JSON_BYTES = 256 * 1024 * 1024


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
        rig: Rig = self._make(Rig, self.document["rig"], line={}, circuit={})
        rig.name = self._free_name(rig.name)
        rig.deleted_at = None
        self.session.flush()
        judge(self.document, catalogue_of(self.session))
        for row in self.document["sensors"]:
            made = self._make(Sensor, row, rig_id=rig.id)
            self.session.flush()
            self.sensors[row["id"]] = made.id
        rig.line = self._line(self.document["rig"].get("line") or {})
        rig.circuit = self._circuit(self.document["rig"]["circuit"])
        self._all(
            Wire,
            "wires",
            lambda row: {
                "sensor_id": self.sensors[row["sensor_id"]],
                "to": self._place(row["to"]),
            },
        )
        self._all(
            SignOff,
            "sign_offs",
            lambda row: {
                "sensor_id": self.sensors[row["sensor_id"]],
                "grounds": self._grounds(row["grounds"]),
            },
        )
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
        self._programs(rig, self._decisions(rig))
        self.session.flush()
        self.session.expire(rig)
        wiring_of(self.session, rig, catalogue_of(self.session))  # refuses what no wiring can be
        self._ticks(rig)
        self.session.flush()
        return rig

    def _place(self, place: str) -> str:
        """A place of a wiring; leads are called by the number of their sensor here."""
        sensor, dot, lead = place.partition(".")
        if not dot or not sensor.isdecimal() or int(sensor) not in self.sensors:
            return place
        return place_of(str(self.sensors[int(sensor)]), lead)

    def _circuit(self, stored: dict[str, Any]) -> dict[str, Any]:
        """Supplies, joints and parts, with the numbers sensors have here."""
        found = dict(stored)
        if "parts" in found:
            found["parts"] = [
                {**part, "ends": {leg: self._place(end) for leg, end in part["ends"].items()}}
                for part in found["parts"]
            ]
        if "left_open" in found:
            found["left_open"] = [
                {**one, "device": str(self.sensors[int(one["device"])])}
                for one in found["left_open"]
            ]
        return found

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

    def _decisions(self, rig: Rig) -> dict[int, int]:
        made: dict[int, int] = {}
        for row in self.document["decisions"]:
            one = self._make(
                Decision,
                row,
                rig_id=rig.id,
                document=renumbered(row["document"], self.sensors),
                basis=basis_renumbered(row["basis"], self.sensors, self.calibrations),
            )
            self.session.flush()
            made[row["id"]] = one.id
        self._all(
            DecisionInUse,
            "decisions_in_use",
            lambda row: {"rig_id": rig.id, "decision_id": made[row["decision_id"]]},
        )
        return made

    def _programs(self, rig: Rig, decisions: dict[int, int]) -> None:
        """What was written for the board, so that it is known when the board is heard here."""
        self._all(
            Program,
            "programs",
            lambda row: {
                "rig_id": rig.id,
                "columns": [
                    {**column, "sensor_id": self.sensors.get(column["sensor_id"])}
                    for column in row["columns"]
                ],
                "basis": self._program_basis(row["basis"], decisions),
            },
        )
        self._all(BoardRuns, "board_runs", lambda row: {"rig_id": rig.id})

    def _program_basis(self, basis: dict[str, Any], decisions: dict[int, int]) -> dict[str, Any]:
        """What a program rests on, with the numbers that sensors and decisions have here."""
        here = {str(old): str(new) for old, new in self.sensors.items()}
        return {
            "wiring": {
                here[device]: self._grounds(grounds)
                for device, grounds in basis.get("wiring", {}).items()
                if device in here
            },
            "sums": {
                here[device]: then
                for device, then in basis.get("sums", {}).items()
                if device in here
            },
            "decisions": {
                slot: {
                    **then,
                    "id": decisions.get(then["id"], 0),
                    "sensors": [
                        self.sensors[one] for one in then["sensors"] if one in self.sensors
                    ],
                }
                for slot, then in basis.get("decisions", {}).items()
            },
        }

    def _grounds(self, grounds: dict[str, str]) -> dict[str, str]:
        """Where each lead goes, with the numbers sensors have here; through what, as it was."""
        found = {}
        for lead, words in grounds.items():
            place, comma, rest = words.partition(", ")
            found[lead] = self._place(place) + comma + rest
        return found

    def _maybe_sensor(self, old: int | None) -> int | None:
        return None if old is None else self.sensors[old]

    def _basis(self, basis: dict[str, Any]) -> dict[str, Any]:
        """What a rule was set from, with the new numbers of its calibrations."""
        old = str(basis.get("calibrations") or "").split()
        new = [str(self.calibrations[int(one)]) for one in old if int(one) in self.calibrations]
        return {**basis, "calibrations": " ".join(new)}

    def _ticks(self, rig: Rig) -> None:
        fingerprints = fingerprints_of(self.session, rig, catalogue_of(self.session))
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
