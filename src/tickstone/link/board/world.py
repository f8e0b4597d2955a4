"""What is true around the stand-in board: where things stand, how it tilts, spins and is lit."""

from __future__ import annotations

import math
from dataclasses import dataclass

TARGET_SPEED_M_S = 0.6
SPIN_CHANGE_PER_S2 = 1.5
TILT_SPEED_DEG_S = 40.0


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
    Control("pitch", "Nose up", "°", -90.0, 90.0, 1.0, 0.0),
    Control("roll", "Left side up", "°", -90.0, 90.0, 1.0, 0.0),
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
    spin: float
    turns: float = 0.0
    acceleration_g: float = 0.0
    rate_dps: tuple[float, float, float] = (0.0, 0.0, 0.0)

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
        pitch = _towards(self.pitch_deg, self.wanted["pitch"], TILT_SPEED_DEG_S * dt_s)
        roll = _towards(self.roll_deg, self.wanted["roll"], TILT_SPEED_DEG_S * dt_s)
        self.rate_dps = ((roll - self.roll_deg) / dt_s, (pitch - self.pitch_deg) / dt_s, 0.0)
        self.pitch_deg, self.roll_deg = pitch, roll
        spin = _towards(self.spin, self.wanted["spin"], SPIN_CHANGE_PER_S2 * dt_s)
        self.acceleration_g = (spin - self.spin) / dt_s * wheel_m / 9.80665
        self.turns += (self.spin + spin) / 2.0 * dt_s
        self.spin = spin


def _towards(value: float, wanted: float, most: float) -> float:
    return value + max(-most, min(most, wanted - value))
