"""A gate for single wild readings: the median of the last few takes their place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.recent import Recent
from tickstone.core.emit.terms import Name, Term, pick, size
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter, recent_of
from tickstone.core.step import Operand

_ROBUST = 1.4826
"""A median absolute deviation is so much smaller than a standard deviation; normal noise."""


@dataclass(frozen=True, slots=True)
class HampelGate(LaneFilter):
    """x, or the median of the last n where x is more than `sigmas` of their scatter from it.

    n: good readings, this one included. least: scatter that is always granted, in the unit, so that
    a value that stands still does not shut the gate. Raises ValueError for n below 3.

    >>> from tickstone.core.signal import Signal
    >>> HampelGate(5, 3.0, 0.05).run((), Signal.of(range(5), [1, 1.1, 1, 9, 1.0]))[0].value.tolist()
    [1.0, 1.1, 1.0, 1.05, 1.0]
    """

    name: ClassVar[str] = "hampel"
    label: ClassVar[str] = "gate at"
    formula: ClassVar[str] = "median, where |x − median| > k·1.4826·MAD"
    source: ClassVar[str] = "Hampel 1974, the gate of it; common practice"

    n: int
    sigmas: float
    least: float

    def __post_init__(self) -> None:
        if self.n < 3:
            raise ValueError(f"a gate compares with 3 readings or more, not {self.n}")
        if not self.sigmas > 0.0 or not self.least >= 0.0:
            raise ValueError("the width of a gate has to lie above 0")

    def operand(self) -> Operand:
        """k."""
        return Operand(self.sigmas, "", 0.0, f"times the scatter of {self.n}")

    def note(self) -> str:
        """It lags only behind what jumps."""
        return f"What jumps passes after {self.n // 2 + 1} readings."

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """The last n − 1 values, as they came, are the state."""
        recent, before, after = recent_of(values, good, state, self.n)
        fresh = recent[before:]
        if len(fresh) == 0:
            return after
        # The first have fewer before them: filled with what cannot be a number.
        filled = np.concatenate((np.full(self.n - 1 - min(before, self.n - 1), np.nan), recent))
        windows = np.lib.stride_tricks.sliding_window_view(filled, self.n)[-len(fresh) :]
        middle = np.nanmedian(windows, axis=1)
        scatter = _ROBUST * np.nanmedian(np.abs(windows - middle[:, None]), axis=1)
        wild = np.abs(fresh - middle) > self.sigmas * np.maximum(scatter, self.least)
        values[good] = np.where(wild, middle, fresh)
        return after

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        recent = Recent(code, self.n)
        recent.take(value)
        middle = recent.median()
        scatter = code.let("scatter", recent.median_apart(middle) * _ROBUST)
        granted = pick(scatter > self.least, scatter, self.least)
        wild = size(value - middle) > granted * self.sigmas
        code.set(value, pick(wild, middle, value))
