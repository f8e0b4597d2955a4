"""Scalar Kalman filters, one for roll and one for pitch: an angle, and what the gyroscope adds."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.attitude import ALL_TRUST, Fusion, Trust, rates_of, tilts_of, within_a_turn
from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Name, Term
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

    def emit_loop(
        self, code: Code, force: Sequence[Term], rate: Sequence[Term], dt: Term, told: Term,
        begun: Name,
    ) -> tuple[Term, Term, Term]:  # fmt: skip
        """The same for one good sample."""
        heading = code.state("heading", 0.0)
        axes = [_Axis(code, name) for name in ("roll", "pitch")]
        tilts = [code.let("tilt", one) for one in tilts_of(force)]
        with code.when(begun):
            *rates, turn = rates_of(code, rate, axes[0].angle, axes[1].angle)
            rates = [code.let("rate", one) for one in rates]
            code.set(heading, heading + dt * turn)
            for axis, told_rate, tilt in zip(axes, rates, tilts, strict=True):
                axis.go_on(told_rate, dt, self.q_angle, self.q_bias)
                with code.when(told):
                    axis.draw_to(tilt, self.r)
                code.set(axis.angle, within_a_turn(code, axis.angle))
        with code.otherwise(), code.when(told):
            for axis, tilt in zip(axes, tilts, strict=True):
                code.set(axis.angle, tilt)
                code.set(axis.paa, self.r)
            code.set(begun, True)
        return axes[0].angle, axes[1].angle, heading


class _Axis:
    """Angle, bias and their covariance of one axis on a board."""

    def __init__(self, code: Code, name: str) -> None:
        self._code = code
        self.angle, self.bias, self.paa, self.pab, self.pbb = (
            code.state(f"{name}_{hint}", 0.0) for hint in ("angle", "bias", "paa", "pab", "pbb")
        )

    def go_on(self, rate: Term, dt: Term, q_angle: float, q_bias: float) -> None:
        """By the gyroscope."""
        code = self._code
        code.set(self.angle, self.angle + dt * (rate - self.bias))
        grown = dt * (dt * self.pbb - 2.0 * self.pab) + q_angle * dt
        code.set(self.paa, self.paa + grown)
        code.set(self.pab, self.pab - dt * self.pbb)
        code.set(self.pbb, self.pbb + q_bias * dt)

    def draw_to(self, tilt: Term, r: float) -> None:
        """To what the force says."""
        code = self._code
        away = code.let("away", within_a_turn(code, code.let("off", tilt - self.angle)))
        s = code.let("s", self.paa + r)
        ka, kb = code.let("ka", self.paa / s), code.let("kb", self.pab / s)
        code.set(self.angle, self.angle + ka * away)
        code.set(self.bias, self.bias + kb * away)
        code.set(self.pbb, self.pbb - kb * self.pab)
        code.set(self.pab, self.pab * (1.0 - ka))
        code.set(self.paa, self.paa * (1.0 - ka))
