"""Complementary filter: the gyroscope for what is quick, gravity for what lasts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.attitude import ALL_TRUST, Fusion, Trust
from tickstone.core.loops.attitude import complementary
from tickstone.core.signal import FloatArray
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class Complementary(Fusion):
    """Turned on by the rate, then drawn towards the tilt by dt/(τ + dt) of what is between.

    over_s: τ, s: gravity decides over longer than this, the gyroscope over less. share: that share
    fixed instead, whatever the time between readings; 0: by τ.

    Raises ValueError when τ is not above 0, or the share not a share.

    >>> from tickstone.core.quantity import FORCE, ROTATION
    >>> from tickstone.core.signal import Signal
    >>> stage = Complementary(0.5)
    >>> force = Signal.of([0, 1], [[0, 0], [0, 0], [9.8, 9.8]], FORCE)
    >>> still = Signal.of([0, 1], [[0, 0.3], [0, 0], [0, 0]], ROTATION)
    >>> stage.run(stage.begin(), force, still)[0].value.round(3).tolist()
    [0.0, 0.1]
    """

    name: ClassVar[str] = "complementary"
    label: ClassVar[str] = "complementary"
    formula: ClassVar[str] = "φ ← φ + ω·dt; φ ← φ + (tilt − φ)·dt/(τ + dt)"
    source: ClassVar[str] = "complementary filter; common practice"
    size: ClassVar[int] = 4

    over_s: float
    trust: Trust = ALL_TRUST
    share: float = 0.0

    def __post_init__(self) -> None:
        if not self.over_s > 0.0:
            raise ValueError("τ has to lie above 0")
        if not 0.0 <= self.share <= 1.0:
            raise ValueError("the share of gravity lies from 0 to 1")

    def lag_s(self, dt_s: float) -> float:
        """τ."""
        return dt_s / self.share - dt_s if self.share else self.over_s

    def operand(self) -> Operand:
        """τ."""
        return Operand(self.over_s, "s", 0.0, "gravity after")

    def loop(
        self, force: FloatArray, rate: FloatArray, dt_s: FloatArray, is_good: Any, is_told: Any,
        out: FloatArray, state: FloatArray,
    ) -> None:  # fmt: skip
        """Sample by sample."""
        share = dt_s / (self.over_s + dt_s) if not self.share else np.full_like(dt_s, self.share)
        complementary(force, rate, dt_s, is_good, is_told, share, out, state)
