"""Reading a log of echo times, block by block, so that memory does not follow the file's size."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import BinaryIO

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from pyarrow import csv as pa_csv

from tickstone.formats.log_shape import DECIMALS, SEPARATORS, UNITS_S, split_cells
from tickstone.formats.numbers import parse_number

BLOCK_BYTES = 4 * 1024 * 1024
LONGEST_LINE_BYTES = 65_536
KEPT_TEXT_CHARACTERS = 300
LONGEST_ECHO_NS = 60 * 10**9
LARGEST_TIME_US = 2**53
COUNTER_WRAP = 2**32

IntArray = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class EchoMapping:
    """What the person settled about a log.

    separator, decimal: keys of SEPARATORS and DECIMALS. header_line: number of the line with the
    names, 0 for none. width: cells per line. time_column: position, or None for a log without
    times, in which case one reading came every `interval_s` seconds. *_unit: keys of UNITS_S.

    Raises ValueError naming what does not fit together.
    """

    separator: str
    decimal: str
    header_line: int
    width: int
    time_column: int | None
    time_unit: str
    echo_column: int
    echo_unit: str
    interval_s: float = 0.05

    def __post_init__(self) -> None:
        if self.separator not in SEPARATORS or self.decimal not in DECIMALS:
            raise ValueError("the separator or the decimal mark is not one Tick Stone knows")
        if SEPARATORS[self.separator] == DECIMALS[self.decimal]:
            raise ValueError("the separator and the decimal mark cannot both be a comma")
        if self.time_unit not in UNITS_S or self.echo_unit not in UNITS_S:
            raise ValueError("a unit of time is one of us, ms and s")
        for column in (self.time_column, self.echo_column):
            if column is not None and not 0 <= column < self.width:
                raise ValueError(f"there is no column {column + 1} in lines of {self.width} cells")
        if self.time_column == self.echo_column:
            raise ValueError("the time and the echo cannot be the same column")
        if self.time_column is None and not 1e-6 <= self.interval_s <= 3600.0:
            raise ValueError("without a time column, give the interval: 1 µs to 1 h")


@dataclass(frozen=True, slots=True)
class BadLine:
    """A line that was kept aside: its number, its text (cut if very long) and why."""

    line: int
    text: str
    reason: str


@dataclass(frozen=True, slots=True)
class EchoBatch:
    """Readings in the order of the file. time_us: µs of the device. echo_ns: ns, exact integers."""

    time_us: IntArray
    echo_ns: IntArray
    bad: tuple[BadLine, ...]
    bytes_read: int


@dataclass(slots=True)
class _Position:
    """Where in the file, and in the device's time, the reading stands."""

    line: int = 0
    samples: int = 0
    last_time_us: int | None = None
    last_raw_time: float | None = None
    wraps: int = 0
    bad: list[BadLine] = field(default_factory=list)

    def put_aside(self, line: int, text: str, reason: str) -> None:
        self.bad.append(BadLine(line, text[:KEPT_TEXT_CHARACTERS].replace("\0", "\ufffd"), reason))


def read_echo_log(
    stream: BinaryIO, mapping: EchoMapping, stop: Callable[[], bool] = lambda: False
) -> Iterator[EchoBatch]:
    """Yield the log's readings in batches of one block each.

    stop: asked between blocks; when it says True the reading ends early.
    A line is put aside, never guessed at, when its cells are not the right number, when time or
    echo is not plainly a number, is negative or beyond all sense, or when time runs backwards. A
    32-bit counter of µs or ms that wraps is undone. Blank lines and the header count as lines and
    are otherwise passed over.

    >>> import io
    >>> mapping = EchoMapping("comma", "point", 1, 2, 0, "ms", 1, "us")
    >>> (batch,) = read_echo_log(io.BytesIO(b"t,echo\\n0,5831\\n50,oops\\n100,5840\\n"), mapping)
    >>> batch.echo_ns.tolist(), [(bad.line, bad.reason) for bad in batch.bad]
    ([5831000, 5840000], [(3, 'the echo “oops” is not a number')])
    """
    position = _Position()
    bytes_read = 0
    for block, size in _whole_line_blocks(stream, position):
        bytes_read += size
        time_us, echo_ns = _read_block(block, mapping, position)
        bad, position.bad = tuple(position.bad), []
        position.samples += len(echo_ns)
        yield EchoBatch(time_us, echo_ns, bad, bytes_read)
        if stop():
            return


def _whole_line_blocks(stream: BinaryIO, position: _Position) -> Iterator[tuple[bytes, int]]:
    """Blocks that end at a line's end, all ends ``\\n``. Overlong lines are put aside."""
    carry = b""
    first = True
    in_overlong = False
    while data := stream.read(BLOCK_BYTES):
        size = len(data)
        if first:
            data, first = data.removeprefix(b"\xef\xbb\xbf"), False
        data = carry + data
        carry = b""
        if data.endswith(b"\r"):
            data, carry = data[:-1], b"\r"
        if b"\r" in data:
            data = data.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
        if in_overlong:
            end = data.find(b"\n")
            if end < 0:
                yield b"", size
                continue
            data, in_overlong = data[end + 1 :], False
        cut = data.rfind(b"\n") + 1
        rest = data[cut:]
        if len(rest) > LONGEST_LINE_BYTES:
            yield data[:cut], size
            position.line += 1
            position.put_aside(
                position.line,
                rest[:KEPT_TEXT_CHARACTERS].decode("utf-8", errors="replace"),
                f"the line is longer than {LONGEST_LINE_BYTES} bytes",
            )
            in_overlong = True
        else:
            carry = rest + carry
            yield data[:cut], size
    if carry.strip() and not in_overlong:
        yield carry.replace(b"\r", b"\n"), 0


def _read_block(
    block: bytes, mapping: EchoMapping, position: _Position
) -> tuple[IntArray, IntArray]:
    if not block:
        return _empty(), _empty()
    if position.line < mapping.header_line:
        above = _end_of_line(block, mapping.header_line - position.line)
        _read_line_by_line(block[:above], mapping, position)
        block = block[above:]
    quick = _read_clean(block, mapping, position) if block else None
    return quick if quick is not None else _read_line_by_line(block, mapping, position)


def _end_of_line(block: bytes, lines: int) -> int:
    """Where the given number of lines ends, or the block's end when it has fewer."""
    end = 0
    for _ in range(lines):
        found = block.find(b"\n", end)
        if found < 0:
            return len(block)
        end = found + 1
    return end


def _empty() -> IntArray:
    return np.empty(0, dtype=np.int64)


def _read_clean(
    block: bytes, mapping: EchoMapping, position: _Position
) -> tuple[IntArray, IntArray] | None:
    """All of a block at once, when every line of it is beyond doubt; otherwise None."""
    if mapping.separator == "space" or b'"' in block:
        return None
    names = [str(column) for column in range(mapping.width)]
    wanted = [mapping.echo_column]
    if mapping.time_column is not None:
        wanted.append(mapping.time_column)
    try:
        table = pa_csv.read_csv(
            io.BytesIO(block),
            read_options=pa_csv.ReadOptions(
                column_names=names, block_size=len(block) + 1, use_threads=False
            ),
            parse_options=pa_csv.ParseOptions(
                delimiter=SEPARATORS[mapping.separator], quote_char=False, ignore_empty_lines=False
            ),
            convert_options=pa_csv.ConvertOptions(
                include_columns=[str(column) for column in wanted],
                column_types={str(column): pa.float64() for column in wanted},
                decimal_point=DECIMALS[mapping.decimal],
                null_values=[],
            ),
        )
    except pa.ArrowInvalid:
        return None
    with np.errstate(over="ignore"):  # more than a float holds is more than an echo can be, too
        echo = table.column(str(mapping.echo_column)).to_numpy() * (
            UNITS_S[mapping.echo_unit] * 1e9
        )
    if not bool(np.all((echo >= 0) & (echo <= LONGEST_ECHO_NS))):
        return None
    echo_ns = np.rint(echo).astype(np.int64)
    if mapping.time_column is None:
        time_us = _times_without_column(mapping, position.samples, len(echo_ns))
    else:
        raw = table.column(str(mapping.time_column)).to_numpy()
        with np.errstate(over="ignore"):
            scaled = raw * (UNITS_S[mapping.time_unit] * 1e6) + _wrapped_us(mapping, position)
        if not bool(np.all((raw >= 0) & (scaled <= LARGEST_TIME_US))):
            return None
        time_us = np.rint(scaled).astype(np.int64)
        last = position.last_time_us
        if (last is not None and time_us[0] < last) or bool(np.any(np.diff(time_us) < 0)):
            return None
        position.last_time_us, position.last_raw_time = int(time_us[-1]), float(raw[-1])
    position.line += len(echo_ns)
    return time_us, echo_ns


def _times_without_column(mapping: EchoMapping, first: int, count: int) -> IntArray:
    steps = np.arange(first, first + count, dtype=np.float64)
    return np.rint(steps * mapping.interval_s * 1e6).astype(np.int64)


def _wrapped_us(mapping: EchoMapping, position: _Position) -> float:
    return position.wraps * COUNTER_WRAP * UNITS_S[mapping.time_unit] * 1e6


def _read_line_by_line(
    block: bytes, mapping: EchoMapping, position: _Position
) -> tuple[IntArray, IntArray]:
    times: list[int] = []
    echoes: list[int] = []
    lines = block.decode("utf-8", errors="replace").split("\n")
    if lines and not lines[-1]:
        lines.pop()
    for line in lines:
        position.line += 1
        if position.line == mapping.header_line or not line.strip():
            continue
        if position.line < mapping.header_line:
            position.put_aside(position.line, line, "it stands above the header")
            continue
        outcome = _read_line(line, mapping, position)
        if isinstance(outcome, str):
            position.put_aside(position.line, line, outcome)
            continue
        if mapping.time_column is None:
            index = position.samples + len(echoes)
            times.append(round(index * mapping.interval_s * 1e6))
        else:
            times.append(outcome[0])
        echoes.append(outcome[1])
    return np.array(times, dtype=np.int64), np.array(echoes, dtype=np.int64)


def _read_line(line: str, mapping: EchoMapping, position: _Position) -> tuple[int, int] | str:
    """(time in µs, echo in ns), or why the line is put aside."""
    if len(line) > LONGEST_LINE_BYTES:
        return f"the line is longer than {LONGEST_LINE_BYTES} bytes"
    cells = split_cells(line, SEPARATORS[mapping.separator])
    if len(cells) != mapping.width:
        return f"it has {len(cells)} cell{'' if len(cells) == 1 else 's'}, not {mapping.width}"
    decimal = DECIMALS[mapping.decimal]
    echo = parse_number(cells[mapping.echo_column], decimal)
    if echo is None:
        return f"the echo “{cells[mapping.echo_column][:40]}” is not a number"
    echo_ns = echo * UNITS_S[mapping.echo_unit] * 1e9
    if not 0 <= echo_ns <= LONGEST_ECHO_NS:
        return f"an echo time of {echo:g} {mapping.echo_unit} cannot be"
    if mapping.time_column is None:
        return 0, round(echo_ns)
    time_us = _device_time(cells[mapping.time_column], mapping, position)
    return time_us if isinstance(time_us, str) else (time_us, round(echo_ns))


def _device_time(cell: str, mapping: EchoMapping, position: _Position) -> int | str:
    raw = parse_number(cell, DECIMALS[mapping.decimal])
    if raw is None:
        return f"the time “{cell[:40]}” is not a number"
    if raw < 0:
        return f"the time {raw:g} is negative"
    before = position.last_raw_time
    wraps = position.wraps
    counts = mapping.time_unit in ("us", "ms")
    if counts and before is not None and before < COUNTER_WRAP and before - raw > COUNTER_WRAP / 2:
        wraps += 1
    scaled = (raw + wraps * COUNTER_WRAP) * UNITS_S[mapping.time_unit] * 1e6
    if scaled > LARGEST_TIME_US:
        return f"the time {raw:g} is beyond all sense"
    time_us = round(scaled)
    if position.last_time_us is not None and time_us < position.last_time_us:
        return "time runs backwards here; did the board restart?"
    position.wraps, position.last_raw_time, position.last_time_us = wraps, raw, time_us
    return time_us
