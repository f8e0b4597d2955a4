"""Inertial parts at rest and in motion: a digital six-axis part and an analogue three-axis one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

Vector = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class SixAxisModel:
    """A 16-bit part. per_g, per_dps: counts at ±2 g and ±250 °/s (common practice). scale: of each
    accelerometer axis; cross: how much of the next axis each feels, a share.
    """

    per_g: float = 16_384.0
    per_dps: float = 131.0
    bias_g: Vector = (0.012, -0.021, 0.034)
    bias_dps: Vector = (1.9, -0.7, 0.4)
    noise_g: float = 0.004
    noise_dps: float = 0.06
    scale: Vector = (1.0, 1.0, 1.0)
    cross: float = 0.0

    def counts(
        self, force_g: Vector, rate_dps: Vector, rng: np.random.Generator
    ) -> tuple[list[int], list[int]]:
        """Acceleration and rotation counts; what is beyond 16 bits is clipped, as the part does."""
        nexts = (*force_g[1:], force_g[0])
        force = [
            _clipped((s * f + self.cross * n + b + rng.normal(0.0, self.noise_g)) * self.per_g)
            for s, f, n, b in zip(self.scale, force_g, nexts, self.bias_g, strict=True)
        ]
        rate = [
            _clipped((r + b + rng.normal(0.0, self.noise_dps)) * self.per_dps)
            for r, b in zip(rate_dps, self.bias_dps, strict=True)
        ]
        return force, rate


BRAMBLE_DECK = SixAxisModel(noise_dps=0.05, scale=(1.011, 0.992, 1.004), cross=0.006)
"""The demo cart’s own."""


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
