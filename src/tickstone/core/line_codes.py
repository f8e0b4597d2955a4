"""What a row of sensors can see at once: every combination of on and off the line, and its name."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import Term, pick, term
from tickstone.core.signal import FloatArray

MOST_IN_TABLE = 8
"""Rows of more sensors have more combinations than a person edits; use the place of the line."""


@dataclass(frozen=True, slots=True)
class Combination:
    """Which sensors are on the line, from left to right. on: as many as there are sensors.

    >>> one = Combination((False, True, True))
    >>> one.picture, one.code, one.side, one.groups
    ('□■■', 6, 0.5, 1)
    """

    on: tuple[bool, ...]

    @property
    def code(self) -> int:
        """Its number: the leftmost sensor counts 1, the next 2, the one after 4."""
        return sum(1 << place for place, is_on in enumerate(self.on) if is_on)

    @property
    def picture(self) -> str:
        """Filled where it is on the line."""
        return "".join("■" if one else "□" for one in self.on)

    @property
    def many(self) -> int:
        """How many are on it."""
        return sum(self.on)

    @property
    def groups(self) -> int:
        """In how many places the line is seen."""
        before = (False, *self.on)
        return sum(one and not was for was, one in zip(before, self.on, strict=False))

    @property
    def side(self) -> float:
        """Where they are on average: -1 at the left end, 1 at the right; 0 when none is."""
        if not self.many:
            return 0.0
        middle = (len(self.on) - 1) / 2.0
        if middle == 0.0:
            return 0.0
        mean = sum(place for place, one in enumerate(self.on) if one) / self.many
        return (mean - middle) / middle

    @property
    def name(self) -> str:
        """In a word or two."""
        if not self.many:
            return "none"
        if self.many == len(self.on):
            return "all"
        if self.groups > 1:
            return "split"
        if abs(self.side) < 1e-9:
            return "middle"
        far = "far " if abs(self.side) > 0.6 else ""
        return f"{far}{'left' if self.side < 0 else 'right'}"

    @property
    def meaning(self) -> str:
        """What it is, most likely."""
        return {
            "none": "lost: the line was left, look to the side it was seen on last",
            "all": "a crossing, a bar, or lifted off the floor",
            "split": "two lines, a fork, or dirt",
            "middle": "on the line, straight",
        }.get(self.name, f"the line lies to the {self.name.removeprefix('far ')}: steer to it")


def combinations(count: int) -> tuple[Combination, ...]:
    """All of so many sensors, by their number. Raises ValueError for more than a table holds."""
    if not 1 <= count <= MOST_IN_TABLE:
        raise ValueError(
            f"a table is for 1 to {MOST_IN_TABLE} sensors, not {count}; steer by the place of the "
            "line instead"
        )
    return tuple(
        Combination(tuple(bool(code >> place & 1) for place in range(count)))
        for code in range(2**count)
    )


def codes_of(states: FloatArray, line_is_dark: bool, is_flipped: bool) -> npt.NDArray[np.intp]:
    """The number of the combination at each sample. states: shape (lanes, n), 1 where dark."""
    bits = 2.0 ** np.arange(len(states))
    bits = bits[::-1] if is_flipped else bits
    dark = bits @ states
    codes: npt.NDArray[np.intp] = (dark if line_is_dark else bits.sum() - dark).astype(np.intp)
    return codes


def code_of(code: Code, flow: Emitted, line_is_dark: bool, is_flipped: bool) -> Term:
    """The same for a board: the number of the combination of one sample."""
    count = len(flow.lanes)
    total: Term = term(0)
    for n, lane in enumerate(flow.lanes):
        bit = 1 << (count - 1 - n if is_flipped else n)
        is_on = lane.value.is_(1.0) if line_is_dark else ~lane.value.is_(1.0)
        total = total + pick(is_on, bit, 0)
    return code.let("number", total)
