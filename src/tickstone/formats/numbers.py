"""What counts as a number in a log."""

from __future__ import annotations

import re

_NUMBER = {
    ".": re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?", re.ASCII),
    ",": re.compile(r"[+-]?(\d+,?\d*|,\d+)([eE][+-]?\d{1,3})?", re.ASCII),
}


def parse_number(cell: str, decimal: str) -> float | None:
    """The number in a cell, or None when it is not plainly one.

    decimal: ``.`` or ``,``. Words such as ``nan`` or ``inf``, digit grouping and units are not
    numbers: they are left for the person to see, never guessed at.

    >>> parse_number(" 5831 ", "."), parse_number("0,05", ","), parse_number("nan", ".")
    (5831.0, 0.05, None)
    """
    text = cell.strip()
    if len(text) > 40 or not _NUMBER[decimal].fullmatch(text):
        return None
    return float(text.replace(",", "."))
