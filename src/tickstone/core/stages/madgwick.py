"""Madgwick's filter: gravity pulls the attitude at one rate, whatever is between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.attitude import ALL_TRUST, Fusion, Quaternion, Trust
from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Name, Term, root
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

    def emit_loop(
        self, code: Code, force: Sequence[Term], rate: Sequence[Term], dt: Term, told: Term,
        begun: Name,
    ) -> tuple[Term, Term, Term]:  # fmt: skip
        """The same for one good sample."""
        turn = Quaternion(code)
        ax, ay, az = force
        length = code.let("length", root(ax * ax + ay * ay + az * az))
        with code.when(begun):
            change = [code.variable("change", one) for one in turn.turning(rate)]
            w, x, y, z = turn.w, turn.x, turn.y, turn.z
            with code.when(length > 0.0):
                by = code.let("by", 1.0 / length)
                f1 = code.let("f", 2.0 * (x * z - w * y) - ax * by)
                f2 = code.let("f", 2.0 * (w * x + y * z) - ay * by)
                f3 = code.let("f", 2.0 * (0.5 - x * x - y * y) - az * by)
                slopes = [
                    code.let("g", one)
                    for one in (
                        -2.0 * y * f1 + 2.0 * x * f2,
                        2.0 * z * f1 + 2.0 * w * f2 - 4.0 * x * f3,
                        -2.0 * w * f1 + 2.0 * z * f2 - 4.0 * y * f3,
                        2.0 * x * f1 + 2.0 * y * f2,
                    )
                ]
                steep = code.let("steep", _squares(slopes))
                with code.when(steep > 0.0):
                    down = code.let("down", root(steep) * (self.beta / steep))
                    for place, slope in zip(change, slopes, strict=True):
                        code.set(place, place - down * slope)
            turn.go_on(change, dt)
        with code.otherwise(), code.when(length > 0.0):
            turn.begin(force)
            code.set(begun, True)
        return turn.angles()


def _squares(of: Sequence[Term]) -> Term:
    first, *rest = of
    total = first * first
    for one in rest:
        total = total + one * one
    return total
