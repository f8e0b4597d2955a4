"""Appends a line to the store at least once a second, in a thread of its own.

When the database is away it keeps what arrives and tries again, so that only the server's own death
can lose anything, and then no more than what came since the last write.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Event, Lock, Thread

from sqlalchemy import Engine, func, select
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from tickstone.core.blocks import Block
from tickstone.store.models import BadLineChunk, Take, TakeChunk
from tickstone.store.takes import TakeWriter, compact

WRITE_EVERY_S = 0.5


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
    _sequence: int = 0
    _bad_sequence: int = 0
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

    def _run(self) -> None:
        while not self._stop.wait(WRITE_EVERY_S):
            self._try_to_write()
        give_up_at = time.monotonic() + 45.0
        while not self._try_to_write(is_last=True) and time.monotonic() < give_up_at:
            time.sleep(WRITE_EVERY_S)

    def _try_to_write(self, is_last: bool = False) -> bool:
        with self._lock:
            blocks, bad, gaps = list(self._blocks), list(self._bad), list(self._gaps)
        if not blocks and not bad and not gaps and not is_last:
            return True
        try:
            with Session(self.engine) as session:
                if self.trouble and self._is_written_already(session):
                    self._forget(blocks, bad, gaps)
                    self.trouble = ""
                    return self._try_to_write(is_last)
                self._write(session, blocks, bad, gaps, is_last)
        except (OperationalError, DBAPIError, OSError) as error:
            self.trouble = (
                "The database cannot be reached; what arrives is kept here and written when it "
                f"is back ({type(error).__name__})."
            )
            return False
        self.trouble = ""
        self._forget(blocks, bad, gaps)
        if is_last:
            self._finish()
        return True

    def _write(
        self,
        session: Session,
        blocks: list[Block],
        bad: list[tuple[int, str, str]],
        gaps: list[dict[str, object]],
        is_last: bool,
    ) -> None:
        take = session.get_one(Take, self.take_id)
        writer = TakeWriter(session, take, self._sequence, self._bad_sequence)
        for block in blocks:
            writer.append(block)
        writer.put_aside(bad)
        writer.flush()
        if gaps:
            take.gaps = [*take.gaps, *gaps]
        take.jitter_us = self.jitter_us()
        if is_last:
            take.state = "whole"
            self.when_whole(session, take)
        session.commit()
        self._sequence, self._bad_sequence = writer.next_sequences
        self.written_samples = take.samples

    def _is_written_already(self, session: Session) -> bool:
        """Whether a write whose end was never heard of did arrive."""
        last = session.scalar(
            select(func.max(TakeChunk.sequence)).where(TakeChunk.take_id == self.take_id)
        )
        last_bad = session.scalar(
            select(func.max(BadLineChunk.sequence)).where(BadLineChunk.take_id == self.take_id)
        )
        sequence = -1 if last is None else int(last)
        bad_sequence = -1 if last_bad is None else int(last_bad)
        written = sequence >= self._sequence or bad_sequence >= self._bad_sequence
        if written:
            self._sequence, self._bad_sequence = sequence + 1, bad_sequence + 1
        return written

    def _forget(
        self,
        blocks: list[Block],
        bad: list[tuple[int, str, str]],
        gaps: list[dict[str, object]],
    ) -> None:
        with self._lock:
            del self._blocks[: len(blocks)]
            del self._bad[: len(bad)]
            del self._gaps[: len(gaps)]

    def _finish(self) -> None:
        """Put the short chunks together; when that fails the take is whole all the same."""
        try:
            with Session(self.engine) as session:
                take = session.get_one(Take, self.take_id)
                compact(session, take)
                session.commit()
                self.when_put_together(session, take)
                session.commit()
        except (OperationalError, DBAPIError, OSError):
            pass
        finally:
            self.is_done = True
