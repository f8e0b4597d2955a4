"""How a board's lines are built, learnt from a few of them."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from tickstone.core.lines.axis_units import Axis, guess_axis_units
from tickstone.core.lines.guess import guess_quantity, looks_like_time, time_unit_of
from tickstone.core.lines.names import TIME_UNITS_US, known_unit, split_unit
from tickstone.core.lines.tokens import COMMENT, SEPARATORS, Cell, Manner, cells_of, split_words
from tickstone.core.status import Status

ENOUGH_LINES = 5
MOST_COLUMNS = 64
_AGREES = math.log(5.0)
"""A clock and the arrival of its lines agree within this factor, as a logarithm."""
_DIGITS = re.compile(r"\d+")
_SURE = 0.6
_TELLING_SPAN_US = 4_000
_CANDIDATES = (
    Manner("json"),
    *(Manner("labelled", decimal=decimal) for decimal in ("point", "comma")),
    *(
        Manner("separated", separator, decimal)
        for separator in SEPARATORS
        for decimal in ("point", "comma")
        if not separator == decimal == "comma"
    ),
    *(Manner("words", decimal=decimal) for decimal in ("point", "comma")),
)
_PREFERENCE = {"json": 1.2, "labelled": 1.1, "separated": 1.0, "words": 0.9}


@dataclass(frozen=True, slots=True)
class Column:
    """One value of each line.

    label: what marks it in the line, "" when only its place does. name: what it is called.
    unit: as printed by Tick Stone, "" when nobody said. quantity: see `guess`.
    is_used: whether it becomes a channel (or the time).
    """

    label: str
    name: str
    unit: str = ""
    quantity: str = ""
    is_used: bool = True


@dataclass(frozen=True, slots=True)
class LineShape:
    """How to read a line.

    columns: in the order of the line; for labelled lines found by label, else by place.
    time: the position of the board's time among the columns, None to go by when lines arrive.
    time_unit: key of `names.TIME_UNITS_US`, or "clock". header: text of the line with the names.
    """

    manner: Manner
    columns: tuple[Column, ...]
    time: int | None = None
    time_unit: str = "ms"
    header: str = ""
    units: str = ""

    @property
    def channels(self) -> tuple[int, ...]:
        """Positions of the columns that become channels."""
        return tuple(
            index
            for index, column in enumerate(self.columns)
            if column.is_used and index != self.time
        )

    @property
    def is_by_label(self) -> bool:
        """Whether values are found by their labels."""
        return self.manner.kind in ("json", "labelled")

    def describe(self) -> str:
        """One sentence a person can check against the lines."""
        count = len(self.columns)
        values = f"{count} value{'' if count == 1 else 's'}"
        by = {
            "json": f"JSON with {values}",
            "labelled": f"{values} with labels",
            "words": f"{values} among words",
            "separated": f"{values} separated by "
            + {
                "comma": "commas",
                "semicolon": "semicolons",
                "tab": "tabs",
                "bar": "bars",
                "space": "blanks",
            }.get(self.manner.separator, self.manner.separator),
        }[self.manner.kind]
        comma = ", decimal comma" if self.manner.decimal == "comma" else ""
        if self.time is None:
            return f"{by}{comma}; no time in the line, so its arrival counts"
        unit = "clock time" if self.time_unit == "clock" else self.time_unit
        return f"{by}{comma}; “{self.columns[self.time].name}” is the board’s time in {unit}"


def learn_shape(lines: Sequence[str], manner: Manner | None = None) -> LineShape | None:
    """What most of these lines have in common; None when they have too little.

    lines: as they arrived, with banner and header lines among them. manner: when the person has
    settled it; the rest is learnt around it.

    >>> shape = learn_shape(["Bramble 1.2", "t_ms,front_us", "0,5831", "50,5840", "100,5836"])
    >>> [(c.name, c.unit) for c in shape.columns], shape.time, shape.time_unit
    ([('t', 'ms'), ('front', 'µs')], 0, 'ms')
    """
    lines = [line for line in lines if line.strip() and not is_too_wide(line)]
    best, best_score = None, 0.0
    for candidate in [manner] if manner is not None else _CANDIDATES:
        if not _worth_trying(candidate, lines):
            continue
        fitted = _fit(lines, candidate)
        if fitted is not None and fitted[1] > best_score + 1e-9:
            best, best_score = fitted
    if best is None or (best_score < _SURE and manner is None and len(lines) < 4 * ENOUGH_LINES):
        return None
    return best


def is_too_wide(text: str) -> bool:
    """Whether a line holds far more values than there may be columns; nothing is learnt from it.

    >>> is_too_wide("1.5," * 64), is_too_wide("1," * 200)
    (False, True)
    """
    return len(_DIGITS.findall(text)) > 2 * MOST_COLUMNS


def _worth_trying(manner: Manner, lines: Sequence[str]) -> bool:
    if manner.kind == "separated" and manner.separator != "space":
        mark = SEPARATORS[manner.separator]
        return any(mark in line or "->" in line or "→" in line for line in lines)
    if manner.kind == "json":
        return any("{" in line or "[" in line for line in lines)
    if manner.kind == "labelled":
        return any(":" in line or "=" in line for line in lines)
    return True


def _fit(lines: Sequence[str], manner: Manner) -> tuple[LineShape, float] | None:
    """The shape of the lines in this manner, and how well it fits, from 0 to about 1."""
    taken = [(line, cells_of(line, manner)) for line in lines]
    rows = [(line, cells) for line, cells in taken if cells and _has_number(cells)]
    if not rows:
        return None
    if manner.kind in ("json", "labelled"):
        return _fit_labels(lines, rows, manner)
    if manner.kind == "words" and any(cell.text for _, cells in rows for cell in cells) is False:
        return None
    rows = _without_last_separator(lines, rows, manner)
    widths = Counter(len(cells) for _, cells in rows)
    width = max(widths, key=lambda w: (widths[w], w))
    if width > MOST_COLUMNS:
        return None
    regular = [cells for _, cells in rows if len(cells) == width]
    numeric = [
        sum(cells[column].status is not Status.BAD_TEXT for cells in regular) / len(regular)
        for column in range(width)
    ]
    if manner.kind == "separated" and not manner.bare_hex and manner.separator != "":
        hexed = _bare_hex(lines, manner, width)
        if hexed:
            return _fit(lines, replace(manner, bare_hex=True))
    regular_rows = [row for row in rows if len(row[1]) == width]
    share = len(regular) / max(1, _data_lines(lines, regular_rows))
    purity = sum(numeric) / width
    several = 1.0 if width > 1 or manner.kind == "words" else 0.75
    if manner.kind == "separated":
        purity = 0.4 + 0.6 * purity
        if width == 1 and manner.separator == "space":
            several = 0.95 if manner.decimal == "point" else 0.7
    elif sum(bool(re.search(r"[,;|\t]", line)) for line, _ in rows) > 0.8 * len(rows):
        several = 0.6
    comma = 1.0
    if manner.decimal == "comma":
        comma = 0.97 if any("," in cell.text for cells in regular for cell in cells) else 0.8
    score = share * purity * several * comma * _PREFERENCE[manner.kind]
    return _named(lines, regular, numeric, manner), score


def _without_last_separator(
    lines: Sequence[str], rows: list[tuple[str, list[Cell]]], manner: Manner
) -> list[tuple[str, list[Cell]]]:
    """Many a board prints its separator after the last value as well: that is no empty column,
    unless a header names it."""
    if manner.kind != "separated":
        return rows
    ending = [cells for _, cells in rows if len(cells) > 1 and not cells[-1].text]
    if len(ending) < 0.8 * len(rows):
        return rows
    width = Counter(len(cells) for cells in ending).most_common(1)[0][0]
    header, _ = find_header(lines, manner, width)
    if header is not None and header[1][-1]:
        return rows
    return [
        (line, cells[:-1] if len(cells) > 1 and not cells[-1].text else cells)
        for line, cells in rows
    ]


def _data_lines(lines: Sequence[str], rows: Sequence[tuple[str, list[Cell]]]) -> int:
    """Lines that can be expected to hold values: those from the first one with values on."""
    first = next((n for n, line in enumerate(lines) if line == rows[0][0]), 0)
    return sum(any(c.isdigit() for c in line) for line in lines[first:])


def _has_number(cells: Sequence[Cell]) -> bool:
    return any(cell.status is Status.OK for cell in cells)


def _bare_hex(lines: Sequence[str], manner: Manner, width: int) -> bool:
    """Whether every cell is a run of base-16 digits of its column's width, some with letters."""
    rows = [split_words(line, manner.separator) for line in lines]
    rows = [row for row in rows if len(row) == width]
    if len(rows) < 3:
        return False
    cells = [cell for row in rows for cell in row]
    lengths = all(len({len(row[column]) for row in rows}) == 1 for column in range(width))
    return (
        lengths
        and all(re.fullmatch(r"[0-9a-fA-F]{2,13}", cell) for cell in cells)
        and any(re.search(r"[a-fA-F]", cell) for cell in cells)
        and any(re.search(r"\d", cell) for cell in cells)
    )


def _fit_labels(
    lines: Sequence[str], rows: Sequence[tuple[str, list[Cell]]], manner: Manner
) -> tuple[LineShape, float] | None:
    labels: dict[str, None] = {}
    seen: Counter[str] = Counter()
    for _, cells in rows:
        for cell in cells:
            labels[cell.label] = None
            seen[cell.label] += 1
    kept = [label for label in labels if seen[label] >= max(1, 0.08 * len(rows))]
    values = {label: [] for label in kept}  # type: dict[str, list[Cell]]
    for _, cells in rows:
        for cell in cells:
            if cell.label in values:
                values[cell.label].append(cell)
    numeric = [
        label for label in kept if any(cell.status is not Status.BAD_TEXT for cell in values[label])
    ]
    if not numeric or len(numeric) > MOST_COLUMNS:
        return None
    columns = tuple(_labelled_column(label, values[label]) for label in numeric)
    shape = _settled(LineShape(manner, columns), [values[label] for label in numeric])
    share = len(rows) / max(1, _data_lines(lines, rows))
    comma = 1.0
    if manner.decimal == "comma":
        printed = any("," in cell.text for cells in values.values() for cell in cells)
        comma = 1.02 if printed else 0.8
    return shape, share * comma * _PREFERENCE[manner.kind] * (len(numeric) / len(kept))


def _labelled_column(label: str, cells: Sequence[Cell]) -> Column:
    name, unit = split_unit(label.rsplit("\n", 1)[-1])
    return _guessed(Column(label, name or label, unit or _said_unit(cells)), cells)


def _said_unit(cells: Sequence[Cell]) -> str:
    units = Counter(cell.unit for cell in cells if cell.unit)
    if not units:
        return ""
    said = units.most_common(1)[0][0]
    return known_unit(said) or said


def _unit_behind(cells: Sequence[Cell]) -> str:
    """The unit that stands in a cell of its own behind every value, as in ``25,cm``."""
    words = {cell.text.strip() for cell in cells}
    if len(words) != 1 or any(cell.status is Status.OK for cell in cells):
        return ""
    return known_unit(words.pop()) or ""


def _guessed(column: Column, cells: Sequence[Cell]) -> Column:
    values = [cell.value for cell in cells if cell.status is Status.OK]
    return replace(column, quantity=guess_quantity(column.name, column.unit, values))


def _named(
    lines: Sequence[str], rows: Sequence[list[Cell]], numeric: Sequence[float], manner: Manner
) -> LineShape:
    width = len(numeric)
    header, units = find_header(lines, manner, width)
    columns = []
    for index in range(width):
        cells = [row[index] for row in rows]
        # With a line of units below them, names are taken as they stand.
        name, unit = split_unit(header[1][index]) if header else ("", "")
        if header and units:
            name, unit = unguarded(header[1][index]), ""
        label = Counter(cell.label for cell in cells if cell.label).most_common(1)
        name = name or (label[0][0] if label else "") or f"value {index + 1}"
        unit = unit or (units[1][index] if units else "") or _said_unit(cells)
        if not unit and index + 1 < width:
            unit = _unit_behind([row[index + 1] for row in rows])
        column = _guessed(Column("", name, unit), cells)
        columns.append(replace(column, is_used=numeric[index] > 0.3))
    shape = LineShape(
        manner,
        tuple(_told_apart(columns)),
        header=header[0].strip() if header else "",
        units=units[0].strip() if units else "",
    )
    return _settled(shape, [[row[index] for row in rows] for index in range(width)])


def _told_apart(columns: Sequence[Column]) -> list[Column]:
    """No two columns with the same name."""
    seen: Counter[str] = Counter()
    result = []
    for column in columns:
        seen[column.name] += 1
        count = seen[column.name]
        result.append(column if count == 1 else replace(column, name=f"{column.name} {count}"))
    return result


def find_header(
    lines: Sequence[str], manner: Manner, width: int
) -> tuple[tuple[str, list[str]] | None, tuple[str, list[str]] | None]:
    """The line that names the columns, with its cells, and the units of a line of units.

    The last line of `width` words above the first line of values; a comment mark before it does
    not matter. A line of nothing but units below it is taken as such.
    """
    header, units = None, None
    separator = manner.separator or "space"
    for line in lines:
        bare = COMMENT.sub("", line) if COMMENT.match(line) else line
        cells = split_words(bare, separator)
        if len(cells) != width:
            cells = [cell.strip() for cell in bare.split(SEPARATORS[separator])]  # arrows in names
        if len(cells) != width:
            cells = _one_off(cells, width)
        if len(cells) != width:
            continue
        if all(_is_word(cell) or not cell.strip("-") for cell in cells) and any(cells):
            found = [known_unit(cell.strip("[]()")) or "" for cell in cells]
            are_units = sum(map(bool, found)) * 2 >= sum(bool(cell.strip("-")) for cell in cells)
            if header is not None and are_units:
                told = zip(found, cells, strict=True)
                units = line, [unit or cell.strip("[]()-") for unit, cell in told]
            else:
                header = line, cells
        elif header is None and _are_odd_names(cells):
            header = line, cells
        elif header is not None and any(_is_number(cell) for cell in cells):
            break
    return header, units


def _one_off(cells: list[str], width: int) -> list[str]:
    """Names that are one more or one less than the values, by a separator at an end of either.

    >>> _one_off(["t", "a", ""], 2), _one_off(["t", "a"], 3), _one_off(["t", "a"], 4)
    (['t', 'a'], ['t', 'a', ''], ['t', 'a'])
    """
    if width < 2 or not all(map(_is_word, filter(None, cells))):
        return cells
    if len(cells) == width + 1:
        return cells[1:] if cells[-1] and not cells[0] else cells[:-1]
    return [*cells, ""] if len(cells) == width - 1 and len(cells) > 1 else cells


def _are_odd_names(cells: Sequence[str]) -> bool:
    """Cells that cannot be values, though not all of them are words: `t_us,+-,=1+1` names columns.

    To pass over it would be to read its times in a unit that it does not say.
    """
    return any(map(_is_word, cells)) and not any(map(_is_number, cells))


def unguarded(name: str) -> str:
    """A name without the apostrophe that keeps spreadsheets from running it."""
    return name[1:] if name.startswith("'") else name


def _is_word(cell: str) -> bool:
    if cell.startswith("'"):
        return True  # what keeps a spreadsheet from running a name, or taking it for a number
    return bool(re.search(r"[^\W\d]|%|°", cell)) and not _is_number(cell)


def _is_number(cell: str) -> bool:
    return bool(re.match(r"[+\-−]?[\d.]*\d", cell))


def _settled(shape: LineShape, values: Sequence[Sequence[Cell]]) -> LineShape:
    """What columns are told by together: which is the time, and what axes are in."""
    axes = [
        Axis(one.quantity, one.unit, [cell.value for cell in cells if cell.status is Status.OK])
        for one, cells in zip(shape.columns, values, strict=True)
    ]
    columns = tuple(
        replace(one, unit=unit)
        for one, unit in zip(shape.columns, guess_axis_units(axes), strict=True)
    )
    return _with_time(replace(shape, columns=columns), values)


def _with_time(shape: LineShape, values: Sequence[Sequence[Cell]]) -> LineShape:
    """The column that is the board's time, if one looks like it."""
    candidates = []
    for index, (column, cells) in enumerate(zip(shape.columns, values, strict=True)):
        if not column.is_used:
            continue
        if cells and all(cell.is_clock for cell in cells):
            candidates.append((3.0, index, "clock"))
            continue
        numbers = [cell.value for cell in cells if cell.status is Status.OK]
        likeness = looks_like_time(column.name, column.unit, numbers, index)
        if likeness > 0:
            candidates.append((likeness, index, time_unit_of(column.name, column.unit, numbers)))
    if not candidates:
        return shape
    _, index, unit = max(candidates, key=lambda candidate: (candidate[0], -candidate[1]))
    columns = list(shape.columns)
    columns[index] = replace(columns[index], quantity="time")
    return replace(shape, columns=tuple(columns), time=index, time_unit=unit)


def with_unit_by_arrival(shape: LineShape, raw_span: float, host_span_us: float) -> LineShape:
    """The shape with its time in the unit that agrees with how long the lines took to arrive.

    Only when no line, name or person said the unit, and the lines took long enough to tell. A
    column that nobody named and that agrees with no unit only counts lines: it is no time.
    """
    if shape.time is None or shape.time_unit == "clock" or raw_span <= 0:
        return shape
    column = shape.columns[shape.time]
    if column.unit or time_unit_of(column.name, "", ()) != time_unit_of("", "", ()):
        return shape
    if host_span_us < _TELLING_SPAN_US:
        return shape
    us_per_tick = host_span_us / raw_span
    nearest = min(
        ("µs", "ms", "s"), key=lambda unit: abs(math.log(TIME_UNITS_US[unit] / us_per_tick))
    )
    if not column.label and abs(math.log(TIME_UNITS_US[nearest] / us_per_tick)) > _AGREES:
        columns = list(shape.columns)
        columns[shape.time] = replace(column, quantity="number")
        return replace(shape, columns=tuple(columns), time=None)
    return replace(shape, time_unit=nearest)
