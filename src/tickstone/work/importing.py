"""Bringing a log in: a file on disk, a look at its shape, then a recording, all or nothing."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO, Literal

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.blocks import Block, Scaled
from tickstone.formats.echo_log import EchoMapping, read_echo_log
from tickstone.formats.log_shape import HEAD_BYTES, LogPreview, preview_log
from tickstone.store.models import Recording, Sensor, Take
from tickstone.store.takes import TakeWriter

MOST_UPLOAD_BYTES = 1024 * 1024 * 1024
MOST_WAITING = 20

State = Literal["waiting", "reading", "done", "failed", "cancelled"]


@dataclass(frozen=True, slots=True)
class NewRecording:
    """What the recording is to be called, the air it was taken in, and the file it comes from."""

    sensor_id: int
    name: str
    air: AirConditions
    source_name: str
    sha256: str


@dataclass(slots=True)
class LogImport:
    """One file on its way in. bytes_read of size tells the progress."""

    key: str
    path: Path
    source_name: str
    sha256: str
    size: int
    preview: LogPreview
    state: State = "waiting"
    bytes_read: int = 0
    samples: int = 0
    bad_lines: int = 0
    recording_id: int | None = None
    problem: str = ""
    _stop: threading.Event = field(default_factory=threading.Event)
    _claim: threading.Lock = field(default_factory=threading.Lock)
    _thread: threading.Thread | None = None

    def look_again(self, separator: str | None, decimal: str | None) -> None:
        """Read the first rows again with what the person settled."""
        with self.path.open("rb") as file:
            self.preview = preview_log(file.read(HEAD_BYTES), separator, decimal)

    def claim(self) -> bool:
        """Take the file for reading; False when it is being read or is gone."""
        with self._claim:
            if self.state not in ("waiting", "failed"):
                return False
            self.state, self.problem = "reading", ""
            self.bytes_read = self.samples = self.bad_lines = 0
            return True

    def cancel(self) -> None:
        """Ask a reading import to stop; nothing of it is kept."""
        self._stop.set()
        with self._claim:
            if self.state in ("waiting", "failed"):
                self.state = "cancelled"
                self.path.unlink(missing_ok=True)

    def start(self, engine: Engine, mapping: EchoMapping, new: NewRecording) -> None:
        """Read the file in the background."""
        self._thread = threading.Thread(target=self._run, args=(engine, mapping, new), daemon=True)
        self._thread.start()

    def finish(self) -> None:
        """Stop a reading import and wait until it has."""
        self.cancel()
        self.wait()

    def wait(self) -> None:
        """Wait until the reading has ended, one way or another."""
        if self._thread is not None:
            self._thread.join()

    def _run(self, engine: Engine, mapping: EchoMapping, new: NewRecording) -> None:
        """Read the file into a recording, in one transaction."""
        try:
            with Session(engine) as session:
                with self.path.open("rb") as file:
                    recording = read_into(
                        session, file, mapping, new, self._stop.is_set, self._note
                    )
                if self._stop.is_set():
                    session.rollback()
                    self.state = "cancelled"
                elif self.samples == 0:
                    session.rollback()
                    self.problem = _nothing_read(self)
                    self.state = "failed"
                else:
                    recording_id = recording.id
                    session.commit()
                    self.recording_id = recording_id
                    self.state = "done"
        except Exception as error:
            self.problem = f"Reading stopped: {type(error).__name__}. Nothing of it was kept."
            self.state = "failed"
            raise
        finally:
            if self.state in ("done", "cancelled"):
                self.path.unlink(missing_ok=True)

    def _note(self, bytes_read: int, samples: int, bad_lines: int) -> None:
        self.bytes_read, self.samples, self.bad_lines = bytes_read, samples, bad_lines


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
    recording = Recording(sensor_id=new.sensor_id, take=take, channel=0)
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


def _nothing_read(log: LogImport) -> str:
    return (
        f"No line of “{log.source_name}” could be read this way: all {log.bad_lines} were put "
        "aside. Check the separator, the decimal mark and the columns. The file is still here."
    )


@dataclass(slots=True)
class ImportDesk:
    """The files on their way in. Those of an earlier run are swept away at the start."""

    folder: Path
    _imports: dict[str, LogImport] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def open(self) -> None:
        """Make the folder and clear what an earlier run left in it."""
        self.folder.mkdir(parents=True, exist_ok=True)
        for left in self.folder.glob("*.log"):
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
        log = LogImport(path.stem, path, source_name, sha256, size, preview)
        with self._lock:
            self._imports[log.key] = log
            self._forget_oldest()
        return log

    def get(self, key: str) -> LogImport | None:
        """The import of this key, if there is one."""
        return self._imports.get(key)

    def _forget_oldest(self) -> None:
        idle = [log for log in self._imports.values() if log.state != "reading"]
        for log in idle[: max(0, len(self._imports) - MOST_WAITING)]:
            log.path.unlink(missing_ok=True)
            del self._imports[log.key]
