"""Complementary filter: the gyroscope for what is quick, gravity for what lasts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.attitude import ALL_TRUST, Fusion, Trust, rates_of, tilts_of, within_a_turn
from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Name, Term, pick
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

    def emit_loop(
        self, code: Code, force: Sequence[Term], rate: Sequence[Term], dt: Term, told: Term,
        begun: Name,
    ) -> tuple[Term, Term, Term]:  # fmt: skip
        """The same for one good sample."""
        roll, pitch, heading = (code.state(hint, 0.0) for hint in ("roll", "pitch", "heading"))
        tilt_roll, tilt_pitch = (code.let("tilt", one) for one in tilts_of(force))
        with code.when(begun):
            rates = rates_of(code, rate, roll, pitch)
            changes = [code.let("change", dt * one) for one in rates]
            for place, change in zip((roll, pitch, heading), changes, strict=True):
                code.set(place, place + change)
            with code.when(told):
                share = code.let("share", self.share if self.share else dt / (self.over_s + dt))
                away = code.let("away", within_a_turn(code, code.let("off", tilt_roll - roll)))
                code.set(roll, roll + share * away)
                code.set(pitch, pitch + share * (tilt_pitch - pitch))
            code.set(roll, within_a_turn(code, roll))
            quarter = math.pi / 2.0
            held = pick(pitch > quarter, quarter, pick(pitch < -quarter, -quarter, pitch))
            code.set(pitch, held)
        with code.otherwise(), code.when(told):
            code.set(roll, tilt_roll)
            code.set(pitch, tilt_pitch)
            code.set(heading, 0.0)
            code.set(begun, True)
        return roll, pitch, heading
