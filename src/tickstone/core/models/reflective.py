"""Reflective sensors over a dark strip: light out, light back, room light beside it."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray

MAINS_FLICKER_HZ = 100.0
"""A lamp on 50 Hz mains is brightest twice a period."""
_FLICKER = 0.35
FULL, SATURATED = 1_023, 28


@dataclass(frozen=True, slots=True)
class Scene:
    """What a row of sensors stands over. line_mm: of the middle of the strip, to the right of the
    row's; strip_mm: its width. height_mm: of the sensors. ambient: room light, 0 dark to 1 sun.
    lamp: how bright the lamps are, 1 as usual. dirt: patches that reflect as little as the strip,
    (from, to) mm from the middle of the row. glare: more of the room's light on the right.
    """

    line_mm: float
    strip_mm: float
    height_mm: float = 6.0
    ambient: float = 0.2
    lamp: float = 1.0
    dirt: tuple[tuple[float, float], ...] = ()
    glare: float = 0.0


@dataclass(frozen=True, slots=True)
class ReflectiveModel:
    """One phototransistor with its load to the supply: more light, fewer counts.

    place_mm: of the sensor across the rig. gain: counts that full light from white takes away at
    the best height. dark, light: shares reflected by strip and floor (common practice: 17 % and
    67 %). best_mm: height at which most light comes back. noise: standard deviation, counts.
    is_lit: whether its lamp works. is_dead: whether it answers at all.
    """

    place_mm: float
    gain: float = 1_150.0
    dark: float = 0.17
    light: float = 0.67
    best_mm: float = 6.0
    noise: float = 2.5
    is_lit: bool = True
    is_dead: bool = False

    def counts(self, scene: Scene, time_s: float, rng: np.random.Generator) -> int:
        """Converter counts."""
        if self.is_dead:
            return FULL
        # The higher it sits, the wider it looks.
        spot_mm = 3.0 + 0.6 * scene.height_mm
        reflected = self.light + (self.dark - self.light) * self._dark_share(scene, spot_mm)
        ratio = max(0.05, scene.height_mm / self.best_mm)
        low = ratio * math.exp(1.0 - ratio)
        back = low * low if ratio < 1 else 1.0 / (ratio * ratio)
        side = max(0.0, 1.0 + scene.glare * self.place_mm / 40.0)
        flicker = 1.0 + _FLICKER * math.sin(2.0 * math.pi * MAINS_FLICKER_HZ * time_s)
        room = 0.35 * scene.ambient * side * min(1.0, scene.height_mm / 12.0)
        lamp = scene.lamp if self.is_lit else 0.0
        # What the lamps of the room send down comes back as the floor lets it.
        current = reflected * (back * lamp + 0.4 * room * flicker) + 0.6 * room * flicker
        counts = FULL - self.gain * current + rng.normal(0.0, self.noise)
        return int(min(FULL, max(SATURATED, round(counts))))

    def _dark_share(self, scene: Scene, spot_mm: float) -> float:
        """Share of the spot that falls on the strip, or on dirt; the spot is taken as even."""
        half = scene.strip_mm / 2
        patches = ((scene.line_mm - half, scene.line_mm + half), *scene.dirt)
        return min(1.0, sum(self._covered(patch, spot_mm) for patch in patches))

    def _covered(self, patch: tuple[float, float], spot_mm: float) -> float:
        low = max(self.place_mm - spot_mm / 2, patch[0])
        high = min(self.place_mm + spot_mm / 2, patch[1])
        return max(0.0, high - low) / spot_mm


@dataclass(frozen=True, slots=True)
class ReflectiveRow:
    """Sensors in a row, none quite like another.

    >>> row = ReflectiveRow((-19.0, 0.0, 19.0))
    >>> counts = row.counts(Scene(0.0, 19.0), 0.0, np.random.default_rng(1))
    >>> counts[1] > 700 > counts[0]
    True
    """

    places_mm: tuple[float, ...]
    uneven: float = 0.08
    models: tuple[ReflectiveModel, ...] = field(init=False)

    def __post_init__(self) -> None:
        rng = np.random.default_rng(len(self.places_mm))
        models = tuple(
            ReflectiveModel(
                place,
                gain=1_150.0 * (1.0 + self.uneven * float(rng.uniform(-1.0, 1.0))),
                best_mm=6.0 + float(rng.uniform(-0.4, 0.4)),
                noise=2.5 + float(rng.uniform(0.0, 2.0)),
            )
            for place in self.places_mm
        )
        object.__setattr__(self, "models", models)

    def counts(self, scene: Scene, time_s: float, rng: np.random.Generator) -> list[int]:
        """Counts of every sensor."""
        return [model.counts(scene, time_s, rng) for model in self.models]

    def along(
        self, scenes: list[Scene], time_s: npt.ArrayLike, rng: np.random.Generator
    ) -> FloatArray:
        """Counts of every sensor over many scenes, shape (sensors, scenes)."""
        times = np.asarray(time_s, dtype=np.float64)
        rows = [self.counts(scene, t, rng) for scene, t in zip(scenes, times.tolist(), strict=True)]
        return np.array(rows, dtype=np.float64).T
