"""A physical model of a ranger on a bench: where the target stands, and what comes back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tickstone.core.air import cramer
from tickstone.core.air.conditions import AirConditions
from tickstone.core.signal import FloatArray


@dataclass(frozen=True, slots=True)
class Silence:
    """A stretch in which something soft or slanted swallows a share of the echoes."""

    from_s: float
    to_s: float
    share: float


@dataclass(frozen=True, slots=True)
class RangerModel:
    """What this one sensor does to the truth.

    mount_m: its face behind the rig's edge. late_m: it hears that much late. stretch: its clock.
    noise_us: standard deviation. stray: share of single zeros; spike: share of wild readings.
    """

    air: AirConditions
    mount_m: float
    late_m: float
    stretch: float
    noise_us: float
    stray: float
    spike: float
    baseline_m: float = 0.026

    def echoes_us(
        self,
        time_s: FloatArray,
        distance_m: FloatArray,
        silences: Sequence[Silence],
        rng: np.random.Generator,
    ) -> np.ndarray:
        """Whole µs as the device would print them, 0 for no echo."""
        face = distance_m + self.mount_m + self.late_m
        slant = np.hypot(face, self.baseline_m / 2.0)
        true_us = 2e6 * slant / cramer.speed_of_sound(self.air) * self.stretch
        heard = true_us + rng.normal(0.0, self.noise_us, len(time_s))
        wild = rng.random(len(time_s)) < self.spike
        heard[wild] *= rng.uniform(0.5, 0.8, int(wild.sum()))
        silent = rng.random(len(time_s)) < self.stray
        for silence in silences:
            inside = (time_s >= silence.from_s) & (time_s < silence.to_s)
            silent |= inside & (rng.random(len(time_s)) < silence.share)
        heard[silent] = 0.0
        return np.rint(heard).astype(np.int64)


def held_and_moved(time_s: FloatArray, stops: Sequence[tuple[float, float, float]]) -> FloatArray:
    """Distance over time, m: held at each stop (from_s, to_s, distance_m), moved evenly between.

    >>> held_and_moved(np.array([0.0, 1.5, 3.0]), [(0, 1, 0.3), (2, 3, 0.6)]).tolist()
    [0.3, 0.44999999999999996, 0.6]
    """
    times = [edge for start, end, _ in stops for edge in (start, end)]
    places = [distance for _, _, distance in stops for _ in (0, 1)]
    return np.interp(time_s, times, places)
