"""Mahony's filter: what is off is turned back, and what lasts is taken for bias."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.attitude import ALL_TRUST, Fusion, Quaternion, Trust
from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Name, Term, root
from tickstone.core.loops.attitude import mahony
from tickstone.core.signal import FloatArray
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class Mahony(Fusion):
    """The rate, corrected by kp of how far up is off and by ki of the sum of that.

    kp: 1/s. ki: 1/s²; 0 learns no bias.

    Raises ValueError when kp is not above 0, or ki below it.

    >>> from tickstone.core.quantity import FORCE, ROTATION
    >>> from tickstone.core.signal import Signal
    >>> stage = Mahony(1.0, 0.0)
    >>> force = Signal.of([0, 1], [[0, 0], [0, 0], [9.8, 9.8]], FORCE)
    >>> still = Signal.of([0, 1], [[0, 0.1], [0, 0], [0, 0]], ROTATION)
    >>> stage.run(stage.begin(), force, still)[0].value.round(3).tolist()
    [0.0, 0.1]
    """

    name: ClassVar[str] = "mahony"
    label: ClassVar[str] = "Mahony"
    formula: ClassVar[str] = "b ← b − ki·e·dt; q ← q + ½·q⊗(ω − b + kp·e)·dt; e = a×v"
    source: ClassVar[str] = "Mahony, Hamel and Pflimlin 2008, eqs. 32 and 48"
    is_quaternion: ClassVar[bool] = True
    size: ClassVar[int] = 8

    kp: float
    ki: float
    trust: Trust = ALL_TRUST

    def __post_init__(self) -> None:
        if not self.kp > 0.0 or not self.ki >= 0.0:
            raise ValueError("kp has to lie above 0, ki at 0 or above")

    def lag_s(self, dt_s: float) -> float:
        """1/kp."""
        return 1.0 / self.kp

    def operand(self) -> Operand:
        """kp."""
        return Operand(self.kp, "1/s", 0.0, "kp")

    def loop(
        self, force: FloatArray, rate: FloatArray, dt_s: FloatArray, is_good: Any, is_told: Any,
        out: FloatArray, state: FloatArray,
    ) -> None:  # fmt: skip
        """Sample by sample."""
        mahony(force, rate, dt_s, is_good, self.kp, self.ki, out, state)

    def emit_loop(
        self, code: Code, force: Sequence[Term], rate: Sequence[Term], dt: Term, told: Term,
        begun: Name,
    ) -> tuple[Term, Term, Term]:  # fmt: skip
        """The same for one good sample."""
        turn = Quaternion(code)
        biases = [code.state(f"bias_{axis}", 0.0) for axis in "xyz"]
        ax, ay, az = force
        length = code.let("length", root(ax * ax + ay * ay + az * az))
        with code.when(begun):
            w, x, y, z = turn.w, turn.x, turn.y, turn.z
            rates = [code.variable("rate", one) for one in rate]
            with code.when(length > 0.0):
                by = code.let("by", 1.0 / length)
                a = [code.let("a", one * by) for one in force]
                v = [
                    code.let("v", one)
                    for one in (
                        2.0 * (x * z - w * y),
                        2.0 * (w * x + y * z),
                        w * w - x * x - y * y + z * z,
                    )
                ]
                for n, (place, bias) in enumerate(zip(rates, biases, strict=True)):
                    i, k = (n + 1) % 3, (n + 2) % 3
                    off = code.let("off", a[i] * v[k] - a[k] * v[i])
                    code.set(bias, bias - self.ki * off * dt)
                    code.set(place, place - bias + self.kp * off)
            with code.otherwise():
                for place, bias in zip(rates, biases, strict=True):
                    code.set(place, place - bias)
            turn.go_on(turn.turning(rates), dt)
        with code.otherwise(), code.when(length > 0.0):
            turn.begin(force)
            code.set(begun, True)
        return turn.angles()
