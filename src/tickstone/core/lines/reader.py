"""Reading lines with a shape learnt on the way; what does not fit is kept with its place."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Literal

from tickstone.core.lines.clock import BoardClock
from tickstone.core.lines.shape import (
    ENOUGH_LINES,
    MOST_COLUMNS,
    LineShape,
    is_too_wide,
    learn_shape,
    with_unit_by_arrival,
)
from tickstone.core.lines.splitter import RawLine
from tickstone.core.lines.tokens import (
    COMMENT,
    SEPARATORS,
    Cell,
    Manner,
    cells_of,
)
from tickstone.core.status import Status

MOST_LEARNING_LINES = 40
RELEARN_AFTER = 20
_LEARN_AT = {n * ENOUGH_LINES for n in (1, 2, 3, 4, 6, 8, 12, 16)}
"""Numbers of lines with digits at which learning is tried again."""
_SIMPLE = re.compile(r"[\d\s,;|.eE+\-]+")

_DIGIT = re.compile(r"\d")

Verdict = Literal["read", "read in part", "header", "text", "bad", "torn", "waiting"]


@dataclass(frozen=True, slots=True)
class JudgedLine:
    """A line and what became of it. reason: why, for all but a plainly read one."""

    number: int
    text: str
    at_us: int
    verdict: Verdict
    reason: str = ""

    @property
    def is_bad(self) -> bool:
        """Whether something in it was lost to the channels."""
        return self.verdict in ("bad", "read in part")


@dataclass(frozen=True, slots=True)
class Row:
    """One line's samples: a value and a status per channel.

    time_us: by the board's clock from its first line, or the host's clock. host_us: of arrival.
    shape: what it was read with, since that may change between two lines that came together.
    """

    time_us: int
    host_us: int
    values: tuple[float, ...]
    statuses: tuple[Status, ...] | None
    """None when all are OK."""
    shape: LineShape


@dataclass(slots=True)
class LineReader:
    """Learns the shape of the first lines, then reads them and all that follow.

    shape: given when the person or an earlier session has settled it. manner: what the person has
    settled of it. settle_shape: what an earlier session has to say of a shape just learnt.
    learns_again: whether a change of shape is followed.

    >>> from tickstone.core.lines.splitter import LineSplitter
    >>> splitter, reader = LineSplitter(), LineReader()
    >>> text = b"".join(b"t:%d x:%d\\n" % (50 * n, 7 * n) for n in range(9))
    >>> rows, judged = reader.feed(splitter.feed(b"hello\\n" + text + b"\\x80\\x81\\n", 0))
    >>> [row.values for row in rows][:3], judged[-1].reason
    ([(0.0,), (7.0,), (14.0,)], 'it is not text: wrong speed, or noise on the line')
    """

    shape: LineShape | None = None
    manner: Manner | None = None
    settle_shape: Callable[[LineShape], LineShape] = lambda shape: shape
    learns_again: bool = True
    clock: BoardClock | None = None
    relearned: int = 0
    restarts_at: list[int] = field(default_factory=list)
    _waiting: list[RawLine] = field(default_factory=list)
    _numbers: int = 0
    _settled_at: int = 0
    _strangers: list[RawLine] = field(default_factory=list)
    _recent: list[str] = field(default_factory=list)
    _banner: set[str] = field(default_factory=set)
    _is_at_start: bool = False

    def feed(self, lines: Iterable[RawLine]) -> tuple[list[Row], list[JudgedLine]]:
        """Rows and verdicts; nothing while there is too little to learn from."""
        rows: list[Row] = []
        judged: list[JudgedLine] = []
        if self.shape is not None:
            self._read_waiting(rows, judged)  # a person settled the shape meanwhile
        for line in lines:
            if self.shape is None:
                self._waiting.append(line)
                if _has_digit(line.text):
                    self._numbers += 1
                    if self._numbers in _LEARN_AT:
                        self._learn(rows, judged)
                if self.shape is None and len(self._waiting) >= 2 * MOST_LEARNING_LINES:
                    self._give_up_on_oldest(judged)
            else:
                self._read(line, rows, judged)
        return rows, judged

    def settle(self) -> tuple[list[Row], list[JudgedLine]]:
        """Learn from what there is, because no more may come soon."""
        rows: list[Row] = []
        judged: list[JudgedLine] = []
        if self.shape is None and self._waiting and self._settled_at != self._waiting[-1].number:
            self._settled_at = self._waiting[-1].number
            self._learn(rows, judged, at_any_rate=True)
        return rows, judged

    @property
    def waiting(self) -> list[JudgedLine]:
        """The lines it is to learn from; judged once it has. reason: what hinders, if known.

        May be asked from any thread.
        """
        return [
            replace(_given_up(line), verdict="waiting")
            if line.is_garbled or is_too_wide(line.text)
            else JudgedLine(line.number, line.text, line.at_us, "waiting")
            for line in list(self._waiting)
        ]

    def reshape(self, shape: LineShape) -> None:
        """Read with the person's shape from now on; the clock starts anew when its unit changed."""
        if self.clock is not None and self.clock.unit != shape.time_unit:
            self.clock = None
        self.shape = shape
        self.learns_again = False

    @property
    def recent(self) -> list[str]:
        """The last lines, to learn from again in another manner."""
        return list(self._recent) or [line.text for line in self._waiting]

    def _learn(self, rows: list[Row], judged: list[JudgedLine], at_any_rate: bool = False) -> None:
        clear = [line.text for line in self._waiting if not line.is_garbled]
        shape = learn_shape(clear, self.manner)
        if shape is None and at_any_rate and len(clear) < 4 * ENOUGH_LINES:
            shape = learn_shape(clear * (4 * ENOUGH_LINES), self.manner)
        if shape is None:
            return
        self.shape = self.settle_shape(self._timed(shape, self._waiting))
        self._read_waiting(rows, judged)

    def _read_waiting(self, rows: list[Row], judged: list[JudgedLine]) -> None:
        waiting, self._waiting = self._waiting, []
        self._is_at_start = bool(waiting)
        for line in waiting:
            self._read(line, rows, judged)
        self._is_at_start = False

    def _timed(self, shape: LineShape, lines: list[RawLine]) -> LineShape:
        """The shape with the unit of its time checked against when the lines arrived."""
        if shape.time is None:
            return shape
        probe = LineReader(shape, learns_again=False)
        told = [
            (found[0][shape.time], line.at_us)
            for line in lines
            if not isinstance(found := probe._values(line.text), str)
            and not math.isnan(found[0][shape.time])
        ]
        if len(told) < ENOUGH_LINES:
            return shape
        # The first line of a burst may have waited; the steps between rising times count.
        rising = [(b[0] - a[0], b[1] - a[1]) for a, b in itertools.pairwise(told) if b[0] > a[0]]
        return with_unit_by_arrival(
            shape, sum(raw for raw, _ in rising), float(sum(host for _, host in rising))
        )

    def _give_up_on_oldest(self, judged: list[JudgedLine]) -> None:
        """Lines that nothing could be learnt from are kept as such; learning goes on."""
        old, self._waiting = (
            self._waiting[:-MOST_LEARNING_LINES],
            self._waiting[-MOST_LEARNING_LINES:],
        )
        self._numbers = sum(_has_digit(line.text) for line in self._waiting)
        judged.extend(map(_given_up, old))

    def _read(self, line: RawLine, rows: list[Row], judged: list[JudgedLine]) -> None:
        assert self.shape is not None
        outcome = self._understand(line)
        if isinstance(outcome, JudgedLine):
            judged.append(outcome)
            if outcome.verdict == "bad" and not line.is_garbled:
                self._strangers.append(line)
                if self.learns_again and len(self._strangers) >= RELEARN_AFTER:
                    self._learn_again(rows, judged)
            return
        row, reason = outcome
        self._strangers.clear()
        self._is_at_start = False
        rows.append(row)
        self._recent.append(line.text)
        if len(self._recent) > MOST_LEARNING_LINES:
            del self._recent[: -MOST_LEARNING_LINES // 2]
        verdict: Verdict = "read in part" if reason else "read"
        judged.append(JudgedLine(line.number, line.text, line.at_us, verdict, reason))

    def _learn_again(self, rows: list[Row], judged: list[JudgedLine]) -> None:
        """Twenty strange lines in a row: most likely the board runs another program now."""
        strangers, self._strangers = self._strangers, []
        shape = learn_shape([line.text for line in strangers], self.manner)
        if shape is None:
            return
        shape = self._timed(shape, strangers)
        if 2 * len(LineReader(shape, learns_again=False).feed(strangers)[0]) < len(strangers):
            return
        probe = LineReader(self.settle_shape(shape), learns_again=False)
        read_rows, read_lines = probe.feed(strangers)
        numbers = {line.number for line in strangers}
        judged[:] = [one for one in judged if one.number not in numbers]
        self.shape, self.clock, self._recent = probe.shape, probe.clock, probe._recent
        self.relearned += 1
        rows.extend(read_rows)
        judged.extend(read_lines)

    def _understand(self, line: RawLine) -> tuple[Row, str] | JudgedLine:
        assert self.shape is not None
        text = line.text

        def judged(verdict: Verdict, reason: str) -> JudgedLine:
            return JudgedLine(line.number, text, line.at_us, verdict, reason)

        if line.is_torn:
            return judged("torn", "the terminal overran while it came")
        if line.is_garbled:
            return judged("bad", "it is not text: wrong speed, or noise on the line")
        if not text.strip():
            return judged("text", "it is empty")
        found = self._values(text)
        if isinstance(found, str):
            if text.strip() == self.shape.header:
                return judged("header", "it names the columns")
            if text.strip() == self.shape.units:
                return judged("header", "it gives the units")
            if line.is_cut:
                return judged("bad", "it is cut: too long, or the line broke off here")
            if COMMENT.match(text):
                return judged("text", "a comment")
            if not _has_digit(text):
                return judged("text", "words only, no value")
            if text in self._banner:
                return judged("text", "what the board prints when it starts")
            if self._is_at_start:
                self._banner.add(text)
                return judged("text", "it came before the first values")
            return judged("bad", found)
        values, statuses, reason = found
        if line.is_cut:
            return judged("bad", "it is cut: too long, or the line broke off here")
        shape = self.shape
        time_us = line.at_us
        if shape.time is not None:
            raw = values[shape.time]
            if math.isnan(raw):
                if text.strip() in (shape.header, shape.units):
                    return judged("header", "it names the columns, or gives the units")
                return judged("bad", f"its time “{shape.columns[shape.time].name}” is not a number")
            if self.clock is None:
                self.clock = BoardClock(shape.time_unit)
            if not self.clock.can_be(raw):
                name = shape.columns[shape.time].name
                return judged("bad", f"its time “{name}” is beyond what any clock counts to")
            time_us, event = self.clock.read(raw, line.at_us)
            if event == "restart":
                self.restarts_at.append(time_us)
        channels = shape.channels
        kept = tuple(values[index] for index in channels)
        flags = tuple(statuses[index] for index in channels) if statuses else None
        if flags is not None and not any(flags):
            flags = None
        return Row(time_us, line.at_us, kept, flags, shape), reason

    def _values(self, text: str) -> tuple[list[float], list[Status] | None, str] | str:
        """A value per column, statuses when any is not OK, and what was odd; or why it is bad."""
        assert self.shape is not None
        manner = self.shape.manner
        if manner.kind == "separated":
            quick = self._simple_values(text, manner)
            if quick is not None:
                return quick, None, ""
        cells = cells_of(text, manner)
        if not cells:
            return f"it is not {_article(manner.kind)}"
        if self.shape.is_by_label:
            return self._by_label(cells)
        if len(cells) == len(self.shape.columns) + 1 and not cells[-1].text:
            cells = cells[:-1]  # a separator after the last value
        if len(cells) != len(self.shape.columns):
            one = "" if len(cells) == 1 else "s"
            return f"it has {len(cells)} value{one}, not {len(self.shape.columns)}"
        if manner.kind == "separated" and all(cell.status is Status.BAD_TEXT for cell in cells):
            return "there is no number in it"
        return self._checked(list(cells))

    def _simple_values(self, text: str, manner: Manner) -> list[float] | None:
        """The usual case at a tenth of the cost: nothing but plain numbers and the separator."""
        if manner.decimal != "point" or manner.bare_hex or not _SIMPLE.fullmatch(text):
            return None
        separator = SEPARATORS[manner.separator]
        parts = text.split() if separator == " " else text.split(separator)
        if len(parts) != len(self.shape.columns if self.shape else ()):
            return None
        try:
            values = [float(part) for part in parts]
        except ValueError:
            return None
        return values if max(map(abs, values)) <= 2**53 else None

    def _by_label(self, cells: list[Cell]) -> tuple[list[float], list[Status] | None, str] | str:
        assert self.shape is not None
        by_label = {cell.label: cell for cell in cells}
        empty = Cell("", math.nan, Status.MISSING, "", "")
        ordered = [by_label.pop(column.label, empty) for column in self.shape.columns]
        if all(cell is empty for cell in ordered):
            return f"none of its labels is known: {', '.join(by_label)[:60]}"
        strange = [label for label, cell in by_label.items() if cell.status is not Status.BAD_TEXT]
        outcome = self._checked(ordered)
        if strange and not outcome[2]:
            return outcome[0], outcome[1], f"“{strange[0][:40]}” was not there before"
        return outcome

    def _checked(self, cells: list[Cell]) -> tuple[list[float], list[Status] | None, str]:
        assert self.shape is not None
        reason = ""
        for cell, column in zip(cells, self.shape.columns, strict=True):
            is_said = cell.text.lower().lstrip("+-") == "nan"
            if cell.status is Status.BAD_TEXT and column.is_used and not is_said and not reason:
                reason = f"“{cell.text[:40]}” for {column.name} is not a number"
        return [cell.value for cell in cells], [cell.status for cell in cells], reason


def _has_digit(text: str) -> bool:
    return _DIGIT.search(text) is not None


def _given_up(line: RawLine) -> JudgedLine:
    """What a line becomes that no shape could be learnt from."""
    verdict: Verdict = "bad"
    if line.is_garbled:
        reason = "it is not text: wrong speed, or noise on the line"
    elif is_too_wide(line.text):
        reason = f"it holds too many values; {MOST_COLUMNS} to a line are understood"
    elif _has_digit(line.text):
        reason = "no shape could be learnt from the lines around it"
    else:
        verdict, reason = "text", "words only, no value"
    return JudgedLine(line.number, line.text, line.at_us, verdict, reason)


def _article(kind: str) -> str:
    return {
        "json": "JSON with values",
        "labelled": "a line of labels and values",
        "separated": "a line of values",
        "words": "a line with values in it",
    }[kind]
