"""Lines that a terminal tore when it overran, told from lines that are wrong by themselves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from tickstone.core.lines.counting import LineCounter
from tickstone.core.lines.reader import JudgedLine, Row

MOST_HELD = 8
"""So many bad lines in a row are no tear: the board says something else now."""
TORN_WORDS = "the terminal overran here: its ends belong to different lines"


@dataclass(slots=True)
class Tearing:
    """Watches lines and rows in the order they came.

    A bad line is held back until the next good one: when the board's own count says that more is
    missing between the good ones than lies there, bytes were lost on the way and what lies there
    was torn; it belongs to the gap. When as many are missing as lie there, none was lost: the bad
    lines are those that are missing.
    """

    _counter: LineCounter | None = None
    _held: list[JudgedLine] = field(default_factory=list)

    def sort(
        self, rows: Sequence[Row], judged: Sequence[JudgedLine]
    ) -> tuple[list[JudgedLine], list[int]]:
        """Lines with torn ones told, and for each row how many lines before it never came whole."""
        sorted_lines: list[JudgedLine] = []
        missing: list[int] = []
        for line in judged:
            if line.verdict in ("bad", "torn") and len(self._held) < MOST_HELD:
                self._held.append(line)
                continue
            if line.verdict in ("read", "read in part") and len(missing) < len(rows):
                skipped = self._skipped(rows[len(missing)])
                torn = sum(one.verdict == "torn" for one in self._held)
                if skipped > len(self._held):
                    self._held = [_torn(one) for one in self._held]
                    missing.append(skipped)
                else:
                    missing.append(max(torn, skipped - len(self._held) + torn))
            sorted_lines += self.rest()
            sorted_lines.append(line)
        return sorted_lines, missing

    def rest(self) -> list[JudgedLine]:
        """What is still held back, when no row will decide it."""
        held, self._held = self._held, []
        return held

    def _skipped(self, row: Row) -> int:
        if self._counter is None or self._counter.shape is not row.shape:
            self._counter = LineCounter(row.shape)
        return self._counter.missing_before(row.values)


def _torn(line: JudgedLine) -> JudgedLine:
    return replace(line, verdict="torn", reason=TORN_WORDS)
