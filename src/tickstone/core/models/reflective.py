"""Reflective sensors over a dark strip: light out, light back, room light beside it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class ReflectiveModel:
    """One phototransistor with its load to the supply: more light, fewer counts.

    place_mm: of the sensor across the rig. gain: counts that full light from white takes away at
    the best height. dark, light: shares reflected by strip and floor (common practice: 17 % and
    67 %). best_mm: height at which most light comes back. saturated: counts with the transistor
    fully on.
    """

    place_mm: float
    gain: float = 1_150.0
    dark: float = 0.17
    light: float = 0.67
    best_mm: float = 6.0
    spot_mm: float = 4.0
    noise: float = 2.5
    saturated: int = 28
    full: int = 1_023

    def counts(
        self,
        line_mm: float,
        strip_mm: float,
        height_mm: float,
        ambient: float,
        rng: np.random.Generator,
    ) -> int:
        """Converter counts. line_mm: middle of the strip; ambient: room light, 0 dark to 1 sun."""
        reflected = self.light + (self.dark - self.light) * self._covered(line_mm, strip_mm)
        ratio = max(0.05, height_mm / self.best_mm)
        back = ratio * math.exp(1.0 - ratio) if ratio < 1 else 1.0 / (ratio * ratio)
        room = 0.35 * ambient * min(1.0, height_mm / 12.0)
        current = reflected * back + room
        counts = self.full - self.gain * current + rng.normal(0.0, self.noise)
        return int(min(self.full, max(self.saturated, round(counts))))

    def _covered(self, line_mm: float, strip_mm: float) -> float:
        """Share of the spot that falls on the strip; the spot is taken as even and square."""
        low = max(self.place_mm - self.spot_mm / 2, line_mm - strip_mm / 2)
        high = min(self.place_mm + self.spot_mm / 2, line_mm + strip_mm / 2)
        return max(0.0, high - low) / self.spot_mm
