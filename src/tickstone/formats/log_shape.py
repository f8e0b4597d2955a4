"""The shape of a text log: separator, decimal mark, header and what each column may be.

It is guessed from the first lines and shown to the person, who can overrule every part of it.
"""

from __future__ import annotations

import csv
import re
from collections import Counter
from dataclasses import dataclass, replace

from tickstone.formats.numbers import parse_number

SEPARATORS = {"comma": ",", "semicolon": ";", "tab": "\t", "bar": "|", "space": " "}
DECIMALS = {"point": ".", "comma": ","}
UNITS_S = {"us": 1e-6, "ms": 1e-3, "s": 1.0}
PREVIEW_ROWS = 12
HEAD_BYTES = 65_536


class UnreadableLogError(ValueError):
    """The bytes are not a text log. The message says why and what to do instead."""


@dataclass(frozen=True, slots=True)
class LogShape:
    """How a log is laid out.

    separator, decimal: keys of SEPARATORS and DECIMALS. header_line: number of the line with the
    column names, counted from 1, or 0 when there is none. columns: names, in order.
    time_column, echo_column: positions in `columns`; None when no column looks like it.
    time_unit, echo_unit: keys of UNITS_S.
    """

    separator: str
    decimal: str
    header_line: int
    columns: tuple[str, ...]
    time_column: int | None
    time_unit: str
    echo_column: int | None
    echo_unit: str


@dataclass(frozen=True, slots=True)
class LogPreview:
    """A shape and the first rows read with it, each with its line number."""

    shape: LogShape
    rows: tuple[tuple[int, tuple[str, ...]], ...]


def preview_log(
    head: bytes, separator: str | None = None, decimal: str | None = None
) -> LogPreview:
    """Guess the shape of a log from its first bytes and read its first rows.

    head: the beginning of the file, HEAD_BYTES or fewer. separator, decimal: what the person has
    settled; the rest is guessed around it.

    Raises UnreadableLogError for an empty or binary file or one in another text encoding.

    >>> shape = preview_log(b"t_ms;echo_us;note\\n0;5831;a\\n50;5840;b\\n100;0;c\\n").shape
    >>> shape.separator, shape.columns, shape.time_column, shape.time_unit, shape.echo_column
    ('semicolon', ('t_ms', 'echo_us', 'note'), 0, 'ms', 1)
    """
    lines = _lines_of(head)
    separators = [separator] if separator else list(SEPARATORS)
    decimals = [decimal] if decimal else list(DECIMALS)
    candidates = [
        _Reading.of(lines, separator_name, decimal_name)
        for separator_name in separators
        for decimal_name in decimals
        if not (separator is None and decimal is None and separator_name == decimal_name)
    ]
    best = max(candidates, key=lambda reading: reading.score)
    shape = _name_columns(best)
    first = 0 if shape.header_line == 0 else shape.header_line
    rows = tuple((number, cells) for number, cells in best.rows if number > first and any(cells))
    return LogPreview(shape, rows[:PREVIEW_ROWS])


def _lines_of(head: bytes) -> list[str]:
    head = head.removeprefix(b"\xef\xbb\xbf")
    if not head.strip():
        raise UnreadableLogError("The file is empty. Choose a log with one reading per line.")
    if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
        raise UnreadableLogError(
            "The file is UTF-16 text. Save it as UTF-8 (often “CSV UTF-8”) and choose it again."
        )
    if b"\0" in head:
        raise UnreadableLogError(
            "The file is not text: it holds zero bytes. Choose a CSV or text log."
        )
    whole = len(head) < HEAD_BYTES
    text = head.decode("utf-8", errors="replace")
    lines = re.split(r"\r\n|\n|\r", text)
    kept = [line[:2000] for line in (lines if whole or len(lines) == 1 else lines[:-1])][:400]
    if not any(line.strip() for line in kept):
        raise UnreadableLogError(
            "The file begins with nothing but blanks. Choose a CSV or text log."
        )
    return kept


def split_cells(line: str, separator: str) -> tuple[str, ...]:
    """The cells of one line, blanks around them and quotes taken off.

    >>> split_cells('1, "a,b" ,3', ","), split_cells("1   2", " ")
    (('1', 'a,b', '3'), ('1', '2'))
    """
    if separator == " ":
        return tuple(line.split())
    if '"' in line:
        try:
            return tuple(
                cell.strip()
                for cell in next(csv.reader([line], delimiter=separator, skipinitialspace=True))
            )
        except (csv.Error, StopIteration):
            pass
    return tuple(cell.strip() for cell in line.split(separator))


@dataclass(frozen=True, slots=True)
class _Reading:
    """The first lines, read in one particular way."""

    separator: str
    decimal: str
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    width: int
    score: float

    @classmethod
    def of(cls, lines: list[str], separator: str, decimal: str) -> _Reading:
        rows = tuple(
            (number, split_cells(line, SEPARATORS[separator]))
            for number, line in enumerate(lines, start=1)
            if line.strip()
        )
        widths = Counter(len(cells) for _, cells in rows)
        width = max(widths, key=lambda cells: (widths[cells], cells))
        regular = widths[width] / len(rows)
        cells = [cell for _, row in rows if len(row) == width for cell in row]
        numeric = sum(parse_number(cell, DECIMALS[decimal]) is not None for cell in cells)
        comma_decimals = sum("," in cell for cell in cells) if decimal == "comma" else 0
        score = regular * (0.05 + numeric / len(cells)) * (1.0 if width > 1 else 0.6)
        if decimal == "comma" and comma_decimals == 0:
            score *= 0.9
        return cls(separator, decimal, rows, width, score)


def _name_columns(reading: _Reading) -> LogShape:
    decimal = DECIMALS[reading.decimal]
    regular = [(number, row) for number, row in reading.rows if len(row) == reading.width]
    numeric = [
        sum(parse_number(row[column], decimal) is not None for _, row in regular)
        > 0.5 * max(1, len(regular) - 1)
        for column in range(reading.width)
    ]
    header = _header_among(regular, numeric, decimal)
    below = [row for number, row in regular if header is None or number > header[0]]
    names = header[1] if header else tuple("" for _ in range(reading.width))
    shape = LogShape(
        separator=reading.separator,
        decimal=reading.decimal,
        header_line=header[0] if header else 0,
        columns=tuple(name or f"column {n + 1}" for n, name in enumerate(names)),
        time_column=None,
        time_unit="ms",
        echo_column=None,
        echo_unit="us",
    )
    values = {
        column: [
            value for row in below if (value := parse_number(row[column], decimal)) is not None
        ]
        for column in range(reading.width)
        if numeric[column]
    }
    return _guess_columns(shape, values)


def _header_among(
    rows: list[tuple[int, tuple[str, ...]]], numeric: list[bool], decimal: str
) -> tuple[int, tuple[str, ...]] | None:
    """The last line of words only above the first line of numbers, if there is one."""
    columns = [column for column, is_numeric in enumerate(numeric) if is_numeric]
    header = None
    for number, row in rows:
        found = [parse_number(row[column], decimal) is not None for column in columns]
        if any(found) or not columns:
            break
        header = number, row
    return header


_TIME_NAME = re.compile(r"^(t|time|times?tamp|millis|micros|elapsed|clock)\b|^t[_ (\[]|time", re.I)
_ECHO_NAME = re.compile(r"echo|pulse|dur|flight|tof|ping|range|sonar|width|raw", re.I)
_UNIT_NAME = (
    ("us", re.compile(r"(µs|μs|(?<![a-z])us(?![a-z])|micro|usec)", re.I)),
    ("ms", re.compile(r"((?<![a-z])ms(?![a-z])|milli|msec)", re.I)),
    ("s", re.compile(r"((?<![a-z])s(?![a-z])|(?<![a-z])sec)", re.I)),
)


def _guess_columns(shape: LogShape, values: dict[int, list[float]]) -> LogShape:
    columns = [column for column in values if len(values[column]) > 0]
    rising = [
        column
        for column in columns
        if len(values[column]) > 2
        and all(b > a for a, b in zip(values[column], values[column][1:], strict=False))
    ]
    named = [column for column in columns if _TIME_NAME.search(shape.columns[column])]
    time_column = next(iter([*named, *rising]), None)
    others = [column for column in columns if column != time_column]
    echoes = [column for column in others if _ECHO_NAME.search(shape.columns[column])]
    likely = [column for column in others if 100 <= _middle(values[column]) <= 40_000]
    echo_column = next(iter([*echoes, *likely, *others]), None)
    return replace(
        shape,
        time_column=time_column,
        time_unit=_guess_time_unit(shape, time_column, values),
        echo_column=echo_column,
        echo_unit=_guess_echo_unit(shape, echo_column, values),
    )


def _named_unit(name: str) -> str | None:
    spaced = name.replace("_", " ")
    return next((unit for unit, pattern in _UNIT_NAME if pattern.search(spaced)), None)


def _guess_time_unit(shape: LogShape, column: int | None, values: dict[int, list[float]]) -> str:
    if column is None:
        return "ms"
    named = _named_unit(shape.columns[column])
    if named:
        return named
    steps = [b - a for a, b in zip(values[column], values[column][1:], strict=False)]
    step = _middle(steps) if steps else 50.0
    return "us" if step >= 2000 else "ms" if step >= 2 else "s"


def _guess_echo_unit(shape: LogShape, column: int | None, values: dict[int, list[float]]) -> str:
    if column is None:
        return "us"
    named = _named_unit(shape.columns[column])
    if named:
        return named
    typical = _middle([value for value in values[column] if value > 0] or [1000.0])
    return "us" if typical >= 60 else "ms" if typical >= 0.06 else "s"


def _middle(values: list[float]) -> float:
    return sorted(values)[len(values) // 2]
