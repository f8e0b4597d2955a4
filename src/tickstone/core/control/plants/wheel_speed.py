"""A wheel at a speed: duty in, turns a second out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.control.plant import Plant
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import TURN_RATE, Quantity
from tickstone.core.reading_units import MILLISECONDS

DUTY = Quantity("duty", "", shown_as="share as %", decimals=1)


@dataclass(frozen=True, slots=True)
class WheelParameters:
    """A geared motor and its wheel."""

    full: float = number("At full power", "turn/s", 4.0, 0.01, 1000.0, decimals=0)
    lag_s: float = number("Takes up speed in", "s", 0.25, 0.001, 60.0, "to 63 %",
                          shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    delay_s: float = number("Seen after", "s", 0.06, 0.0, 10.0, "of pulses and program",
                            shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    sticks: float = number("Does not start below", "", 0.15, 0.0, 1.0, "of full power",
                           shown_as="share as %", decimals=0)  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class WheelSpeed(PlantKind):
    """The speed of a wheel."""

    name: ClassVar[str] = "wheel-speed"
    label: ClassVar[str] = "Wheel at a speed"
    what: ClassVar[str] = "Power in, turns out: it lags, it sticks, and pulses tell late."
    parameters: ClassVar[type] = WheelParameters
    measured: ClassVar[Quantity] = TURN_RATE
    steered: ClassVar[Quantity] = DUTY
    usual: ClassVar[Mapping[str, Any]] = {
        "kp": 0.15, "ki": 0.8, "kd": 0.0, "low": 0.0, "high": 1.0, "target": 2.5, "sample_s": 0.04,
        "noise_u": 0.03, "lasts_s": 8.0, "step_at_s": 0.5, "load": -0.15, "load_at_s": 5.0,
    }  # fmt: skip

    def plant(self, parameters: WheelParameters) -> Plant:
        """One lag; friction that has to be overcome."""
        return Plant(
            parameters.full, parameters.lag_s, parameters.delay_s, 0, parameters.sticks,
            measured=self.measured, steered=self.steered,
        )  # fmt: skip
