"""What is steered: gain, lag and dead time, rolled up into a speed or a place or not, and friction.

    y(s)/u(s) = gain·e^(−delay·s) / (sⁿ·(lag·s + 1)),  n integrators

n = 0 is a speed that follows a duty, n = 1 a place that follows a speed, n = 2 a place that follows
a tilt. Every plant of the bench is one of these with its own numbers; so is one fitted to a run.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.quantity import NUMBER, Quantity

ComplexArray = npt.NDArray[np.complex128]
FloatArray = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Plant:
    """A plant in numbers. gain: unit of y (per sⁿ) for one unit of u, not 0. lag_s, delay_s: s.

    sticks_below: |u| that does not move it from rest. low, high: between which y can be at all.
    measured, steered: what y and u are.
    Raises ValueError for numbers that cannot be.
    """

    gain: float
    lag_s: float
    delay_s: float
    integrators: int = 0
    sticks_below: float = 0.0
    low: float = -math.inf
    high: float = math.inf
    measured: Quantity = NUMBER
    steered: Quantity = NUMBER

    def __post_init__(self) -> None:
        if not (math.isfinite(self.gain) and self.gain != 0.0):
            raise ValueError(f"gain: {self.gain:g} cannot be; with none, nothing steers it")
        for name in ("lag_s", "delay_s", "sticks_below"):
            value = getattr(self, name)
            if not (math.isfinite(value) and value >= 0.0):
                raise ValueError(f"{name}: {value:g} has to be 0 or more")
        if self.integrators not in (0, 1, 2):
            raise ValueError(f"integrators: {self.integrators} is none of 0, 1, 2")

    def response(self, w_rad_s: FloatArray) -> ComplexArray:
        """The frequency response at some angular frequencies, shape (n,)."""
        s = 1j * np.asarray(w_rad_s, dtype=np.float64)
        told: ComplexArray = (
            self.gain * np.exp(-self.delay_s * s) / (s**self.integrators * (self.lag_s * s + 1.0))
        )
        return told
