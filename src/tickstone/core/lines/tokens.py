"""Finding the values in one line."""

from __future__ import annotations

import contextlib
import csv
import json
import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, Literal

from tickstone.core.lines.names import known_unit
from tickstone.core.status import Status

Kind = Literal["json", "labelled", "separated", "words"]
SEPARATORS = {"comma": ",", "semicolon": ";", "tab": "\t", "bar": "|", "space": " "}
LARGEST_WHOLE = 2**53
_MOST_CELLS = 256
"""A line with more values among its words than this is not taken apart any further."""

# Every pattern here goes through a line once, however long it is: what repeats without bound is
# possessive (`++` gives nothing back), what may be given back is bounded. A test measures it.
_NUMBER = {
    "point": r"[+\-−]?(?:\d++(?:\.\d*+)?|\.\d++)(?:[eE][+-]?\d{1,3})?",
    "comma": r"[+\-−]?(?:\d++(?:,\d++)?|,\d++)(?:[eE][+-]?\d{1,3})?",
}
_HEX = r"[+-]?0[xX][0-9a-fA-F]{1,16}"
_CLOCK = r"(?:\d{4}-\d\d-\d\d[ T])?\d{1,2}:\d\d(?::\d\d(?:[.,]\d{1,9})?)(?:Z|[+-]\d\d:?\d\d)?"
_WORDS = {
    "nan": Status.BAD_TEXT,
    "null": Status.MISSING,
    "none": Status.MISSING,
    "n/a": Status.MISSING,
    "na": Status.MISSING,
    "-": Status.MISSING,
    "--": Status.MISSING,
    "---": Status.MISSING,
    "?": Status.MISSING,
    "inf": Status.OVER_RANGE,
    "infinity": Status.OVER_RANGE,
    "ovf": Status.OVER_RANGE,
    "ovl": Status.OVER_RANGE,
    "overflow": Status.OVER_RANGE,
    "over": Status.OVER_RANGE,
    "ol": Status.OVER_RANGE,
    "true": Status.OK,
    "false": Status.OK,
}
_SPECIAL = r"[+-]?(?:nan|inf(?:inity)?|ovf|ovl|overflow)|null|none|n/a|-{2,3}(?!>)"
_UNIT = r"[^\W\d_](?:[^\W\d]|/|²|\^2|2){0,23}|[%°º℃µμΩ](?:[^\W\d]|/){0,23}"
_ARROW = re.compile(r"(?:-{1,8}>|={1,8}>|→|»)")
_PROMPT = re.compile(r"\s*+(?:[>$#*»→|]++\s*+|-{1,8}>\s*+|={1,8}>\s*+)++(?=\S)")
_IN_LABEL = r"[^:=,;|\t\"'{}]{0,80}?"  # bounded: a long line of words is gone through once only
_LABEL = rf"(?<![^\W\d_])(?P<label>[^\W\d_]{_IN_LABEL}|_{_IN_LABEL})[\"']?\s{{0,8}}[:=]\s*"
COMMENT = re.compile(r"^\s*(?://|#|%|;|--|!)+\s?")


def _value_pattern(decimal: str) -> str:
    return rf"(?P<value>{_CLOCK}|{_HEX}|{_NUMBER[decimal]}|{_SPECIAL})"


_LABELLED = {
    decimal: re.compile(
        _LABEL
        + _value_pattern(decimal)
        + rf"(?:\s?(?P<unit>{_UNIT})(?=[\s,;|\t)\]]|$)(?!\s*[:=]))?",
        re.IGNORECASE,
    )
    for decimal in _NUMBER
}
_CELL = {
    decimal: re.compile(rf"{_value_pattern(decimal)}\s?(?P<unit>{_UNIT})?", re.IGNORECASE)
    for decimal in _NUMBER
}
_SCAN = {
    decimal: re.compile(
        rf"(?<![\w.])(?P<value>{_CLOCK}|{_HEX}|(?<![\d.]){_NUMBER[decimal]}|(?:{_SPECIAL})(?!\w))"
        rf"(?:\s?(?P<unit>{_UNIT})(?![\w]))?(?!\w)",
        re.IGNORECASE,
    )
    for decimal in _NUMBER
}


@dataclass(frozen=True, slots=True)
class Cell:
    """One value of a line.

    value: NaN unless `status` is OK. text: as printed. is_clock: a time of day, in µs. A clock
    without a date counts from midnight.
    """

    label: str
    value: float
    status: Status
    unit: str
    text: str
    is_clock: bool = False


@dataclass(frozen=True, slots=True)
class Manner:
    """A way to take a line apart. separator: key of SEPARATORS, for separated lines only.

    bare_hex: whole numbers without 0x, in base 16.
    """

    kind: Kind
    separator: str = ""
    decimal: str = "point"
    bare_hex: bool = False


def cells_of(line: str, manner: Manner) -> list[Cell] | None:
    """The values of a line, in order; None when the line is not built in this manner.

    Separated lines give a cell for every column, also for one that holds words: its status says so.

    >>> [(c.label, c.value, c.unit) for c in cells_of("x: 331 y: 340mm", Manner("labelled"))]
    [('x', 331.0, ''), ('y', 340.0, 'mm')]
    >>> [c.value for c in cells_of("> 0x1F; 2,5", Manner("separated", "semicolon", "comma"))]
    [31.0, 2.5]
    """
    if manner.kind == "json":
        return _json_cells(line)
    line = _without_prompt(line)
    if manner.kind == "labelled":
        return _labelled_cells(line, manner.decimal)
    if manner.kind == "words":
        return _word_cells(line, manner.decimal)
    return [_cell(text, manner) for text in _split(line, SEPARATORS[manner.separator])]


def split_words(line: str, separator: str) -> list[str]:
    """The cells of a line of words, such as a header. separator: key of SEPARATORS."""
    if '"' in line and separator != "space":
        with contextlib.suppress(csv.Error, StopIteration):
            mark = SEPARATORS[separator]
            cells = next(csv.reader([line.strip()], delimiter=mark, skipinitialspace=True))
            return [cell.strip() for cell in cells]
    return _split(_without_prompt(line), SEPARATORS[separator])


def _without_prompt(line: str) -> str:
    prompt = _PROMPT.match(line)
    return (line[prompt.end() :] if prompt else line).strip("\r\n")


def _split(line: str, separator: str) -> list[str]:
    if separator == " ":
        return _ARROW.sub(" ", line).split()
    if separator != "|" and ("->" in line or "=>" in line or "→" in line):
        line = _ARROW.sub(separator, line)
    cells = [cell.strip() for cell in line.strip(" ").split(separator)]
    return [cell[1:-1] if len(cell) > 1 and cell[0] == cell[-1] == '"' else cell for cell in cells]


def _cell(text: str, manner: Manner) -> Cell:
    if manner.bare_hex and re.fullmatch(r"[0-9a-fA-F]{1,13}", text):
        return Cell("", float(int(text, 16)), Status.OK, "", text)
    plain = _plain_value(text, manner.decimal)
    if plain is not None:
        return Cell("", plain[0], plain[1], "", text)
    match = _CELL[manner.decimal].fullmatch(text)
    if match:
        return _from_match(match, "", manner.decimal)
    if manner.separator != "space":
        found = _labelled_cells(text, manner.decimal) or _word_cells(text, manner.decimal)
        if found and len(found) == 1:
            return found[0]
    return Cell("", math.nan, Status.MISSING if not text else Status.BAD_TEXT, "", text)


def _plain_value(text: str, decimal: str) -> tuple[float, Status] | None:
    word = text.lower()
    if word in _WORDS:
        status = _WORDS[word]
        return (float(word == "true") if status is Status.OK else math.nan), status
    return None


def _from_match(match: re.Match[str], label: str, decimal: str) -> Cell:
    text = match["value"]
    unit = match["unit"] or ""
    if "\ufffd" in match.string[max(0, match.start("value") - 1) : match.end("value") + 1]:
        return Cell(label, math.nan, Status.BAD_TEXT, unit, text)  # noise on the line touched it
    special = _plain_value(text.lstrip("+-") or text, decimal)
    if special is not None:
        return Cell(label, special[0], special[1], unit, text)
    if ":" in text:
        return Cell(label, clock_us(text), Status.OK, "", text, is_clock=True)
    value = _number(text, decimal)
    status = Status.OK if abs(value) <= LARGEST_WHOLE else Status.OVER_RANGE
    return Cell(label, value if status is Status.OK else math.nan, status, unit, text)


def _number(text: str, decimal: str) -> float:
    text = text.replace("−", "-")
    if "x" in text or "X" in text:
        return float(int(text, 16))
    return float(text.replace(",", ".") if decimal == "comma" else text)


def _labelled_cells(line: str, decimal: str) -> list[Cell] | None:
    cells = []
    left_over = []
    end = 0
    while match := _LABELLED[decimal].search(line, end):
        left_over.append(line[end : match.start()])
        cell, end = _with_known_unit(match, match["label"].strip(), decimal)
        cells.append(cell)
        if len(cells) > _MOST_CELLS:
            return None
    left_over.append(line[end:])
    if not cells or any(re.search(r"(?<![\w])\d", piece) for piece in left_over):
        return None
    labels = [cell.label for cell in cells]
    return cells if len(set(labels)) == len(labels) else None


def _word_cells(line: str, decimal: str) -> list[Cell] | None:
    cells = []
    end = 0
    line = _ARROW.sub(" ", line)
    while match := _SCAN[decimal].search(line, end):
        cell, end = _with_known_unit(match, _label_from(line[end : match.start()]), decimal)
        cells.append(cell)
        if len(cells) > _MOST_CELLS:
            return None
    return cells or None


def _with_known_unit(match: re.Match[str], label: str, decimal: str) -> tuple[Cell, int]:
    """The cell and where it ends. A word after a blank is a unit only when it is a known one: in
    `x: 12 next: 3` it is the next label."""
    cell = _from_match(match, label, decimal)
    is_apart = match.string[match.end("value") : match.end("value") + 1].isspace()
    if cell.unit and is_apart and known_unit(cell.unit) is None:
        return replace(cell, unit=""), match.end("value")
    return cell, match.end()


def _label_from(words: str) -> str:
    words = re.sub(r"[^\w\s.°%/\-]", " ", words)
    words = re.sub(r"\b(?:is|are|was|and|the|at|of|equals)\b", " ", words, flags=re.IGNORECASE)
    return " ".join(words.split())[-40:].strip(" -._")


def _json_cells(line: str) -> list[Cell] | None:
    start = min((at for at in (line.find("{"), line.find("[")) if at >= 0), default=-1)
    if start < 0 or len(line) - start > 20_000:
        return None
    try:
        document = json.loads(line[start:], parse_int=_whole)
    except (ValueError, RecursionError):
        return None
    if not isinstance(document, dict | list):
        return None
    return [_json_cell(label, value) for label, value in _flat(document, "", 0)] or None


def _whole(text: str) -> float | int:
    return int(text) if len(text) <= 18 else float(text)


def _flat(document: Any, label: str, depth: int) -> Iterator[tuple[str, Any]]:
    if depth > 4:
        return
    if isinstance(document, dict):
        for key, value in document.items():
            yield from _flat(value, f"{label}.{key}" if label else str(key), depth + 1)
    elif isinstance(document, list):
        for index, value in enumerate(document[:64]):
            yield from _flat(value, f"{label}[{index}]", depth + 1)
    else:
        yield label, document


def _json_cell(label: str, value: Any) -> Cell:
    if isinstance(value, bool):
        return Cell(label, float(value), Status.OK, "", str(value).lower())
    if isinstance(value, int | float):
        if math.isnan(value):
            return Cell(label, math.nan, Status.BAD_TEXT, "", "NaN")
        if abs(value) > LARGEST_WHOLE:
            return Cell(label, math.nan, Status.OVER_RANGE, "", str(value)[:40])
        return Cell(label, float(value), Status.OK, "", str(value))
    if value is None:
        return Cell(label, math.nan, Status.MISSING, "", "null")
    cell = _cell(str(value)[:80], Manner("separated", "comma"))
    return Cell(label, cell.value, cell.status, cell.unit, cell.text, cell.is_clock)


def clock_us(text: str) -> float:
    """A time of day, with or without its date, in µs.

    >>> clock_us("00:00:01.5"), clock_us("1970-01-02T00:00:00")
    (1500000.0, 86400000000.0)
    """
    days = 0
    match = re.match(r"(\d{4})-(\d\d)-(\d\d)[ T]", text)
    if match:
        days = _days(int(match[1]), int(match[2]), int(match[3]))
        text = text[match.end() :]
    text = re.sub(r"(?:Z|[+-]\d\d:?\d\d)$", "", text)
    parts = [float(part.replace(",", ".")) for part in text.split(":")]
    seconds = sum(part * weight for part, weight in zip(parts, (3600, 60, 1), strict=False))
    return days * 86_400e6 + seconds * 1e6


def _days(year: int, month: int, day: int) -> int:
    """Days since 1970-01-01 in the Gregorian calendar, also for dates that do not exist."""
    year -= month <= 2
    era, of_era = divmod(year, 400)
    of_year = (153 * ((month + 9) % 12) + 2) // 5 + day - 1
    return era * 146_097 + of_era * 365 + of_era // 4 - of_era // 100 + of_year - 719_468
