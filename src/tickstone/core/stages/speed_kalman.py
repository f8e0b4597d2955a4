"""Scalar Kalman filter of a value that goes on as fast as it went."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Kind, Name, Term, is_number, seconds_between
from tickstone.core.loops.smoothing import speed_kalman
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter
from tickstone.core.step import Operand

_ANY_SPEED = 1e6
"""Times R, per s²: what a speed may be before two readings have told it."""


@dataclass(frozen=True, slots=True)
class SpeedKalman(LaneFilter):
    """A value and its speed; the speed is pushed by white noise, at the times as they are.

    q: of that noise, unit²/s³. r: of a reading, unit². No lag behind what changes evenly; shoots
    over where that stops.

    Raises ValueError when one of them is not above 0.

    >>> from tickstone.core.signal import Signal
    >>> even = Signal.of(range(30), np.arange(30.0))
    >>> round(float(SpeedKalman(1.0, 1.0).run((), even)[0].value[-1]), 3)
    29.0
    """

    name: ClassVar[str] = "speed-kalman"
    label: ClassVar[str] = "Kalman, with speed"
    formula: ClassVar[str] = "y ← y + v·dt + K_y·(x − y); v ← v + K_v·(x − y)"
    source: ClassVar[str] = (
        "Kalman 1960, constant speed; Bar-Shalom, white acceleration; from memory"
    )
    fresh: ClassVar[tuple[float, ...]] = (float("nan"), 0.0, 0.0, 0.0, 0.0, 0.0)

    q: float
    r: float

    def __post_init__(self) -> None:
        if not self.q > 0.0 or not self.r > 0.0:
            raise ValueError("Q and R have to lie above 0")

    def operand(self) -> Operand:
        """q/r."""
        return Operand(self.q / self.r, "1/s³", 0.0, "Q/R")

    def note(self) -> str:
        """None behind an even change."""
        return "No lag behind an even change; shoots over where that ends."

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """Value, speed, their covariance and the time of the last."""
        kept = np.array(state)
        speed_kalman(values, good, time_s, self.q, self.r, _ANY_SPEED * self.r, kept)
        return kept.tolist()

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        x, v = code.state("x"), code.state("v", 0.0)
        pxx, pxv, pvv = (code.state(hint, 0.0) for hint in ("pxx", "pxv", "pvv"))
        last = code.state("last_us", 0.0, Kind.CLOCK)
        with code.when(is_number(x)):
            dt = code.let("dt", seconds_between(at, last))
            code.set(x, x + v * dt)
            grown = dt * (2.0 * pxv + dt * pvv) + self.q * dt * dt * dt / 3.0
            code.set(pxx, pxx + grown)
            code.set(pxv, pxv + (dt * pvv + self.q * dt * dt / 2.0))
            code.set(pvv, pvv + self.q * dt)
            s = code.let("s", pxx + self.r)
            kx, kv = code.let("kx", pxx / s), code.let("kv", pxv / s)
            miss = code.let("miss", value - x)
            code.set(x, x + kx * miss)
            code.set(v, v + kv * miss)
            code.set(pvv, pvv - kv * pxv)
            code.set(pxv, pxv * (1.0 - kx))
            code.set(pxx, pxx * (1.0 - kx))
        with code.otherwise():
            for place, begins in ((v, 0.0), (pxx, self.r), (pxv, 0.0), (pvv, _ANY_SPEED * self.r)):
                code.set(place, begins)
            code.set(x, value)
        code.set(last, at)
        code.set(value, x)
