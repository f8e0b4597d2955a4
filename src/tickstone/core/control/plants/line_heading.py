"""A cart on a line: steering in, place beside the line out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.control.plant import Plant
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import PLACE, ROTATION, Quantity
from tickstone.core.reading_units import CART_SPEED, MILLISECONDS

TURNING = ROTATION.in_lanes("")


@dataclass(frozen=True, slots=True)
class LineParameters:
    """A cart that steers by a row of sensors."""

    speed_m_per_s: float = number("Drives at", "m/s", 0.4, 0.01, 20.0, shown_as=CART_SPEED,
                                  decimals=2)  # fmt: skip
    lag_s: float = number("Turns in after", "s", 0.12, 0.001, 10.0, "to 63 %",
                          shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    delay_s: float = number("Seen after", "s", 0.04, 0.0, 10.0, "of row and program",
                            shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    sees_m: float = number("The row sees to either side", "m", 0.05, 0.001, 1.0,
                           shown_as="m as mm", decimals=0)  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class LineHeading(PlantKind):
    """The place of the row beside its line: a turn rate makes a heading, a heading a way aside."""

    name: ClassVar[str] = "line-heading"
    label: ClassVar[str] = "Heading on a line"
    what: ClassVar[str] = (
        "Steers by a row of sensors: turning makes a heading, the heading a way aside. P alone "
        "always weaves."
    )
    parameters: ClassVar[type] = LineParameters
    measured: ClassVar[Quantity] = PLACE
    steered: ClassVar[Quantity] = TURNING
    usual: ClassVar[Mapping[str, Any]] = {
        "kp": 12.0, "ki": 0.0, "kd": 8.0, "low": -3.0, "high": 3.0, "start": 0.0, "target": 0.02,
        "sample_s": 0.02, "noise_u": 0.0005, "lasts_s": 6.0, "step_at_s": 0.5, "load": 0.0,
        "load_at_s": 4.0, "derivative_lag_s": 0.03,
    }  # fmt: skip

    def plant(self, parameters: LineParameters) -> Plant:
        """A lag and two integrators."""
        return Plant(
            parameters.speed_m_per_s, parameters.lag_s, parameters.delay_s, 2, 0.0,
            -parameters.sees_m, parameters.sees_m, measured=self.measured, steered=self.steered,
        )  # fmt: skip
