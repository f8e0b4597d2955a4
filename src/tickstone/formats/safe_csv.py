"""CSV that a spreadsheet shows and does not run, and back again."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

_RUNS = ("=", "+", "-", "@", "\t", "\r")


def guarded(cell: str) -> str:
    """A cell with an apostrophe before anything a spreadsheet would take for a formula.

    >>> guarded("=1+1"), guarded("'x"), guarded("D7")
    ("'=1+1", "''x", 'D7')
    """
    return f"'{cell}" if cell.startswith((*_RUNS, "'")) else cell


def unguarded(cell: str) -> str:
    """What `guarded` made, undone.

    >>> unguarded(guarded("+")), unguarded("D7")
    ('+', 'D7')
    """
    return cell[1:] if cell.startswith("'") else cell


def written(header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """The table as CSV with every text cell guarded."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    for row in rows:
        writer.writerow([guarded(cell) for cell in row])
    return out.getvalue()


def read_table(text: str, header: Sequence[str], most_rows: int) -> list[dict[str, str]]:
    """The rows under a header that has these columns, in any order; others are passed over.

    Raises ValueError naming the column that is missing or the line that is too long.
    """
    lines = csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline=""))
    try:
        found = [cell.strip() for cell in next(lines, [])]
        missing = [name for name in header if name not in found]
        if missing:
            raise ValueError(
                f"line 1: there is no column “{missing[0]}”; needs {', '.join(header)}"
            )
        rows: list[dict[str, str]] = []
        for cells in lines:
            if not any(cell.strip() for cell in cells):
                continue
            if len(rows) == most_rows:
                raise ValueError(f"line {lines.line_num}: more than {most_rows} rows")
            if len(cells) < len(found):
                raise ValueError(
                    f"line {lines.line_num}: {len(cells)} cells, but the header has {len(found)}"
                )
            row = dict(zip(found, (unguarded(cell.strip()) for cell in cells), strict=False))
            rows.append({**row, "line": str(lines.line_num)})
    except csv.Error as error:
        raise ValueError(f"line {lines.line_num}: {error}") from error
    return rows
