"""Files that are read in the background: their state, how far they have come, stopping them."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from sqlalchemy import Engine
from sqlalchemy.orm import Session

State = Literal["waiting", "reading", "done", "failed", "cancelled"]


@dataclass(slots=True)
class FileReading:
    """One file on its way in. bytes_read of size tells the progress."""

    key: str
    path: Path
    source_name: str
    sha256: str
    size: int
    state: State = "waiting"
    bytes_read: int = 0
    samples: int = 0
    bad_lines: int = 0
    made_id: int | None = None
    problem: str = ""
    _stop: threading.Event = field(default_factory=threading.Event)
    _claim: threading.Lock = field(default_factory=threading.Lock)
    _thread: threading.Thread | None = None

    @property
    def is_stopped(self) -> bool:
        """Whether somebody asked to stop."""
        return self._stop.is_set()

    def claim(self) -> bool:
        """Take the file for reading; False when it is being read or is gone."""
        with self._claim:
            if self.state not in ("waiting", "failed"):
                return False
            self.state, self.problem = "reading", ""
            self.bytes_read = self.samples = self.bad_lines = 0
            return True

    def cancel(self) -> None:
        """Ask a reading to stop; nothing of it is kept."""
        self._stop.set()
        with self._claim:
            if self.state in ("waiting", "failed"):
                self.state = "cancelled"
                self.path.unlink(missing_ok=True)

    def finish(self) -> None:
        """Stop reading and wait until it has."""
        self.cancel()
        self.wait()

    def wait(self) -> None:
        """Wait until the reading has ended, one way or another."""
        if self._thread is not None:
            self._thread.join()

    def start(self, engine: Engine, read: Callable[[Session], int]) -> None:
        """Read in the background, in one transaction. read: makes the row and returns its id."""
        self._thread = threading.Thread(target=self._run, args=(engine, read), daemon=True)
        self._thread.start()

    def note(self, bytes_read: int, samples: int, bad_lines: int) -> None:
        """Tell how far it has come."""
        self.bytes_read, self.samples, self.bad_lines = bytes_read, samples, bad_lines

    def nothing_read(self) -> str:
        """What to say when no line of the file could be read."""
        return (
            f"No line of “{self.source_name}” could be read: all {self.bad_lines} were put aside. "
            "The file is still here."
        )

    def _run(self, engine: Engine, read: Callable[[Session], int]) -> None:
        try:
            with Session(engine) as session:
                made_id = read(session)
                if self._stop.is_set():
                    session.rollback()
                    self.state = "cancelled"
                elif self.samples == 0:
                    session.rollback()
                    self.problem = self.nothing_read()
                    self.state = "failed"
                else:
                    session.commit()
                    self.made_id = made_id
                    self.state = "done"
        except ValueError as error:
            self.problem = f"{error} Nothing of it was kept."
            self.state = "failed"
        except Exception as error:
            self.problem = f"Reading stopped: {type(error).__name__}. Nothing of it was kept."
            self.state = "failed"
            raise
        finally:
            if self.state in ("done", "cancelled"):
                self.path.unlink(missing_ok=True)
