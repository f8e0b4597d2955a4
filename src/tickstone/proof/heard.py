"""What a listening program printed, and what its world was to tell it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

Told = Mapping[str, Sequence[float]]
"""What each column is to say, line by line, by its name."""


@dataclass(frozen=True, slots=True)
class Heard:
    """The names of its columns, and its lines; None where it said nothing.

    lines: as they were printed. written: registers of units, as (address, register, value).
    stack_bytes: the deepest, where that was measured.
    """

    banner: str
    columns: tuple[str, ...]
    rows: tuple[tuple[float | None, ...], ...]
    lines: tuple[str, ...] = ()
    written: tuple[tuple[int, int, int], ...] = ()
    stack_bytes: int = 0

    def column(self, name: str) -> list[float | None]:
        """One column, line by line. Raises ValueError when there is none of that name."""
        place = self.columns.index(name)
        return [row[place] for row in self.rows]


def heard_in(lines: Sequence[str]) -> Heard:
    """A banner, a header, and lines; the last one may be cut."""
    banner, header, *rest = lines
    columns = tuple(one.partition("[")[0] for one in header.split(","))
    rows = [line.split(",") for line in rest]
    whole = [row for row in rows if len(row) == len(columns)]
    values = tuple(tuple(float(c) if c else None for c in row) for row in whole)
    return Heard(banner, columns, values, tuple(lines))


def word_of(celsius: float, percent: float) -> bytes:
    """Temperature and humidity as their word of 40 bits.

    >>> word_of(-1.5, 45.5).hex()
    '01c7800f57'
    """
    tenths = round(abs(celsius) * 10) | (0x8000 if celsius < 0 else 0)
    body = round(percent * 10).to_bytes(2, "big") + tenths.to_bytes(2, "big")
    return body + bytes([sum(body) & 0xFF])
