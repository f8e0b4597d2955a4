"""A cart before a wall: speed in, distance out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.control.plant import Plant
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.control.plants.wheel_speed import DUTY
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import DISTANCE, Quantity
from tickstone.core.reading_units import CART_SPEED, MILLISECONDS


@dataclass(frozen=True, slots=True)
class WallParameters:
    """A cart that drives to and fro."""

    full: float = number("Drives at full power", "m/s", 0.8, 0.01, 50.0, shown_as=CART_SPEED,
                         decimals=2)  # fmt: skip
    lag_s: float = number("Takes up speed in", "s", 0.2, 0.001, 60.0, "to 63 %",
                          shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    delay_s: float = number("Seen after", "s", 0.08, 0.0, 10.0, "of echo, filter and program",
                            shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    sticks: float = number("Does not start below", "", 0.12, 0.0, 1.0, "of full power",
                           shown_as="share as %", decimals=0)  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class WallDistance(PlantKind):
    """The distance to a wall in front."""

    name: ClassVar[str] = "wall-distance"
    label: ClassVar[str] = "Distance to a wall"
    what: ClassVar[str] = "Drives up to a wall and keeps off it: power makes a speed, speed a way."
    parameters: ClassVar[type] = WallParameters
    measured: ClassVar[Quantity] = DISTANCE
    steered: ClassVar[Quantity] = DUTY
    usual: ClassVar[Mapping[str, Any]] = {
        "kp": -2.0, "ki": 0.0, "kd": 0.0, "low": -1.0, "high": 1.0, "start": 1.2, "target": 0.4,
        "sample_s": 0.05, "noise_u": 0.004, "zeros": 1.0, "lasts_s": 12.0, "step_at_s": 1.0,
        "load": 0.0, "load_at_s": 8.0,
    }  # fmt: skip

    def plant(self, parameters: WallParameters) -> Plant:
        """A lag and an integrator; driving on makes the distance less."""
        return Plant(
            -parameters.full, parameters.lag_s, parameters.delay_s, 1, parameters.sticks,
            0.0, 20.0, measured=self.measured, steered=self.steered,
        )  # fmt: skip
