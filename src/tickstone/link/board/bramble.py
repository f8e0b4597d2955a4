"""Bramble's board: two rangers, five strip sensors, a Hall switch, six axes, air and battery."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.models.battery import BatteryModel
from tickstone.core.models.hall import HallModel, PulseCounter
from tickstone.core.models.inertial import BRAMBLE_DECK
from tickstone.core.models.ranger import RangerModel
from tickstone.core.models.reflective import SATURATED, ReflectiveRow, Scene
from tickstone.link.board.firmware import Firmware

_SWAY_S = 4.0
_BEND_TURNS = 4.0
_SOIL_MM = ((-44.0, -32.0),)
_TIMEOUT_US = 38_000
_PLACES_MM = (-38.0, -19.0, 0.0, 19.0, 38.0)


class BrambleBoard(Firmware):
    """Comma-separated values with a header, 25 lines a second, µs of a 32-bit counter."""

    name = "bramble"
    label = "Bramble, the seed-tray cart"
    controls = (
        *("target", "side", "pitch", "roll", "turn", "shake", "spin", "light"),
        *("line", "sway", "width", "bend", "height", "lamp", "air"),
    )
    fault_words = (
        *(
            "unplug",
            "stuck",
            "swapped",
            "no_pull_up",
            "both_edges",
            "second_strip",
            "far_magnet",
            "wrong_supply",
        ),
        *("loose_ground", "saturated", "dirt", "glare", "unlit", "crossed", "reset_loop", "wrap"),
        "coarse_range",
    )

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self._hall = HallModel((0.0, 0.243, 0.508, 0.747), miss=0.002)
        self._counter = PulseCounter()
        self._row = ReflectiveRow(_PLACES_MM)
        self._deck = BRAMBLE_DECK
        self._battery = BatteryModel()
        self._stuck_us: int | None = None

    def banner(self) -> list[str]:
        return [
            "",
            "Bramble cart, bench program 7",
            "t_us,front_us,left_us,ir1,ir2,ir3,ir4,ir5,hall_count,hall_gap_us,"
            "ax,ay,az,gx,gy,gz,air_degC,batt",
        ]

    def sense(self) -> str:
        world = self.world
        front = self._echo(world.target_m, 0.0012, 1.0008)
        left = self._echo(world.side_m, 0.0, 0.9995)
        if "swapped" in self.faults:
            front, left = left, front
        if "stuck" in self.faults:
            self._stuck_us = front if self._stuck_us is None else self._stuck_us
            front = self._stuck_us
        else:
            self._stuck_us = None
        self.count_pulses(self._hall, self._counter)
        lie = self.rng.normal(0.0, 60.0) if "loose_ground" in self.faults else 0.0
        strip = [max(0, min(1023, round(counts + lie))) for counts in self._reflected()]
        deck = self._deck
        if "coarse_range" in self.faults:
            # As at ± 16 g and ± 2000 °/s; what prints it does not say.
            deck = replace(deck, per_g=deck.per_g / 8.0, per_dps=deck.per_dps / 8.0)
        axes, rates = deck.counts(world.felt_g(self.rng), world.rate_dps, self.rng)
        current = 0.18 + 0.05 * world.spin
        battery = round(self._battery.counts(self.age_s, current, self.rng) + lie / 3)
        air = world.wanted["air"] + self.rng.normal(0.0, 0.06)
        values = [
            *(self.micros % 2**32, front, left, *strip),
            *(self._counter.count % 2**16, self._counter.gap_us, *axes, *rates),
        ]
        return ",".join(map(str, values)) + f",{air:.1f},{battery}"

    def _echo(self, distance_m: float, late_m: float, stretch: float) -> int:
        air = AirConditions(self.world.wanted["air"], 0.5)
        model = RangerModel(air, 0.0, late_m, stretch, 6.0, 0.012, 0.004)
        reach = 0.8 if "wrong_supply" in self.faults else 4.0
        if distance_m > reach:
            return 0
        echo = model.echoes_us(np.zeros(1), np.array([distance_m]), (), self.rng)
        return min(_TIMEOUT_US, int(echo[0]))

    def _reflected(self) -> list[int]:
        """Counts of the row over the strip, as it is swayed and lit."""
        wanted = self.world.wanted
        sway = wanted["sway"] * math.sin(2.0 * math.pi * self.age_s / _SWAY_S)
        bend = wanted["bend"] * math.sin(2.0 * math.pi * self.world.turns / _BEND_TURNS)
        scene = Scene(
            line_mm=wanted["line"] + sway + bend,
            strip_mm=wanted["width"],
            height_mm=wanted["height"],
            ambient=wanted["light"] / 100.0,
            lamp=wanted["lamp"] / 100.0,
            dirt=_SOIL_MM if "dirt" in self.faults else (),
            glare=0.9 if "glare" in self.faults else 0.0,
        )
        models = list(self._row.models)
        if "unlit" in self.faults:
            models[3] = replace(models[3], is_lit=False)
        counts = [model.counts(scene, self.age_s, self.rng) for model in models]
        if "saturated" in self.faults:
            return [SATURATED] * len(counts)
        if "crossed" in self.faults:
            counts[1], counts[3] = counts[3], counts[1]
        return counts
