"""The middle of the last few good readings: a single spike never gets through."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.reading_units import length
from tickstone.core.signal import FloatArray, Signal


@dataclass(frozen=True, slots=True)
class RunningMedian:
    """Median of the last `n` good samples, this one included; m to m or any unit to itself.

    Flagged samples are neither used nor changed. The first samples use what there is.

    n: odd, 1 or more. Adds a lag of (n − 1)/2 samples while the target moves.

    Raises ValueError for an even or non-positive n.

    >>> stage = RunningMedian(3)
    >>> stage.apply(Signal.of(range(5), [1.0, 1.1, 9.0, 1.2, 1.3], "m")).values.tolist()
    [1.0, 1.05, 1.1, 1.2, 1.3]
    """

    name: ClassVar[str] = "median"
    pointwise: ClassVar[bool] = False

    n: int

    def __post_init__(self) -> None:
        if self.n < 1 or self.n % 2 == 0:
            raise ValueError(f"a median needs an odd number of readings, 1 or more, not {self.n}")

    def apply(self, signal: Signal) -> Signal:
        """The running median over the good samples."""
        if self.n == 1:
            return signal
        good = np.flatnonzero(signal.ok)
        if good.size == 0:
            return signal
        values = signal.values.copy()
        values[good] = _running_median(signal.values[good], self.n)
        return signal.replaced(values, signal.unit)

    def is_settled(self, earlier: Signal) -> bool:
        """Whether there are as many good samples as the median takes."""
        return int(np.count_nonzero(earlier.ok)) >= self.n

    def explain(self, reading: Reading) -> Step:
        """The readings the middle one was picked from."""
        recent = reading.earlier.values[reading.earlier.ok][-self.n :]
        usable = reading.status == 0 and recent.size > 0
        value = float(np.median(recent)) if usable else reading.value
        listed = ", ".join(length(reading_m, 3) for reading_m in recent.tolist())
        return Step(
            stage=self.name,
            label="middle of",
            sign="⌇",
            operand=Operand(float(self.n), "", 0.0, "good readings"),
            formula=f"median of the last {self.n} good readings",
            filled=f"middle of {listed}" if usable else "flagged: passed on as it is",
            value=value,
            unit=reading.unit,
            status=reading.status,
            components=reading.components,
            source="running median; common practice",
            note=(
                f"Lags by {(self.n - 1) // 2} readings while something moves. The budget is kept "
                "as for one reading, which is on the safe side."
            ),
        )


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
