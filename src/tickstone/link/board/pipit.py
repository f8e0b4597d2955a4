"""Pipit's board: a Hall switch on a big wheel, an analogue accelerometer, a side ranger."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.models.hall import HallModel, PulseCounter
from tickstone.core.models.inertial import AnalogueAccelerometerModel
from tickstone.core.models.ranger import RangerModel
from tickstone.link.board.firmware import Firmware


class PipitBoard(Firmware):
    """Labels and values, 50 lines a second, ms of a 16-bit counter that wraps every 65.5 s."""

    name = "pipit"
    label = "Pipit, the soapbox kart"
    period_s = 0.02
    wheel_m = 0.958
    controls = ("side", "pitch", "roll", "turn", "shake", "spin", "air")
    fault_words = (
        *(
            "unplug",
            "stuck",
            "no_pull_up",
            "both_edges",
            "second_strip",
            "far_magnet",
            "wrong_supply",
            "loose_ground",
        ),
        *("reset_loop", "wrap"),
    )

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self._hall = HallModel((0.0, 0.486), bounce=0.01)
        self._counter = PulseCounter()
        self._force = AnalogueAccelerometerModel()
        self._stuck_us: int | None = None

    def banner(self) -> list[str]:
        return ["", "*** Pipit ready ***"]

    def sense(self) -> str:
        world = self.world
        side = self._echo()
        self.count_pulses(self._hall, self._counter)
        moved = world.felt_g(self.rng, 0.02)
        model = self._force
        if "wrong_supply" in self.faults:
            model = replace(model, reference_v=5.0)
        axes = model.counts(moved, self.rng)
        if "loose_ground" in self.faults:
            axes = [max(0, min(1023, a + round(self.rng.normal(0.0, 60.0)))) for a in axes]
        time_ms = self.micros // 1_000 % 2**16
        return (
            f"t:{time_ms} side:{side} hall:{self._counter.count % 2**16} "
            f"gap:{self._counter.gap_us} ax:{axes[0]} ay:{axes[1]} az:{axes[2]}"
        )

    def approach_wrap(self) -> None:
        self.clock_offset_us = 2**16 * 1_000 - 5_000_000 - round(self.up_s * 1e6)

    def _echo(self) -> int:
        air = AirConditions(self.world.wanted["air"], 0.5)
        model = RangerModel(air, 0.0, 0.002, 1.0, 9.0, 0.02, 0.006)
        if self.world.side_m > (0.8 if "wrong_supply" in self.faults else 4.0):
            return 0
        side = int(model.echoes_us(np.zeros(1), np.array([self.world.side_m]), (), self.rng)[0])
        if "stuck" not in self.faults:
            self._stuck_us = None
            return side
        self._stuck_us = side if self._stuck_us is None else self._stuck_us
        return self._stuck_us
