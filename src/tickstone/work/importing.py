"""Bringing a log in: a file on disk, a look at its shape, then a recording, all or nothing."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.blocks import Block, Scaled
from tickstone.formats.echo_log import EchoMapping, read_echo_log
from tickstone.formats.log_shape import HEAD_BYTES, LogPreview, preview_log
from tickstone.store.models import Recording, RecordingInput, Sensor, Take
from tickstone.store.takes import TakeWriter
from tickstone.work.background import FileReading

MOST_UPLOAD_BYTES = 1024 * 1024 * 1024
MOST_WAITING = 20


@dataclass(frozen=True, slots=True)
class NewRecording:
    """What the recording is to be called, the air it was taken in, and the file it comes from."""

    sensor_id: int
    name: str
    air: AirConditions
    source_name: str
    sha256: str


@dataclass(slots=True)
class LogImport(FileReading):
    """A log of one sensor's echo times on its way in."""

    preview: LogPreview = field(kw_only=True)

    def look_again(self, separator: str | None, decimal: str | None) -> None:
        """Read the first rows again with what the person settled."""
        with self.path.open("rb") as file:
            self.preview = preview_log(file.read(HEAD_BYTES), separator, decimal)

    def read(self, engine: Engine, mapping: EchoMapping, new: NewRecording) -> None:
        """Read the file in the background."""

        def run(session: Session) -> int:
            with self.path.open("rb") as file:
                stop = self._stop.is_set
                return read_into(session, file, mapping, new, stop, self.note).id

        self.start(engine, run)

    def nothing_read(self) -> str:
        """What to say when no line of the file could be read."""
        return (
            f"No line of “{self.source_name}” could be read this way: all {self.bad_lines} were "
            "put aside. Check the separator, the decimal mark and the columns. The file is still "
            "here."
        )


def read_into(
    session: Session,
    file: BinaryIO,
    mapping: EchoMapping,
    new: NewRecording,
    stop: Callable[[], bool] = lambda: False,
    note: Callable[[int, int, int], None] = lambda *_: None,
) -> Recording:
    """Read a log into a recording, without committing.

    note: told after each block how many bytes, readings and bad lines there are so far.
    """
    sensor = session.get_one(Sensor, new.sensor_id)
    take = Take(
        rig_id=sensor.rig_id,
        name=new.name,
        source_name=new.source_name,
        source={"kind": "file"},
        sha256=new.sha256,
        samples=0,
        bad_lines=0,
        channels=[
            {"name": "echo", "unit": "µs", "quantity": "echo time", "sensor_id": new.sensor_id}
        ],
    )
    take.air = new.air
    recording = Recording(
        sensor_id=new.sensor_id,
        take=take,
        inputs=[RecordingInput(role="echo", lane=0, channel=0, form="time")],
    )
    session.add(recording)
    session.flush()
    writer = TakeWriter(session, take)
    bad_lines = 0
    for batch in read_echo_log(file, mapping, stop):
        writer.append(Block(batch.time_us, [Scaled(batch.echo_ns, 3)], [None]))
        writer.put_aside((bad.line, bad.text, bad.reason) for bad in batch.bad)
        bad_lines += len(batch.bad)
        note(batch.bytes_read, writer.samples, bad_lines)
    writer.flush()
    return recording


@dataclass(slots=True)
class ImportDesk:
    """The files on their way in. Those of an earlier run are swept away at the start."""

    folder: Path
    _imports: dict[str, FileReading] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def open(self) -> None:
        """Make the folder and clear what an earlier run left in it."""
        self.folder.mkdir(parents=True, exist_ok=True)
        for left in (*self.folder.glob("*.log"), *self.folder.glob("*.out")):
            left.unlink(missing_ok=True)

    def close(self) -> None:
        """Stop whatever is still being read; nothing half read is kept."""
        for log in list(self._imports.values()):
            log.finish()

    def new_path(self) -> Path:
        """Where the next file goes; the name is ours, never the person's."""
        return self.folder / f"{secrets.token_hex(8)}.log"

    def accept(self, path: Path, source_name: str, sha256: str, size: int) -> LogImport:
        """Take in a file that has arrived and look at its shape.

        Raises UnreadableLogError, after removing the file.
        """
        try:
            with path.open("rb") as file:
                preview = preview_log(file.read(HEAD_BYTES))
        except ValueError:
            path.unlink(missing_ok=True)
            raise
        log = LogImport(path.stem, path, source_name, sha256, size, preview=preview)
        self.hold(log)
        return log

    def hold(self, reading: FileReading) -> None:
        """Keep a file that has arrived; the oldest idle ones are forgotten when there are many."""
        with self._lock:
            self._imports[reading.key] = reading
            self._forget_oldest()

    def get(self, key: str) -> FileReading | None:
        """The file of this key, if there is one."""
        return self._imports.get(key)

    def _forget_oldest(self) -> None:
        idle = [log for log in self._imports.values() if log.state != "reading"]
        for log in idle[: max(0, len(self._imports) - MOST_WAITING)]:
            log.path.unlink(missing_ok=True)
            del self._imports[log.key]
