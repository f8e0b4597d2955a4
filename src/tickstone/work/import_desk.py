"""The files that have arrived and wait to be read, or are being read."""

from __future__ import annotations

import secrets
import threading
from dataclasses import dataclass, field
from pathlib import Path

from tickstone.work.background import FileReading

MOST_UPLOAD_BYTES = 1024 * 1024 * 1024
MOST_WAITING = 20


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
