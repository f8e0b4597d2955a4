"""Appends a line to the store at least once a second, in a thread of its own.

When the database is away it keeps what arrives and tries again, so that only the server's own death
can lose anything, and then no more than what came since the last write.

What is written at once is an *attempt*, with a number. The take holds the number of the attempt
that was committed last, in the same transaction; so after a commit whose answer never came the take
itself says whether it happened, and nothing is written twice or forgotten unwritten.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Event, Lock, Thread

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from tickstone.core.blocks import Block
from tickstone.store.database import is_disk_full
from tickstone.store.models import Take
from tickstone.store.takes import TakeWriter, compact

WRITE_EVERY_S = 0.4
_GIVE_UP_AFTER_S = 45.0


@dataclass(frozen=True, slots=True)
class _Attempt:
    """What is written in one transaction, or tried again as it is. number: counted from 1."""

    number: int
    blocks: tuple[Block, ...]
    bad: tuple[tuple[int, str, str], ...]
    gaps: tuple[dict[str, object], ...]
    is_last: bool


@dataclass(slots=True)
class Recorder:
    """One take while it is recorded.

    started_at_us: where it begins on the line's axis. jitter_us: asked at each write how unevenly
    lines arrive. when_whole: called with the session of the last write once the take is complete.
    when_put_together: called once its chunks are full ones.
    """

    engine: Engine
    take_id: int
    name: str
    started_at_us: int
    jitter_us: Callable[[], float | None] = lambda: None
    when_whole: Callable[[Session, Take], None] = lambda *_: None
    when_put_together: Callable[[Session, Take], None] = lambda *_: None
    samples: int = 0
    written_samples: int = 0
    bad_lines: int = 0
    trouble: str = ""
    is_done: bool = False
    _blocks: list[Block] = field(default_factory=list)
    _bad: list[tuple[int, str, str]] = field(default_factory=list)
    _gaps: list[dict[str, object]] = field(default_factory=list)
    _sequences: tuple[int, int] = (0, 0)
    _attempt: _Attempt | None = None
    _attempts: int = 0
    _lock: Lock = field(default_factory=Lock)
    _stop: Event = field(default_factory=Event)
    _thread: Thread | None = None

    def start(self) -> None:
        """Begin to write."""
        self._thread = Thread(target=self._run, name=f"recorder {self.take_id}", daemon=True)
        self._thread.start()

    def append(self, block: Block) -> None:
        """Take in samples; returns at once."""
        with self._lock:
            if not self.samples and len(block):
                self.started_at_us = int(block.time_us[0])
            self._blocks.append(block)
            self.samples += len(block)

    def put_aside(self, lines: list[tuple[int, str, str]]) -> None:
        """Take in lines that did not fit."""
        with self._lock:
            self._bad.extend(lines)
            self.bad_lines += len(lines)

    def note_gap(self, from_us: int, to_us: int, why: str) -> None:
        """A stretch in which nothing could arrive, µs of the take's clock."""
        with self._lock:
            self._gaps.append({"from_us": from_us, "to_us": to_us, "why": why})

    def stop(self) -> None:
        """Write what is left and close the take. Returns when it is closed or cannot be."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=60.0)

    def write(self, is_last: bool = False) -> bool:
        """Write all that waits; false when the store is away, and then it waits on.

        Called by the recorder's own thread. is_last: close the take with it.
        """
        while True:
            if self._attempt is None:
                self._attempt = self._next_attempt(is_last)
                if self._attempt is None:
                    return True
            attempt = self._attempt
            try:
                self._commit(attempt)
            except Exception as error:  # whatever it is, what arrived stays and is tried again
                self.trouble = _words_for(error)
                return False
            self.trouble = ""
            self._forget(attempt)
            self._attempt = None
            if attempt.is_last or not is_last:
                return True

    def _run(self) -> None:
        # From begin to begin, so that a slow disk does not add its time to what a kill costs.
        next_at = time.monotonic() + WRITE_EVERY_S
        while not self._stop.wait(max(0.0, next_at - time.monotonic())):
            next_at = time.monotonic() + WRITE_EVERY_S
            self.write()
        give_up_at = time.monotonic() + _GIVE_UP_AFTER_S
        while not self.write(is_last=True):
            if time.monotonic() > give_up_at:
                return
            time.sleep(WRITE_EVERY_S)
        self._finish()

    def _next_attempt(self, is_last: bool) -> _Attempt | None:
        with self._lock:
            if not (self._blocks or self._bad or self._gaps or is_last):
                return None
            self._attempts += 1
            return _Attempt(
                self._attempts, tuple(self._blocks), tuple(self._bad), tuple(self._gaps), is_last
            )

    def _commit(self, attempt: _Attempt) -> None:
        """Write an attempt unless the take says that it is there already."""
        with Session(self.engine) as session:
            # Waits for an earlier transaction of ours that has not ended yet.
            take = session.get_one(Take, self.take_id, with_for_update=True)
            writer = TakeWriter(session, take, *self._sequences)
            if take.attempts < attempt.number:
                for block in attempt.blocks:
                    writer.append(block)
                writer.put_aside(attempt.bad)
                writer.flush()
                take.gaps = [*take.gaps, *attempt.gaps]
                take.jitter_us = self.jitter_us()
                take.attempts = attempt.number
                if attempt.is_last:
                    take.state = "whole"
                    self.when_whole(session, take)
                session.flush()
                sequences = writer.next_sequences
            else:
                sequences = writer.sequences_in_store()
            written = take.samples
            session.commit()
        # From here on nothing is asked of the store: the attempt is kept, whatever happens now.
        self._sequences = sequences
        self.written_samples = written

    def _forget(self, attempt: _Attempt) -> None:
        with self._lock:
            del self._blocks[: len(attempt.blocks)]
            del self._bad[: len(attempt.bad)]
            del self._gaps[: len(attempt.gaps)]

    def _finish(self) -> None:
        """Put the short chunks together; when that fails the take is whole all the same."""
        try:
            with Session(self.engine) as session:
                take = session.get_one(Take, self.take_id)
                compact(session, take)
                session.commit()
                self.when_put_together(session, take)
                session.commit()
        except (SQLAlchemyError, OSError):
            pass
        finally:
            self.is_done = True


def _words_for(error: Exception) -> str:
    if is_disk_full(error):
        return "The disk is full: make room. What arrives is kept here and written when there is."
    why = type(error).__name__
    if isinstance(error, SQLAlchemyError | OSError):
        return (
            "The database cannot be reached; what arrives is kept here and written when it is back "
            f"({why})."
        )
    return f"What arrives could not be written ({why}: {error!s:.80}); it is kept and tried again."
