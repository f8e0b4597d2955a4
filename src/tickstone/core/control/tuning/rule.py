"""What a tuning rule is: a plant in, gains out, with what it is for and where it is from."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from scipy.optimize import brentq

from tickstone.core.control.controller import Gains
from tickstone.core.control.plant import Plant

P, PI, PID = "p", "pi", "pid"
TERMS = {P: "P alone", PI: "P and I", PID: "P, I and D"}


@dataclass(frozen=True, slots=True)
class Told:
    """Gains, and how they came about: names and numbers, one step of the sum each."""

    gains: Gains
    working: tuple[tuple[str, float], ...]


class TuningRule:
    """One known way. terms: those it is published for."""

    name: ClassVar[str]
    label: ClassVar[str]
    for_what: ClassVar[str]
    source: ClassVar[str]
    terms: ClassVar[tuple[str, ...]] = (P, PI, PID)

    def tune(self, plant: Plant, terms: str, tau_c_s: float | None = None) -> Told:
        """Gains for a plant. tau_c_s: how fast it is to be, where the rule asks.

        Raises ValueError when the rule does not know such a plant, or such terms.
        """
        raise NotImplementedError

    def check_terms(self, terms: str) -> None:
        """Raises ValueError for terms it is not published for."""
        if terms not in self.terms:
            known = ", ".join(self.terms)
            raise ValueError(f"terms: {self.label} has no table for “{terms[:20]}”; it has {known}")


def ultimate(plant: Plant) -> tuple[float, float]:
    """The gain at which P alone just swings for ever, and the period of that swing, s.

    Raises ValueError when P alone never does, or always.

    >>> k, period_s = ultimate(Plant(1.0, 0.0, 0.5, 1))
    >>> round(k, 4), round(period_s, 4)  # π/2 ÷ 0.5 and 4 × 0.5
    (3.1416, 2.0)
    """
    if plant.integrators == 2:
        raise ValueError(
            "P alone swings at every gain here: what is steered rolls on and on; D has to come "
            "first"
        )
    if plant.delay_s == 0.0:
        raise ValueError("without dead time P alone never swings: there is no edge to find")

    def phase(w: float) -> float:
        lag = math.atan(w * plant.lag_s)
        return plant.delay_s * w + lag + plant.integrators * math.pi / 2.0 - math.pi

    w = float(brentq(phase, 1e-12 / plant.delay_s, math.pi / plant.delay_s, xtol=1e-14))
    size = float(np.abs(plant.response(np.array([w]))[0]))
    return math.copysign(1.0 / size, plant.gain), 2.0 * math.pi / w
