"""Cells that sag under load, read through a divider."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class BatteryModel:
    """Four cells of 1.2 V by default. inner_ohm: of the whole pack."""

    full_v: float = 5.4
    empty_v: float = 4.2
    inner_ohm: float = 0.35
    life_s: float = 5_400.0
    divider: float = 0.5
    reference_v: float = 5.0
    bits: int = 10

    def volts(self, age_s: float, current_a: float) -> float:
        """At the terminals after `age_s` of use, V."""
        share = min(1.0, max(0.0, age_s / self.life_s))
        return self.full_v - (self.full_v - self.empty_v) * share - self.inner_ohm * current_a

    def counts(self, age_s: float, current_a: float, rng: np.random.Generator) -> int:
        """Converter counts behind the divider."""
        volts = self.volts(age_s, current_a) * self.divider + rng.normal(0.0, 0.003)
        return int(max(0, min(2**self.bits - 1, volts / self.reference_v * 2**self.bits)))
