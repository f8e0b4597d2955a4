"""Writing takes chunk by chunk, reading them back whole or by window, closing what was cut."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from tickstone.core.blocks import Block, joined
from tickstone.core.signal import FloatArray, StatusArray
from tickstone.store.chunks import CHUNK_SAMPLES, IntArray, pack, pack_text, unpack, unpack_text
from tickstone.store.columns import (
    BUCKET_SAMPLES,
    Overview,
    overview_of,
    pack_column,
    pack_overview,
    unpack_column,
    unpack_overview,
)
from tickstone.store.models import BadLineChunk, Take, TakeChunk, TakeColumn

_BAD_LINES_PER_CHUNK = 2_000


@dataclass(slots=True)
class TakeWriter:
    """Appends samples and bad lines to one take, a full chunk at a time or when flushed.

    The take's totals follow with each write, so that what is committed is always in order.
    next_*: numbers of the next chunk and run of bad lines, to go on where another writer ended.
    """

    session: Session
    take: Take
    next_sequence: int = 0
    next_bad_sequence: int = 0
    _waiting: list[Block] = field(default_factory=list)
    _count: int = 0
    _bad: list[tuple[int, str, str]] = field(default_factory=list)

    @property
    def next_sequences(self) -> tuple[int, int]:
        """Numbers of the next chunk and the next run of bad lines."""
        return self.next_sequence, self.next_bad_sequence

    def sequences_in_store(self) -> tuple[int, int]:
        """The same numbers, as what is in the store has them follow."""
        return (
            self._next_in_store(TakeChunk.sequence, TakeChunk.take_id),
            self._next_in_store(BadLineChunk.sequence, BadLineChunk.take_id),
        )

    def _next_in_store(self, sequence: Any, take_id: Any) -> int:
        last = self.session.scalar(select(func.max(sequence)).where(take_id == self.take.id))
        return 0 if last is None else int(last) + 1

    @property
    def samples(self) -> int:
        """Samples so far, written or waiting."""
        return self.take.samples + self._count

    def append(self, block: Block) -> None:
        """Add samples."""
        if len(block):
            self._waiting.append(block)
            self._count += len(block)
        if self._count >= CHUNK_SAMPLES:
            self._write(everything=False)

    def put_aside(self, lines: Iterable[tuple[int, str, str]]) -> None:
        """Keep bad lines: (line number, text, reason)."""
        self._bad.extend(lines)
        while len(self._bad) >= _BAD_LINES_PER_CHUNK:
            self._write_bad(self._bad[:_BAD_LINES_PER_CHUNK])
            self._bad = self._bad[_BAD_LINES_PER_CHUNK:]

    def flush(self) -> None:
        """Write all that waits, as chunks that may be short."""
        self._write(everything=True)
        if self._bad:
            self._write_bad(self._bad)
            self._bad = []
        self.session.flush()

    def _write(self, everything: bool) -> None:
        if not self._waiting:
            return
        block = joined(self._waiting)
        whole = len(block) if everything else len(block) - len(block) % CHUNK_SAMPLES
        for first in range(0, whole, CHUNK_SAMPLES):
            part = block.between(first, min(first + CHUNK_SAMPLES, whole))
            write_chunk(self.session, self.take.id, self.next_sequence, part)
            self.next_sequence += 1
        if whole:
            if self.take.samples == 0:
                self.take.first_time_us = int(block.time_us[0])
            self.take.last_time_us = int(block.time_us[whole - 1])
            self.take.samples += whole
        rest = block.between(whole, len(block))
        self._count = len(rest)
        self._waiting = [rest] if self._count else []

    def _write_bad(self, lines: list[tuple[int, str, str]]) -> None:
        self.session.execute(
            insert(BadLineChunk),
            [
                {
                    "take_id": self.take.id,
                    "sequence": self.next_bad_sequence,
                    "first_index": self.take.bad_lines,
                    "lines": len(lines),
                    "body": pack_text(json.dumps(lines, ensure_ascii=False)),
                }
            ],
        )
        self.next_bad_sequence += 1
        self.take.bad_lines += len(lines)


def write_chunk(session: Session, take_id: int, sequence: int, block: Block) -> None:
    """One chunk with its columns and overviews."""
    session.execute(
        insert(TakeChunk),
        [
            {
                "take_id": take_id,
                "sequence": sequence,
                "samples": len(block),
                "first_time_us": int(block.time_us[0]),
                "last_time_us": int(block.time_us[-1]),
                "times": pack(block.time_us),
                "host_times": None if block.host_us is None else pack(block.host_us),
                "time_overview": pack(np.ascontiguousarray(block.time_us[::BUCKET_SAMPLES])),
            }
        ],
    )
    rows = [
        {
            "take_id": take_id,
            "channel": channel,
            "sequence": sequence,
            "body": pack_column(values, block.status[channel]),
            "overview": pack_overview(overview_of(values, block.status[channel])),
        }
        for channel, values in enumerate(block.values)
    ]
    if rows:
        session.execute(insert(TakeColumn), rows)


@dataclass(frozen=True, slots=True)
class Samples:
    """One channel over a window. time_us: µs of the take's clock."""

    time_us: IntArray
    values: FloatArray
    status: StatusArray


@dataclass(frozen=True, slots=True)
class Buckets:
    """The overview of one channel over a window. time_us: of the first sample of each bucket."""

    time_us: IntArray
    overview: Overview


def samples_between(session: Session, take_id: int, from_us: int, to_us: int) -> int:
    """About how many samples a window holds: those of all chunks it touches."""
    total = session.scalar(
        select(func.sum(TakeChunk.samples)).where(*_touching(take_id, from_us, to_us))
    )
    return int(total or 0)


def _touching(take_id: int, from_us: int, to_us: int):  # type: ignore[no-untyped-def]
    return (
        TakeChunk.take_id == take_id,
        TakeChunk.last_time_us >= from_us,
        TakeChunk.first_time_us <= to_us,
    )


def read_samples(
    session: Session, take_id: int, channel: int, from_us: int = -(2**62), to_us: int = 2**62
) -> Samples:
    """One channel's samples from `from_us` to `to_us`, both inclusive."""
    rows = session.execute(
        select(TakeChunk.times, TakeColumn.body)
        .join(
            TakeColumn,
            (TakeColumn.take_id == TakeChunk.take_id)
            & (TakeColumn.sequence == TakeChunk.sequence)
            & (TakeColumn.channel == channel),
        )
        .where(*_touching(take_id, from_us, to_us))
        .order_by(TakeChunk.sequence)
    ).all()
    times, values, statuses = [], [], []
    for packed_times, body in rows:
        time_us = unpack(packed_times)
        value, status = unpack_column(body)
        first = int(np.searchsorted(time_us, from_us, side="left"))
        last = int(np.searchsorted(time_us, to_us, side="right"))
        times.append(time_us[first:last])
        values.append(value[first:last])
        statuses.append(status[first:last])
    if not times:
        return Samples(np.empty(0, dtype=np.int64), np.empty(0), np.empty(0, dtype=np.uint8))
    return Samples(np.concatenate(times), np.concatenate(values), np.concatenate(statuses))


def read_buckets(
    session: Session, take_id: int, channel: int, from_us: int = -(2**62), to_us: int = 2**62
) -> Buckets:
    """One channel's overview of all chunks a window touches."""
    rows = session.execute(
        select(TakeChunk.time_overview, TakeColumn.overview, TakeChunk.sequence)
        .join(
            TakeColumn,
            (TakeColumn.take_id == TakeChunk.take_id)
            & (TakeColumn.sequence == TakeChunk.sequence)
            & (TakeColumn.channel == channel),
        )
        .where(*_touching(take_id, from_us, to_us))
        .order_by(TakeChunk.sequence)
    ).all()
    times, overviews = [], []
    for packed_times, packed, sequence in rows:
        if packed_times is None or packed is None:
            time_us, overview = _overview_from_body(session, take_id, channel, sequence)
        else:
            time_us, overview = unpack(packed_times), unpack_overview(packed)
        times.append(time_us)
        overviews.append(overview)
    if not times:
        empty = np.empty(0)
        return Buckets(np.empty(0, dtype=np.int64), Overview(empty, empty, empty))
    return Buckets(
        np.concatenate(times),
        Overview(
            np.concatenate([overview.lowest for overview in overviews]),
            np.concatenate([overview.highest for overview in overviews]),
            np.concatenate([overview.flagged for overview in overviews]),
        ),
    )


def _overview_from_body(
    session: Session, take_id: int, channel: int, sequence: int
) -> tuple[IntArray, Overview]:
    """For chunks written before there were overviews."""
    times, body = session.execute(
        select(TakeChunk.times, TakeColumn.body)
        .join(
            TakeColumn,
            (TakeColumn.take_id == TakeChunk.take_id)
            & (TakeColumn.sequence == TakeChunk.sequence)
            & (TakeColumn.channel == channel),
        )
        .where(TakeChunk.take_id == take_id, TakeChunk.sequence == sequence)
    ).one()
    values, status = unpack_column(body)
    return unpack(times)[::BUCKET_SAMPLES], overview_of(values, status)


def read_blocks(
    session: Session, take: Take, from_us: int = -(2**62), to_us: int = 2**62
) -> Iterator[Block]:
    """All channels, chunk by chunk, from `from_us` to `to_us`, both inclusive."""
    sequences = session.scalars(
        select(TakeChunk.sequence)
        .where(*_touching(take.id, from_us, to_us))
        .order_by(TakeChunk.sequence)
    ).all()
    for sequence in sequences:
        block = read_block(session, take.id, sequence)
        first = int(np.searchsorted(block.time_us, from_us, side="left"))
        last = int(np.searchsorted(block.time_us, to_us, side="right"))
        if last > first:
            yield block.between(first, last)


def read_block(session: Session, take_id: int, sequence: int) -> Block:
    """One chunk."""
    times, hosts = session.execute(
        select(TakeChunk.times, TakeChunk.host_times).where(
            TakeChunk.take_id == take_id, TakeChunk.sequence == sequence
        )
    ).one()
    bodies = session.scalars(
        select(TakeColumn.body)
        .where(TakeColumn.take_id == take_id, TakeColumn.sequence == sequence)
        .order_by(TakeColumn.channel)
    ).all()
    columns = [unpack_column(body) for body in bodies]
    return Block(
        unpack(times),
        [values for values, _ in columns],
        [status if status.any() else None for _, status in columns],
        None if hosts is None else unpack(hosts),
    )


def read_bad_lines(
    session: Session, take_id: int, first: int, count: int
) -> Iterator[tuple[int, str, str]]:
    """Bad lines number first, first + 1, … in the order they came."""
    chunks = session.execute(
        select(BadLineChunk.first_index, BadLineChunk.body)
        .where(
            BadLineChunk.take_id == take_id,
            BadLineChunk.first_index + BadLineChunk.lines > first,
            BadLineChunk.first_index < first + count,
        )
        .order_by(BadLineChunk.sequence)
    ).all()
    for first_index, body in chunks:
        for offset, (line, text, reason) in enumerate(json.loads(unpack_text(body))):
            if first <= first_index + offset < first + count:
                yield line, text, reason


def compact(session: Session, take: Take) -> None:
    """Put the short chunks of a live recording together into full ones. Nothing else changes."""
    sizes = session.execute(
        select(TakeChunk.sequence, TakeChunk.samples)
        .where(TakeChunk.take_id == take.id)
        .order_by(TakeChunk.sequence)
    ).all()
    group: list[int] = []
    total = 0
    for sequence, samples in sizes:
        if group and total + samples > CHUNK_SAMPLES:
            _merge(session, take.id, group)
            group, total = [], 0
        group.append(sequence)
        total += samples
    _merge(session, take.id, group)


def _merge(session: Session, take_id: int, sequences: Sequence[int]) -> None:
    if len(sequences) < 2:
        return
    block = joined([read_block(session, take_id, sequence) for sequence in sequences])
    session.execute(
        delete(TakeChunk).where(TakeChunk.take_id == take_id, TakeChunk.sequence.in_(sequences))
    )
    write_chunk(session, take_id, sequences[0], block)


def close_cut_takes(session: Session) -> list[Take]:
    """Close what an ended server left open: whole as far as it was committed, marked as cut.

    The caller commits, together with what else a closed take gets.
    """
    takes = list(session.scalars(select(Take).where(Take.state == "open")))
    for take in takes:
        samples, first, last = session.execute(
            select(
                func.coalesce(func.sum(TakeChunk.samples), 0),
                func.coalesce(func.min(TakeChunk.first_time_us), 0),
                func.coalesce(func.max(TakeChunk.last_time_us), 0),
            ).where(TakeChunk.take_id == take.id)
        ).one()
        take.samples, take.first_time_us, take.last_time_us = int(samples), int(first), int(last)
        take.state = "cut"
        compact(session, take)
    return takes
