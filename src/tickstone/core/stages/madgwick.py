"""Madgwick's filter: gravity pulls the attitude at one rate, whatever is between."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.attitude import ALL_TRUST, Fusion, Trust
from tickstone.core.loops.attitude import madgwick
from tickstone.core.signal import FloatArray
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class Madgwick(Fusion):
    """A quaternion turned on by the rate and, by β, down the steepest way towards gravity.

    beta: β, rad/s: how fast gravity may turn it; has to be more than the gyroscope's bias.

    Raises ValueError when β is not above 0.

    >>> from tickstone.core.quantity import FORCE, ROTATION
    >>> from tickstone.core.signal import Signal
    >>> stage = Madgwick(0.03)
    >>> force = Signal.of([0, 1], [[0, 0], [0, 0], [9.8, 9.8]], FORCE)
    >>> still = Signal.of([0, 1], [[0, 0.1], [0, 0], [0, 0]], ROTATION)
    >>> stage.run(stage.begin(), force, still)[0].value.round(3).tolist()
    [0.0, 0.1]
    """

    name: ClassVar[str] = "madgwick"
    label: ClassVar[str] = "Madgwick"
    formula: ClassVar[str] = "q ← q + (½·q⊗ω − β·∇f/|∇f|)·dt"
    source: ClassVar[str] = "Madgwick 2010, eqs. 25–44"
    is_quaternion: ClassVar[bool] = True
    size: ClassVar[int] = 5

    beta: float
    trust: Trust = ALL_TRUST

    def __post_init__(self) -> None:
        if not self.beta > 0.0:
            raise ValueError("β has to lie above 0")

    def lag_s(self, dt_s: float) -> float:
        """About as long as gravity takes over what a tilt scatters by."""
        return max(dt_s, self.trust.tilt_u / (2.0 * self.beta))

    def operand(self) -> Operand:
        """β."""
        return Operand(self.beta, "rad/s", 0.0, "β")

    def loop(
        self, force: FloatArray, rate: FloatArray, dt_s: FloatArray, is_good: Any, is_told: Any,
        out: FloatArray, state: FloatArray,
    ) -> None:  # fmt: skip
        """Sample by sample."""
        madgwick(force, rate, dt_s, is_good, self.beta, out, state)
