"""Any log with numbers in it: preambles, comments, units in headers, counters, clocks, torn lines.

The shape is learnt as from a live line. Blocks whose every line is plain are read at once by Arrow;
the rest line by line, with what does not fit put aside.
"""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
from pyarrow import csv as pa_csv

from tickstone.core.blocks import Block, IntArray
from tickstone.core.lines.clock import MOST_US, BoardClock
from tickstone.core.lines.counting import COUNTER_NAME
from tickstone.core.lines.guess import guess_quantity, time_unit_of
from tickstone.core.lines.names import TIME_UNITS_US, known_unit
from tickstone.core.lines.reader import LineReader
from tickstone.core.lines.shape import LineShape, learn_shape
from tickstone.core.lines.splitter import LineSplitter
from tickstone.core.lines.tokens import COMMENT, SEPARATORS, Manner
from tickstone.core.signal import FloatArray, StatusArray
from tickstone.core.status import Status
from tickstone.formats.takes.first_lines import first_lines
from tickstone.formats.takes.header import (
    ChannelInfo,
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
)

BLOCK_BYTES = 2 * 1024 * 1024
HEAD_BYTES = 256 * 1024
_FEW_BYTES = 4 * 1024
_LEARN_FROM_LINES = 300
_RATE = re.compile(
    r"(?:sampl\w*\s*|data\s*|log\w*\s*|update\s*|output\s*)?(?:rate|freq\w*|fs|f_s|odr)\b"
    r"[^\d\n]{0,20}?(\d+(?:[.,]\d+)?)\s*(k?hz|sps|samples?\s*(?:/|per)\s*s\w*|/\s*s|per second)?",
    re.IGNORECASE,
)
_INTERVAL = re.compile(
    r"(?:interval|period|step|dt|delta\s*t|Δt|time\s*base|sample\s*time)\b[^\d\n]{0,20}?"
    r"(\d+(?:[.,]\d+)?(?:e[+-]?\d+)?)\s*(ns|us|µs|μs|ms|s|sec\w*|millis\w*|micros\w*)?\b",
    re.IGNORECASE,
)


def is_text(head: bytes) -> bool:
    """Whether bytes can be a log: no zero bytes, and hardly any that no text holds."""
    if b"\0" in head:
        return False
    odd = sum(byte < 9 or 13 < byte < 27 or 27 < byte < 32 for byte in head[:8_192])
    return odd <= 0.02 * min(len(head), 8_192)


@dataclass(frozen=True, slots=True)
class _Found:
    """What the head of a log tells."""

    shape: LineShape
    counter: int | None
    interval_us: float | None
    first_data_line: int
    notes: list[str]


def read_text_log(path: Path, read_as: ReadAs, skip_bytes: int = 0) -> TakeReading:
    """Open a log. read_as: what a person says of it.

    Raises UnreadableFileError when it has no lines with numbers in common.
    """
    with path.open("rb") as file:
        file.seek(skip_bytes)
        head = file.read(HEAD_BYTES)
    found = _look_at(head, read_as)
    shape = found.shape
    channels = tuple(
        ChannelInfo(column.name, column.unit, column.quantity)
        for column in (shape.columns[index] for index in _channels(found))
    )
    reading = TakeReading(
        format_name="csv" if shape.manner.kind == "separated" else "text",
        header=TakeHeader(path.stem, channels),
        blocks=iter(()),
        notes=found.notes,
    )
    if shape.time is not None:
        reading.time_column = shape.columns[shape.time].name
        reading.time_unit = shape.time_unit
    elif found.counter is not None:
        reading.time_column, reading.time_unit = shape.columns[found.counter].name, "samples"
    if found.interval_us is not None:
        reading.rate_hz = 1e6 / found.interval_us
    reading.asks_rate = shape.time is None and found.interval_us is None
    reading.manner = shape.manner
    reading.first_lines = first_lines(head, shape, _channels(found))
    position = [0]
    reading.bytes_read = lambda: position[0]
    reading.blocks = _blocks(path, skip_bytes, found, reading, position)
    return reading


def _channels(found: _Found) -> list[int]:
    return [index for index in found.shape.channels if index != found.counter]


def _look_at(head: bytes, read_as: ReadAs) -> _Found:
    lines = [line.text for line in LineSplitter().feed(head.removeprefix(b"\xef\xbb\xbf"), 0)]
    if not lines:
        lines = [head.decode("utf-8", errors="replace")]
    sample = lines[:_LEARN_FROM_LINES]
    manner = _said_manner(read_as, sample)
    shape = learn_shape([line for line in sample if not _is_plain_comment(line)], manner)
    if shape is None:
        shape = learn_shape(lines[-_LEARN_FROM_LINES:], manner)
    if shape is None:
        raise UnreadableFileError(
            "No line of the file holds numbers in a way Tick Stone understands. It reads values "
            "separated by commas, tabs, semicolons or blanks, labels with values, and JSON lines."
        )
    header_at = next((n for n, line in enumerate(sample) if line == shape.header), -1)
    if not shape.header:
        shape = _with_commented_header(shape, sample)
    shape = _with_said_time(shape, read_as)
    interval = _stated_interval(sample[: max(header_at + 1, 40)])
    notes = []
    counter = None
    if shape.time is None:
        counter = _counter_among(shape, sample) if read_as.time is None else None
        if read_as.rate_hz is not None:
            interval = 1e6 / read_as.rate_hz
        elif interval is not None:
            notes.append(f"The preamble says one row every {interval:g} µs.")
    return _Found(shape, counter, interval if shape.time is None else None, header_at, notes)


def _said_manner(read_as: ReadAs, lines: list[str]) -> Manner | None:
    """How the person says lines are taken apart; None when nothing is said."""
    if not read_as.separator and not read_as.decimal:
        return None
    found = learn_shape(lines)
    separator = read_as.separator or (found.manner.separator if found else "") or "comma"
    decimal = read_as.decimal or (found.manner.decimal if found else "point")
    if separator not in SEPARATORS or decimal not in ("point", "comma"):
        raise UnreadableFileError(f"There is no separator “{separator}” with a {decimal}.")
    if separator == decimal == "comma":
        raise UnreadableFileError("A comma cannot both separate values and stand in them.")
    return Manner("separated", separator, decimal)


def _with_said_time(shape: LineShape, read_as: ReadAs) -> LineShape:
    """The shape with the column of times that the person names, or none."""
    if read_as.time_unit and read_as.time_unit not in TIME_UNITS_US:
        raise UnreadableFileError(f"There is no unit of time “{read_as.time_unit[:20]}”.")
    if read_as.time is None:
        if read_as.time_unit and shape.time is not None:
            return replace(shape, time_unit=read_as.time_unit)
        return shape
    columns = list(shape.columns)
    if shape.time is not None:
        before = columns[shape.time]
        columns[shape.time] = replace(before, quantity=guess_quantity(before.name, before.unit, ()))
    if not read_as.time:
        return replace(shape, columns=tuple(columns), time=None)
    place = next((n for n, one in enumerate(columns) if one.name == read_as.time), None)
    if place is None:
        names = ", ".join(one.name for one in columns)
        raise UnreadableFileError(f"There is no column “{read_as.time[:60]}”; there are {names}.")
    unit = read_as.time_unit or time_unit_of(columns[place].name, columns[place].unit, ())
    columns[place] = replace(columns[place], quantity="time", is_used=True)
    return replace(shape, columns=tuple(columns), time=place, time_unit=unit)


def _is_plain_comment(line: str) -> bool:
    """A remark rather than a header behind a comment mark: it has words and is no list of them."""
    return bool(COMMENT.match(line)) and not any(mark in line for mark in ",;\t|")


def _with_commented_header(shape: LineShape, lines: list[str]) -> LineShape:
    """Names from a comment that lists as many words as there are columns."""
    width = len(shape.columns)
    for line in lines:
        if not COMMENT.match(line):
            continue
        words = re.split(r"[,;\t|]|\s{2,}", COMMENT.sub("", line).strip())
        if len(words) != width:
            words = COMMENT.sub("", line).split()
        if len(words) == width and all(re.search(r"[^\W\d]", word) for word in words):
            return (
                learn_shape([SEPARATORS.get(shape.manner.separator, " ").join(words), *lines])
                or shape
            )
    return shape


def _stated_interval(lines: list[str]) -> float | None:
    """µs from one row to the next, as the preamble says it."""
    for line in lines:
        match = _RATE.search(line)
        if match and (match[2] or ":" in line or "=" in line):
            rate = float(match[1].replace(",", "."))
            rate *= 1e3 if (match[2] or "").lower().startswith("k") else 1.0
            if 0 < rate <= 1e7:
                return 1e6 / rate
        match = _INTERVAL.search(line)
        if match and match[2]:
            unit = known_unit(match[2]) or "s"
            interval = float(match[1].replace(",", ".")) * TIME_UNITS_US.get(unit, 1e6)
            if interval > 0:
                return interval
    return None


def _counter_among(shape: LineShape, lines: list[str]) -> int | None:
    """A column that counts rows: named like one, or the first one and rising by one each time."""
    reader = LineReader(shape, learns_again=False)
    splitter = LineSplitter()
    rows, _ = reader.feed(splitter.feed("\n".join(lines).encode() + b"\n", 0))
    if len(rows) < 3:
        return None
    for place, index in enumerate(shape.channels):
        values = [row.values[place] for row in rows]
        steps = np.diff(values)
        counts = bool(np.mean(steps == 1.0) > 0.9)
        if counts and (index == 0 or COUNTER_NAME.match(shape.columns[index].name)):
            return index
    return None


def _blocks(
    path: Path, skip_bytes: int, found: _Found, reading: TakeReading, position: list[int]
) -> Iterator[Block]:
    state = _State(found)
    with path.open("rb") as file:
        file.seek(skip_bytes)
        carry = b""
        while data := file.read(BLOCK_BYTES):
            position[0] += len(data)
            if not carry and position[0] == len(data):
                data = data.removeprefix(b"\xef\xbb\xbf")
            data = carry + data
            cut = max(data.rfind(b"\n"), data.rfind(b"\r", 0, len(data) - 1)) + 1
            if cut == 0 and len(data) < 4 * BLOCK_BYTES:
                carry = data
                continue
            cut = cut or len(data)
            carry = data[cut:]
            yield from _read_block(data[:cut], state, reading)
        if carry:
            yield from _read_block(carry + b"\n", state, reading)


@dataclass(slots=True)
class _State:
    """Where the reading stands."""

    found: _Found
    reader: LineReader
    splitter: LineSplitter
    rows: int = 0
    last_counter: float | None = None
    counter_base: float = 0.0
    last_us: int = 0

    def __init__(self, found: _Found) -> None:
        self.found = found
        self.reader = LineReader(found.shape, learns_again=False)
        if found.shape.time is not None:
            self.reader.clock = BoardClock(found.shape.time_unit)
        self.splitter = LineSplitter()
        self.rows = 0
        self.last_counter = None
        self.counter_base = 0.0
        self.last_us = 0


def _read_block(data: bytes, state: _State, reading: TakeReading) -> Iterator[Block]:
    quick = _read_at_once(data, state)
    if quick is not None:
        yield quick
        return
    cut = data.find(b"\n", len(data) // 2) + 1 if len(data) > _FEW_BYTES else 0
    if 0 < cut < len(data):
        # What is no plain row is somewhere in it: most of it is read at once all the same.
        yield from _read_block(data[:cut], state, reading)
        yield from _read_block(data[cut:], state, reading)
        return
    yield from _read_lines(data, state, reading)


def _read_lines(data: bytes, state: _State, reading: TakeReading) -> Iterator[Block]:
    rows, judged = state.reader.feed(state.splitter.feed(data, state.last_us))
    for line in judged:
        # A line that was read but holds something that is no number is told of as well.
        if line.verdict in ("bad", "read in part"):
            reading.put_aside(line.number, line.text, line.reason)
    if not rows:
        return
    shape, counter = state.found.shape, state.found.counter
    places = [place for place, index in enumerate(shape.channels) if index != counter]
    values = np.array([row.values for row in rows], dtype=np.float64).reshape(len(rows), -1)
    status = np.zeros(values.shape, dtype=np.uint8)
    for n, row in enumerate(rows):
        if row.statuses is not None:
            status[n] = row.statuses
    if shape.time is not None:
        time_us = np.array([row.time_us for row in rows], dtype=np.int64)
        time_us = np.maximum.accumulate(np.maximum(time_us, state.last_us))
    else:
        at = None if counter is None else values[:, shape.channels.index(counter)]
        time_us = _counted(at, len(rows), state)
    state.rows += len(rows)
    state.last_us = int(time_us[-1])
    yield Block(
        time_us,
        [np.ascontiguousarray(values[:, place]) for place in places],
        [status[:, place].copy() if status[:, place].any() else None for place in places],
    )


def _counted(counter: FloatArray | None, count: int, state: _State) -> IntArray:
    """Times of rows that carry a running number, or none: the number times the interval."""
    # Without a rate the rows are only counted, one a second.
    interval_us = state.found.interval_us or 1e6
    if counter is None:
        numbers = state.rows + np.arange(count, dtype=np.float64)
    else:
        numbers = counter.copy()
        if state.last_counter is None:
            state.counter_base = -float(np.nan_to_num(numbers[0]))
        before = np.concatenate(([state.last_counter or numbers[0]], numbers[:-1]))
        for n in np.flatnonzero(numbers < before).tolist():
            # The counter fell: it wrapped or the board restarted; the rows go on one by one.
            numbers[n:] += before[n] + 1 - numbers[n]
            before[n + 1 :] = numbers[n:-1]
        state.last_counter = float(numbers[-1])
        numbers = numbers + state.counter_base
    most = MOST_US / interval_us
    times = np.rint(np.clip(np.nan_to_num(numbers), -most, most) * interval_us).astype(np.int64)
    return np.maximum.accumulate(np.maximum(times, state.last_us))


def _read_at_once(data: bytes, state: _State) -> Block | None:
    """A block of nothing but plain rows; None when anything in it is not."""
    shape = state.found.shape
    manner = shape.manner
    if manner.kind != "separated" or manner.separator == "space" or manner.bare_hex:
        return None
    if b'"' in data or b"#" in data or not all(column.is_used for column in shape.columns):
        return None
    names = [str(n) for n in range(len(shape.columns))]
    try:
        table = pa_csv.read_csv(
            io.BytesIO(data),
            read_options=pa_csv.ReadOptions(
                column_names=names, block_size=len(data) + 1, use_threads=False
            ),
            parse_options=pa_csv.ParseOptions(
                delimiter=SEPARATORS[manner.separator], quote_char=False, ignore_empty_lines=False
            ),
            convert_options=pa_csv.ConvertOptions(
                column_types={name: pa.float64() for name in names},
                decimal_point="," if manner.decimal == "comma" else ".",
                null_values=[""],
                strings_can_be_null=True,
            ),
        )
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError):
        return None
    columns = [table.column(name) for name in names]
    arrays = [column.to_numpy(zero_copy_only=False) for column in columns]
    time_us = _times_at_once(arrays, columns, state)
    if time_us is None:
        return None
    values: list[FloatArray] = []
    statuses: list[StatusArray | None] = []
    for index in _channels(state.found):
        array = arrays[index]
        status = _statuses(array, columns[index])
        if status is not None:
            array = np.where(status == Status.OK, array, np.nan)
        values.append(np.ascontiguousarray(array))
        statuses.append(status)
    state.rows += len(time_us)
    state.splitter.lines += len(time_us)
    state.last_us = int(time_us[-1]) if len(time_us) else state.last_us
    return Block(time_us, values, statuses)


def _statuses(array: FloatArray, column: pa.ChunkedArray[Any]) -> StatusArray | None:
    odd = ~np.isfinite(array) | (np.abs(np.nan_to_num(array)) > 2.0**53)
    if not odd.any():
        return None
    status = np.zeros(len(array), dtype=np.uint8)
    status[np.isnan(array)] = Status.BAD_TEXT
    status[np.isinf(array) | (np.abs(np.nan_to_num(array, posinf=0, neginf=0)) > 2.0**53)] = (
        Status.OVER_RANGE
    )
    if column.null_count:
        status[column.is_null().to_numpy()] = Status.MISSING
    return status


def _times_at_once(
    arrays: list[FloatArray], columns: list[pa.ChunkedArray[Any]], state: _State
) -> IntArray | None:
    shape, counter = state.found.shape, state.found.counter
    if shape.time is None:
        at = None if counter is None else arrays[counter]
        if at is not None and (np.isnan(at).any() or np.any(at[1:] < at[:-1])):
            return None
        return _counted(at, len(arrays[0]), state)
    raw = arrays[shape.time]
    if shape.time_unit == "clock" or not np.isfinite(raw).all():
        return None
    clock = state.reader.clock
    assert clock is not None
    if len(raw) and not (clock.can_be(float(raw[0])) and clock.can_be(float(raw[-1]))):
        return None
    time_us = clock.read_rising(raw)
    return None if time_us is None else np.maximum(time_us, state.last_us)
