"""A plant of one's own: gain, lag and dead time as a run of it told them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.control.fitting import LAG, MODELS, ROLLING
from tickstone.core.control.plant import Plant
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.inputs import Choice, check_inputs, choice, number
from tickstone.core.quantity import NUMBER, Quantity

OUTPUT = Quantity("output", "", decimals=2)


@dataclass(frozen=True, slots=True)
class FittedParameters:
    """As fitted, or as stated."""

    gain: float = number("Gain", "", 2.0, -1e6, 1e6, "of what is measured for 1 of output",
                         decimals=3)  # fmt: skip
    lag_s: float = number("Lag", "s", 1.5, 0.0, 1000.0, decimals=3)
    delay_s: float = number("Dead time", "s", 0.2, 0.0, 1000.0, decimals=3)
    model: str = choice("It", tuple(Choice(name, label) for name, label in MODELS.items()), LAG)
    sticks: float = number("Does not move below", "", 0.0, 0.0, 1e6, "of output", is_rare=True)

    def __post_init__(self) -> None:
        check_inputs(self)
        if self.gain == 0.0:
            raise ValueError("gain: with none, nothing steers it")


class Fitted(PlantKind):
    """Whatever one's own step says."""

    name: ClassVar[str] = "fitted"
    label: ClassVar[str] = "Your own step"
    what: ClassVar[str] = "Fitted to a recording in which the output steps and the reading follows."
    parameters: ClassVar[type] = FittedParameters
    measured: ClassVar[Quantity] = NUMBER
    steered: ClassVar[Quantity] = OUTPUT
    usual: ClassVar[Mapping[str, Any]] = {
        "kp": 1.0, "ki": 0.5, "kd": 0.0, "low": -100.0, "high": 100.0, "target": 1.0,
        "sample_s": 0.05, "lasts_s": 20.0, "step_at_s": 1.0, "load": 0.0, "load_at_s": 12.0,
    }  # fmt: skip

    def plant(self, parameters: FittedParameters) -> Plant:
        """As it stands."""
        return Plant(
            parameters.gain, parameters.lag_s, parameters.delay_s,
            1 if parameters.model == ROLLING else 0, parameters.sticks, measured=self.measured,
            steered=self.steered,
        )  # fmt: skip
