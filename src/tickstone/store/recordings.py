"""Writing recordings chunk by chunk and reading them back as signals."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from tickstone.core.signal import Signal
from tickstone.store.chunks import CHUNK_SAMPLES, IntArray, pack, pack_text, unpack, unpack_text
from tickstone.store.models import BadLineChunk, Recording, RecordingChunk

_BAD_LINES_PER_CHUNK = 2_000


@dataclass(slots=True)
class RecordingWriter:
    """Appends raw readings and bad lines to one recording, a full chunk at a time."""

    session: Session
    recording: Recording
    samples: int = 0
    bad_lines: int = 0
    _sequence: int = 0
    _bad_sequence: int = 0
    _times: list[IntArray] = field(default_factory=list)
    _echoes: list[IntArray] = field(default_factory=list)
    _waiting: int = 0
    _bad: list[tuple[int, str, str]] = field(default_factory=list)
    _first_us: int | None = None
    _last_us: int = 0

    def append(self, time_us: IntArray, echo_ns: IntArray) -> None:
        """Add readings. time_us: µs; echo_ns: ns; same length."""
        if len(time_us) == 0:
            return
        if self._first_us is None:
            self._first_us = int(time_us[0])
        self._last_us = int(time_us[-1])
        self._times.append(time_us)
        self._echoes.append(echo_ns)
        self._waiting += len(time_us)
        self.samples += len(time_us)
        if self._waiting >= CHUNK_SAMPLES:
            self._write(everything=False)

    def put_aside(self, lines: Iterable[tuple[int, str, str]]) -> None:
        """Keep bad lines: (line number, text, reason)."""
        self._bad.extend(lines)
        while len(self._bad) >= _BAD_LINES_PER_CHUNK:
            self._write_bad(self._bad[:_BAD_LINES_PER_CHUNK])
            self._bad = self._bad[_BAD_LINES_PER_CHUNK:]

    def close(self) -> None:
        """Write what is left and the totals."""
        self._write(everything=True)
        if self._bad:
            self._write_bad(self._bad)
            self._bad = []
        self.recording.samples = self.samples
        self.recording.bad_lines = self.bad_lines
        self.recording.first_time_us = self._first_us or 0
        self.recording.last_time_us = self._last_us
        self.session.flush()

    def _write(self, everything: bool) -> None:
        if not self._times:
            return
        times, echoes = np.concatenate(self._times), np.concatenate(self._echoes)
        whole = len(times) if everything else len(times) - len(times) % CHUNK_SAMPLES
        rows = []
        for first in range(0, whole, CHUNK_SAMPLES):
            part = slice(first, min(first + CHUNK_SAMPLES, whole))
            rows.append(
                {
                    "recording_id": self.recording.id,
                    "sequence": self._sequence,
                    "samples": len(times[part]),
                    "first_time_us": int(times[part][0]),
                    "last_time_us": int(times[part][-1]),
                    "times": pack(times[part]),
                    "echoes": pack(echoes[part]),
                }
            )
            self._sequence += 1
        if rows:
            self.session.execute(insert(RecordingChunk), rows)
        self._times, self._echoes = [times[whole:]], [echoes[whole:]]
        self._waiting = len(times) - whole
        if not self._waiting:
            self._times, self._echoes = [], []

    def _write_bad(self, lines: list[tuple[int, str, str]]) -> None:
        self.session.execute(
            insert(BadLineChunk),
            [
                {
                    "recording_id": self.recording.id,
                    "sequence": self._bad_sequence,
                    "first_index": self.bad_lines,
                    "lines": len(lines),
                    "body": pack_text(json.dumps(lines, ensure_ascii=False)),
                }
            ],
        )
        self._bad_sequence += 1
        self.bad_lines += len(lines)


def read_echo_signal(session: Session, recording: Recording) -> Signal:
    """The recording's raw echoes: times in s from its first reading, values in µs."""
    chunks = session.execute(
        select(RecordingChunk.times, RecordingChunk.echoes)
        .where(RecordingChunk.recording_id == recording.id)
        .order_by(RecordingChunk.sequence)
    ).all()
    times = np.empty(recording.samples, dtype=np.float64)
    echoes = np.empty(recording.samples, dtype=np.float64)
    place = 0
    for packed_times, packed_echoes in chunks:
        time_us = unpack(packed_times)
        part = slice(place, place + len(time_us))
        times[part] = (time_us - recording.first_time_us) / 1e6
        echoes[part] = unpack(packed_echoes) / 1e3
        place += len(time_us)
    return Signal.of(times[:place], echoes[:place], "µs")


def read_bad_lines(
    session: Session, recording_id: int, first: int, count: int
) -> Iterator[tuple[int, str, str]]:
    """Bad lines number first, first + 1, … in the order of the file."""
    chunks = session.execute(
        select(BadLineChunk.first_index, BadLineChunk.body)
        .where(
            BadLineChunk.recording_id == recording_id,
            BadLineChunk.first_index + BadLineChunk.lines > first,
            BadLineChunk.first_index < first + count,
        )
        .order_by(BadLineChunk.sequence)
    ).all()
    for first_index, body in chunks:
        for offset, (line, text, reason) in enumerate(json.loads(unpack_text(body))):
            if first <= first_index + offset < first + count:
                yield line, text, reason
