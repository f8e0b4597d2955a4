"""The middle of the last few good readings: a single spike never gets through."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code
from tickstone.core.emit.recent import Recent
from tickstone.core.emit.terms import Name, Term
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter, recent_of
from tickstone.core.step import Operand, Reading


@dataclass(frozen=True, slots=True)
class RunningMedian(LaneFilter):
    """Median of the last `n` good samples, this one included; any unit to itself, lane by lane.

    The first samples use what there is. State: for each lane its last n − 1 good values.

    n: odd, 1 or more. Adds a lag of (n − 1)/2 samples while the target moves.

    Raises ValueError for an even or non-positive n.

    >>> from tickstone.core.signal import Signal
    >>> stage = RunningMedian(3)
    >>> result, state = stage.run(stage.begin(), Signal.of(range(5), [1.0, 1.1, 9.0, 1.2, 1.3]))
    >>> result.value.tolist(), state
    ([1.0, 1.05, 1.1, 1.2, 1.3], ((1.2, 1.3),))
    """

    name: ClassVar[str] = "median"
    label: ClassVar[str] = "middle of"
    sign: ClassVar[str] = "⌇"
    formula: ClassVar[str] = "median of the last n good readings"
    source: ClassVar[str] = "running median; common practice"

    n: int

    def __post_init__(self) -> None:
        if self.n < 1 or self.n % 2 == 0:
            raise ValueError(f"a median needs an odd number of readings, 1 or more, not {self.n}")

    def operand(self) -> Operand:
        """n."""
        return Operand(float(self.n), "", 0.0, "good readings")

    def note(self) -> str:
        """Half its length."""
        return f"Lags by {(self.n - 1) // 2} readings while something moves."

    def filled(self, state: State, reading: Reading, told: float) -> str:
        """The readings the middle one was picked from."""
        recent = [*(state[0] if state else ()), reading.value]
        return "middle of " + ", ".join(reading.quantity.said(value, 3) for value in recent)

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """The last n − 1 values are the state."""
        recent, before, after = recent_of(values, good, state, self.n)
        if len(recent) > before:
            values[good] = _running_median(recent, self.n)[before:]
        return after

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        recent = Recent(code, self.n)
        recent.take(value)
        code.set(value, recent.median())


def _running_median(values: FloatArray, n: int) -> FloatArray:
    result = np.empty_like(values)
    for end in range(1, min(n, len(values) + 1)):
        result[end - 1] = np.median(values[:end])
    if len(values) >= n:
        windows = np.lib.stride_tricks.sliding_window_view(values, n)
        if n == 3:
            first, second, third = windows[:, 0], windows[:, 1], windows[:, 2]
            low, high = np.minimum(first, second), np.maximum(first, second)
            result[n - 1 :] = np.maximum(low, np.minimum(high, third))
        else:
            result[n - 1 :] = np.partition(windows, n // 2, axis=1)[:, n // 2]
    return result
