"""The first lines of a text file as they stand there, with what was understood of them."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from tickstone.core.lines.reader import JudgedLine, LineReader
from tickstone.core.lines.shape import LineShape
from tickstone.core.lines.splitter import LineSplitter
from tickstone.core.lines.tokens import cells_of
from tickstone.formats.takes.header import LinePart, LineSeen

MOST_LINES = 12
_LONGEST = 240
TIME = -1


def first_lines(head: bytes, shape: LineShape, channels: Sequence[int]) -> tuple[LineSeen, ...]:
    """The first lines and what became of each.

    channels: positions of the columns that become channels, in their order.

    >>> from tickstone.core.lines.shape import Column
    >>> from tickstone.core.lines.tokens import Manner
    >>> shape = LineShape(Manner("separated", "comma"), (Column("", "t"), Column("", "a")), time=0)
    >>> seen = first_lines(b"hello\\n0,17\\n", shape, [1])
    >>> [(one.verdict, [(p.start, p.end, p.column) for p in one.parts]) for one in seen]
    [('text', []), ('read', [(0, 1, -1), (2, 4, 0)])]
    """
    all_lines = LineSplitter().feed(head.removeprefix(b"\xef\xbb\xbf"), 0)
    lines = list(itertools.islice(all_lines, MOST_LINES))
    _, judged = LineReader(shape, learns_again=False).feed(lines)
    columns = {position: number for number, position in enumerate(channels)}
    if shape.time is not None:
        columns[shape.time] = TIME
    return tuple(_seen(one, shape, columns) for one in judged)


def _seen(line: JudgedLine, shape: LineShape, columns: dict[int, int]) -> LineSeen:
    text = line.text[:_LONGEST]
    parts: tuple[LinePart, ...] = ()
    if text.strip() == shape.header and shape.header:
        parts = (LinePart(0, len(text), None),)
        return LineSeen(line.number, text, "header", line.reason, parts)
    if line.verdict in ("read", "read in part"):
        parts = tuple(_parts(text, shape, columns))
    return LineSeen(line.number, text, line.verdict, line.reason, parts)


def _parts(text: str, shape: LineShape, columns: dict[int, int]) -> list[LinePart]:
    """Where each value stands, found one after the other."""
    parts = []
    at = 0
    by_label = {column.label: n for n, column in enumerate(shape.columns)}
    for place, cell in enumerate(cells_of(text, shape.manner) or ()):
        position = by_label.get(cell.label, -1) if shape.is_by_label else place
        start = text.find(cell.text, at) if cell.text else -1
        if start < 0:
            continue
        at = start + len(cell.text)
        if position in columns:
            parts.append(LinePart(start, at, columns[position]))
    return parts
