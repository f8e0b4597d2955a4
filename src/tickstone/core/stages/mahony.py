"""Mahony's filter: what is off is turned back, and what lasts is taken for bias."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.attitude import ALL_TRUST, Fusion, Trust
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
