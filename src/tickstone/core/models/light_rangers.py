"""Rangers by light: one by angle, whose voltage folds back, and one that times a flash."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class AngleRangerModel:
    """V = a/(d + d₀) + b beyond its near limit; below it the voltage falls to nothing at its face.

    a: V·m. d0_m: m. b_v: V. near_m: the limit. noise_v: standard deviation.

    >>> model = AngleRangerModel(noise_v=0.0)
    >>> far, near = model.volts(0.25), model.volts(0.043)
    >>> round(far, 2), round(near, 2)
    (1.08, 0.99)
    """

    a: float = 0.302
    d0_m: float = 0.031
    b_v: float = 0.006
    near_m: float = 0.10
    noise_v: float = 0.012
    reference_v: float = 5.0

    def volts(self, distance_m: float) -> float:
        """At its pin."""
        peak = self.a / (self.near_m + self.d0_m) + self.b_v
        if distance_m < self.near_m:
            return peak * max(0.0, distance_m) / self.near_m
        return self.a / (distance_m + self.d0_m) + self.b_v

    def counts(self, distance_m: float, rng: np.random.Generator) -> int:
        """Of a 10-bit converter."""
        volts = self.volts(distance_m) + rng.normal(0.0, self.noise_v)
        return int(min(1_023, max(0, volts * 1_024 / self.reference_v)))


@dataclass(frozen=True, slots=True)
class FlightRangerModel:
    """Millimetres and a status word: 0 good, 2 too weak, 4 out of its reach.

    offset_m: it reads so much too far. per_m2: cross-talk of its cover. reach_m: in the dark; room
    light takes some of it.
    """

    offset_m: float = 0.009
    per_m2: float = 0.06
    reach_m: float = 1.25
    noise_m: float = 0.0018

    def reading(
        self, distance_m: float, ambient: float, rng: np.random.Generator
    ) -> tuple[int, int]:
        """Millimetres and word. ambient: room light, 0 dark to 1 sun."""
        reach = self.reach_m * (1.0 - 0.5 * ambient)
        if distance_m > 1.3 * reach:
            return 8_190, 4
        read = self.offset_m + distance_m / (1.0 + self.per_m2 * distance_m**2)
        grows = 1.0 + 6.0 * max(0.0, distance_m - 0.3)
        told = round(1_000.0 * (read + rng.normal(0.0, self.noise_m * grows)))
        is_weak = distance_m > reach or rng.random() < 0.01
        return max(0, told), 2 if is_weak else 0
