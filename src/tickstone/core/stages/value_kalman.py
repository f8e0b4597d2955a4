"""Scalar Kalman filter of a value that wanders."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Name, Term, is_number
from tickstone.core.loops.smoothing import value_kalman
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter
from tickstone.core.step import Operand


def steady_gain(ratio: float) -> float:
    """K in steady state, of K²/(1 − K) = Q/R: the share of an exponential filter that is the same.

    >>> round(steady_gain(1e-3 / 4e-2), 4)
    0.1461
    """
    # The root without the difference of two large numbers.
    return 2.0 * ratio / (ratio + math.sqrt(ratio * ratio + 4.0 * ratio))


@dataclass(frozen=True, slots=True)
class ValueKalman(LaneFilter):
    """P ← P + Q; K = P/(P + R); y ← y + K·(x − y); P ← (1 − K)·P, at every reading.

    q: by how much the value may have walked from one reading to the next, variance. r: of a
    reading, variance. Both in the unit squared; only q/r counts, once it has run in.

    Raises ValueError when one of them is not above 0.

    >>> from tickstone.core.signal import Signal
    >>> step = Signal.of(range(3), [0.0, 1.0, 1.0])
    >>> ValueKalman(1.0, 1.0).run((), step)[0].value.round(3).tolist()
    [0.0, 0.667, 0.875]
    """

    name: ClassVar[str] = "kalman"
    label: ClassVar[str] = "Kalman"
    formula: ClassVar[str] = "K = P/(P + R); y ← y + K·(x − y)"
    source: ClassVar[str] = "Kalman 1960, a random walk; from memory"
    fresh: ClassVar[tuple[float, ...]] = (float("nan"), 0.0, 0.0)

    q: float
    r: float

    def __post_init__(self) -> None:
        if not self.q > 0.0 or not self.r > 0.0:
            raise ValueError("Q and R have to lie above 0")

    @property
    def gain(self) -> float:
        """K in steady state."""
        return steady_gain(self.q / self.r)

    def operand(self) -> Operand:
        """Q/R."""
        return Operand(self.q / self.r, "", 0.0, "Q/R")

    def note(self) -> str:
        """That of the exponential filter it becomes."""
        k = self.gain
        return (
            f"Once run in, {100.0 * k:.0f} % of each new one: lags by {(1 - k) / k:.1f} readings."
        )

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """y, P and how many came."""
        kept = np.array(state)
        value_kalman(values, good, self.q, self.r, kept)
        return kept.tolist()

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        x, p = code.state("x"), code.state("p", 0.0)
        with code.when(is_number(x)):
            code.set(p, p + self.q)
            gain = code.let("gain", p / (p + self.r))
            code.set(x, x + gain * (value - x))
            code.set(p, p * (1.0 - gain))
        with code.otherwise():
            code.set(x, value)
            code.set(p, self.r)
        code.set(value, x)
