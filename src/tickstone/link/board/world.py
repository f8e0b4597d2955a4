"""What is true around the stand-in board: where things stand, how it tilts, spins and is lit."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from tickstone.core.axes import three
from tickstone.core.models.inertial import Vector

TARGET_SPEED_M_S = 0.6
SPIN_CHANGE_PER_S2 = 1.5
TILT_SPEED_DEG_S = 40.0
TURN_SPEED_DEG_S = 90.0


@dataclass(frozen=True, slots=True)
class Control:
    """Something a person can move. word: the command's name."""

    word: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    value: float


CONTROLS = (
    Control("target", "Target in front", "m", 0.02, 4.0, 0.01, 0.80),
    Control("side", "Wall at the side", "m", 0.02, 4.0, 0.01, 0.35),
    Control("pitch", "Nose up", "°", -180.0, 180.0, 1.0, 0.0),
    Control("roll", "Left side up", "°", -180.0, 180.0, 1.0, 0.0),
    Control("turn", "Turned to the left", "°", -3600.0, 3600.0, 1.0, 0.0),
    Control("shake", "Shaken, ±", "g", 0.0, 2.0, 0.01, 0.0),
    Control("spin", "Wheel", "turns/s", 0.0, 20.0, 0.1, 0.0),
    Control("light", "Room light", "%", 0.0, 100.0, 1.0, 20.0),
    Control("line", "Strip from the middle", "mm", -80.0, 80.0, 1.0, 0.0),
    Control("sway", "Row swayed across it, ±", "mm", 0.0, 80.0, 1.0, 0.0),
    Control("width", "Strip is wide", "mm", 0.0, 120.0, 1.0, 38.0),
    Control("bend", "Strip winds as it rolls, ±", "mm", 0.0, 80.0, 1.0, 0.0),
    Control("height", "Sensors above the floor", "mm", 1.0, 40.0, 0.5, 6.0),
    Control("lamp", "Lamps under the row", "%", 0.0, 100.0, 100.0, 100.0),
    Control("air", "Air", "°C", -10.0, 45.0, 0.5, 20.0),
)


@dataclass(slots=True)
class World:
    """The truth. wanted: what the controls say; the rest follows at the speed things move."""

    wanted: dict[str, float]
    target_m: float
    side_m: float
    pitch_deg: float
    roll_deg: float
    turn_deg: float
    spin: float
    turns: float = 0.0
    acceleration_g: float = 0.0
    rate_dps: Vector = (0.0, 0.0, 0.0)

    @classmethod
    def at_rest(cls) -> World:
        """Everything where the controls start."""
        wanted = {control.word: control.value for control in CONTROLS}
        return cls(
            wanted,
            wanted["target"],
            wanted["side"],
            wanted["pitch"],
            wanted["roll"],
            wanted["turn"],
            wanted["spin"],
        )

    def want(self, word: str, value: float) -> bool:
        """Move a control; False when there is none of that name or the value is no number."""
        for control in CONTROLS:
            if control.word == word and math.isfinite(value):
                self.wanted[word] = min(control.high, max(control.low, value))
                return True
        return False

    def step(self, dt_s: float, wheel_m: float) -> None:
        """Go on by `dt_s`. wheel_m: circumference, for what a change of spin does to the deck."""
        self.target_m = _towards(self.target_m, self.wanted["target"], TARGET_SPEED_M_S * dt_s)
        self.side_m = _towards(self.side_m, self.wanted["side"], TARGET_SPEED_M_S * dt_s)
        before = self._attitude()
        most = TILT_SPEED_DEG_S * dt_s
        self.pitch_deg = _towards(self.pitch_deg, self.wanted["pitch"], most)
        self.roll_deg = _towards(self.roll_deg, self.wanted["roll"], most)
        self.turn_deg = _towards(self.turn_deg, self.wanted["turn"], TURN_SPEED_DEG_S * dt_s)
        between = (before.inv() * self._attitude()).as_rotvec(degrees=True) / dt_s
        self.rate_dps = three(between.tolist())
        spin = _towards(self.spin, self.wanted["spin"], SPIN_CHANGE_PER_S2 * dt_s)
        self.acceleration_g = (spin - self.spin) / dt_s * wheel_m / 9.80665
        self.turns += (self.spin + spin) / 2.0 * dt_s
        self.spin = spin

    def felt_g(self, rng: np.random.Generator, shakes_per_spin_g: float = 0.0) -> Vector:
        """What the deck feels, g: x forward, y left, z up; at rest +1 upwards."""
        x, y, z = self._attitude().apply([0.0, 0.0, 1.0], inverse=True).tolist()
        shaking = self.wanted["shake"] + shakes_per_spin_g * min(self.spin, 12.0)
        if shaking > 0.0:
            y, z = y + rng.normal(0.0, shaking), z + rng.normal(0.0, shaking)
        return x + self.acceleration_g, y, z

    def _attitude(self) -> Rotation:
        # Nose up is a turn about the left to the other side.
        angles = [self.turn_deg, -self.pitch_deg, self.roll_deg]
        return Rotation.from_euler("ZYX", angles, degrees=True)


def _towards(value: float, wanted: float, most: float) -> float:
    return value + max(-most, min(most, wanted - value))
