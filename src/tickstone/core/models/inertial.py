"""Inertial parts at rest and in motion: a digital six-axis part and an analogue three-axis one."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

Vector = tuple[float, float, float]


def gravity_g(pitch_rad: float, roll_rad: float) -> Vector:
    """Specific force of a part at rest, in g: the axis pointing up reads +1.

    >>> [round(a, 3) for a in gravity_g(-math.pi / 6, 0.0)]
    [0.5, 0.0, 0.866]
    """
    return (
        -math.sin(pitch_rad),
        math.cos(pitch_rad) * math.sin(roll_rad),
        math.cos(pitch_rad) * math.cos(roll_rad),
    )


@dataclass(frozen=True, slots=True)
class SixAxisModel:
    """A 16-bit part. per_g, per_dps: counts at ±2 g and ±250 °/s (common practice)."""

    per_g: float = 16_384.0
    per_dps: float = 131.0
    bias_g: Vector = (0.012, -0.021, 0.034)
    bias_dps: Vector = (1.9, -0.7, 0.4)
    noise_g: float = 0.004
    noise_dps: float = 0.06

    def counts(
        self, force_g: Vector, rate_dps: Vector, rng: np.random.Generator
    ) -> tuple[list[int], list[int]]:
        """Acceleration and rotation counts; what is beyond 16 bits is clipped, as the part does."""
        force = [
            _clipped((f + b + rng.normal(0.0, self.noise_g)) * self.per_g)
            for f, b in zip(force_g, self.bias_g, strict=True)
        ]
        rate = [
            _clipped((r + b + rng.normal(0.0, self.noise_dps)) * self.per_dps)
            for r, b in zip(rate_dps, self.bias_dps, strict=True)
        ]
        return force, rate


@dataclass(frozen=True, slots=True)
class AnalogueAccelerometerModel:
    """A ratiometric ±3 g part through a converter. zero, per_g: in volts at its supply."""

    supply_v: float = 3.3
    reference_v: float = 3.3
    bits: int = 10
    offset_v: Vector = (0.012, -0.008, 0.021)
    noise_g: float = 0.012
    reach_g: float = 3.6

    def counts(self, force_g: Vector, rng: np.random.Generator) -> list[int]:
        """Converter counts of the three axes. A tenth of the supply is 1 g (common practice)."""
        full = 2**self.bits
        result = []
        for force, offset in zip(force_g, self.offset_v, strict=True):
            seen = max(-self.reach_g, min(self.reach_g, force + rng.normal(0.0, self.noise_g)))
            volts = self.supply_v / 2 + seen * self.supply_v / 10 + offset
            result.append(int(max(0, min(full - 1, volts / self.reference_v * full))))
        return result


def _clipped(counts: float) -> int:
    return max(-32_768, min(32_767, round(counts)))
