"""Scalar Kalman filters, one for roll and one for pitch: an angle, and what the gyroscope adds."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.attitude import ALL_TRUST, Fusion, Trust
from tickstone.core.loops.attitude import axis_kalman
from tickstone.core.signal import FloatArray
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class AxisKalman(Fusion):
    """The angle and the gyroscope's bias of each axis, weighed by what each is worth.

    q_angle: rad²/s, how fast an angle by the gyroscope walks off. q_bias: (rad/s)²/s, how fast its
    bias does. r: rad², of a tilt at rest.

    Raises ValueError when one of them is not above 0.

    >>> from tickstone.core.quantity import FORCE, ROTATION
    >>> from tickstone.core.signal import Signal
    >>> stage = AxisKalman(1e-4, 1e-6, 1e-3)
    >>> force = Signal.of([0, 1], [[0, 0], [0, 0], [9.8, 9.8]], FORCE)
    >>> still = Signal.of([0, 1], [[0, 0.1], [0, 0], [0, 0]], ROTATION)
    >>> stage.run(stage.begin(), force, still)[0].value.round(3).tolist()
    [0.0, 0.048]
    """

    name: ClassVar[str] = "axis-kalman"
    label: ClassVar[str] = "Kalman, each axis"
    formula: ClassVar[str] = "P ← P + Q·dt; K = P/(P + R); φ ← φ + K·(tilt − φ)"
    source: ClassVar[str] = "Kalman 1960, for an angle and a bias; from memory"
    size: ClassVar[int] = 12

    q_angle: float
    q_bias: float
    r: float
    trust: Trust = ALL_TRUST

    def __post_init__(self) -> None:
        if not min(self.q_angle, self.q_bias, self.r) > 0.0:
            raise ValueError("Q and R have to lie above 0")

    def lag_s(self, dt_s: float) -> float:
        """In steady state, of the angle: dt/K with K²/(1 − K) = Q·dt/R."""
        ratio = self.q_angle * dt_s / self.r
        gain = (math.sqrt(ratio * ratio + 4.0 * ratio) - ratio) / 2.0
        return dt_s / gain

    def operand(self) -> Operand:
        """R, as the scatter of a tilt."""
        return Operand(math.degrees(math.sqrt(self.r)), "°", 0.0, "is a tilt at rest known to")

    def loop(
        self, force: FloatArray, rate: FloatArray, dt_s: FloatArray, is_good: Any, is_told: Any,
        out: FloatArray, state: FloatArray,
    ) -> None:  # fmt: skip
        """Sample by sample."""
        axis_kalman(
            force, rate, dt_s, is_good, is_told, self.q_angle, self.q_bias, self.r, out, state
        )
