"""A board's own count of its lines: what it skips are lines that never came."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from tickstone.core.lines.shape import LineShape

COUNTER_NAME = re.compile(
    r"^(n|no|nr|#|i|idx|index|sample|samples|sample[ _]?(no|nr|number|index)|count|counter|seq\w*"
    r"|row|line|packet)\W*$",
    re.IGNORECASE,
)
_ENOUGH = 12
_MOST_MISSING = 10_000
_WORDS = (2**8, 2**16, 2**32)


@dataclass(slots=True)
class LineCounter:
    """Watches the columns of a shape whose names say that they count lines.

    One is believed once twelve of its steps have been one; then a step of more says how many lines
    are missing. A fall is a wrap when a usual word passes over it, else a restart: nothing is known
    then.

    >>> from tickstone.core.lines.shape import learn_shape
    >>> counter = LineCounter(learn_shape(["seq,x", *(f"{n},{n * n % 7}" for n in range(9))]))
    >>> sum(counter.missing_before((float(n), 0.0)) for n in (*range(20), 23, 24, 26))
    4
    """

    shape: LineShape
    _places: tuple[int, ...] = field(init=False)
    _last: list[float] = field(init=False)
    _steady: list[int] = field(init=False)

    def __post_init__(self) -> None:
        columns = (self.shape.columns[index] for index in self.shape.channels)
        self._places = tuple(
            place
            for place, column in enumerate(columns)
            if COUNTER_NAME.match(column.name) and not column.unit
        )
        self._last = [float("nan")] * len(self._places)
        self._steady = [0] * len(self._places)

    def missing_before(self, values: tuple[float, ...]) -> int:
        """How many lines never came between the line before and this one."""
        missing = 0
        for number, place in enumerate(self._places):
            step = self._step(self._last[number], values[place])
            self._last[number] = values[place]
            if step == 1:
                self._steady[number] += 1
            elif 1 < step <= _MOST_MISSING and self._steady[number] >= _ENOUGH:
                missing = max(missing, int(step) - 1)
            else:
                self._steady[number] = 0
        return missing

    @staticmethod
    def _step(before: float, now: float) -> float:
        step = now - before
        if step < 0:
            passed = (word + step for word in _WORDS if before < word)
            step = next((over for over in passed if 0 < over <= _MOST_MISSING), step)
        return step if step == step else 0.0
