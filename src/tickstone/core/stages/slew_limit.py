"""Follows no faster than it may."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Kind, Name, Term, is_number, pick, seconds_between
from tickstone.core.loops.smoothing import slew
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class SlewLimit(LaneFilter):
    """y goes to x, by `most_per_s`·dt at most. Raises ValueError unless that is above 0.

    >>> from tickstone.core.signal import Signal
    >>> SlewLimit(0.5).run((), Signal.of(range(3), [0.0, 1.0, 1.0]))[0].value.tolist()
    [0.0, 0.5, 1.0]
    """

    name: ClassVar[str] = "slew"
    label: ClassVar[str] = "no faster than"
    formula: ClassVar[str] = "|Δy| ≤ limit·dt"
    source: ClassVar[str] = "slew limit; common practice"
    fresh: ClassVar[tuple[float, ...]] = (float("nan"), 0.0)

    most_per_s: float

    def __post_init__(self) -> None:
        if not self.most_per_s > 0.0:
            raise ValueError("a slew limit has to lie above 0")

    def operand(self) -> Operand:
        """The limit."""
        return Operand(self.most_per_s, "1/s", 0.0, "each second")

    def note(self) -> str:
        """As long as a step takes."""
        return "Late by as long as a jump takes at that."

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """y, and the time of the last."""
        kept = np.array(state)
        slew(values, good, time_s, self.most_per_s, kept)
        return kept.tolist()

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        y, last = code.state("y"), code.state("last_us", 0.0, Kind.CLOCK)
        with code.when(is_number(y)):
            most = code.let("most", seconds_between(at, last) * self.most_per_s)
            step = code.let("step", value - y)
            code.set(y, y + pick(step > most, most, pick(step < -most, -most, step)))
        with code.otherwise():
            code.set(y, value)
        code.set(last, at)
        code.set(value, y)
