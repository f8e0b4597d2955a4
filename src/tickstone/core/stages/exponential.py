"""Exponential smoothing: a share of every new reading."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Name, Term, is_number, pick
from tickstone.core.loops.smoothing import exponential
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class Exponential(LaneFilter):
    """y ← y + a·(x − y); begins at the first reading.

    share: a, above 0 and up to 1. Raises ValueError otherwise.

    >>> from tickstone.core.signal import Signal
    >>> Exponential(0.5).run((), Signal.of(range(3), [0.0, 1.0, 1.0]))[0].value.tolist()
    [0.0, 0.5, 0.75]
    """

    name: ClassVar[str] = "exponential"
    label: ClassVar[str] = "smoothed"
    formula: ClassVar[str] = "y ← y + a·(x − y)"
    source: ClassVar[str] = "exponential smoothing; common practice"
    fresh: ClassVar[tuple[float, ...]] = (float("nan"),)

    share: float

    def __post_init__(self) -> None:
        if not 0.0 < self.share <= 1.0:
            raise ValueError(
                f"the share of a new reading lies above 0 and up to 1, not {self.share}"
            )

    def operand(self) -> Operand:
        """a."""
        return Operand(self.share, "", 0.0, "of each new one")

    def note(self) -> str:
        """(1 − a)/a readings."""
        return f"Lags by {(1.0 - self.share) / self.share:.1f} readings while it rises evenly."

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """y is the state."""
        kept = np.array(state)
        exponential(values, good, np.full(len(values), self.share), kept)
        return kept.tolist()

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        y = code.state("y")
        share = code.constant("share", self.share, "", None, "chosen")
        code.set(y, pick(is_number(y), y + share * (value - y), value))
        code.set(value, y)
