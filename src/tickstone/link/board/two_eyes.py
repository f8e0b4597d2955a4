"""A bench with two rangers by light on one target: one by angle, one that times a flash."""

from __future__ import annotations

from tickstone.core.models.light_rangers import AngleRangerModel, FlightRangerModel
from tickstone.link.board.firmware import Firmware


class TwoEyesBoard(Firmware):
    """Comma-separated values with a header, 25 lines a second, ms since it started."""

    name = "two_eyes"
    label = "Two rangers by light on a bench"
    controls = ("target", "light")
    fault_words = ("unplug", "loose_ground", "reset_loop")

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self._angle = AngleRangerModel()
        self._flight = FlightRangerModel()

    def banner(self) -> list[str]:
        return ["", "t_ms,ir_adc,tof_mm,tof_word"]

    def sense(self) -> str:
        target = self.world.target_m
        lie = self.rng.normal(0.0, 40.0) if "loose_ground" in self.faults else 0.0
        counts = max(0, min(1_023, round(self._angle.counts(target, self.rng) + lie)))
        ambient = self.world.wanted["light"] / 100.0
        millimetres, word = self._flight.reading(target, ambient, self.rng)
        return f"{self.micros // 1_000},{counts},{millimetres},{word}"
