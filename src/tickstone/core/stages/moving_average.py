"""The mean of the last few good readings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.recent import Recent
from tickstone.core.emit.terms import Name, Term
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter, recent_of
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class MovingAverage(LaneFilter):
    """Mean of the last n good samples, this one included; the first ones use what there is.

    Raises ValueError for n below 1.

    >>> from tickstone.core.signal import Signal
    >>> MovingAverage(2).run((), Signal.of(range(4), [0.0, 2.0, 4.0, 4.0]))[0].value.tolist()
    [0.0, 1.0, 3.0, 4.0]
    """

    name: ClassVar[str] = "average"
    label: ClassVar[str] = "mean of"
    formula: ClassVar[str] = "Σx/n"
    source: ClassVar[str] = "moving average; common practice"

    n: int

    def __post_init__(self) -> None:
        if self.n < 1:
            raise ValueError(f"a mean takes 1 reading or more, not {self.n}")

    def operand(self) -> Operand:
        """n."""
        return Operand(float(self.n), "", 0.0, "good readings")

    def note(self) -> str:
        """Half its length."""
        return f"Lags by {(self.n - 1) / 2:g} readings."

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """The last n − 1 values are the state."""
        recent, before, after = recent_of(values, good, state, self.n)
        if len(recent) > before:
            result = np.empty(len(recent) - before)
            first_full = max(0, self.n - 1 - before)
            for place in range(min(first_full, len(result))):
                result[place] = np.mean(recent[: before + place + 1])
            if len(recent) >= self.n and first_full < len(result):
                windows = np.lib.stride_tricks.sliding_window_view(recent, self.n)
                result[first_full:] = windows[before + first_full - self.n + 1 :].mean(axis=1)
            values[good] = result
        return after

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        recent = Recent(code, self.n)
        recent.take(value)
        code.set(value, recent.mean())
