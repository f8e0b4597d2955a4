"""Scalar Kalman, a value with its speed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.stages.speed_kalman import SpeedKalman as SpeedKalmanStage


@dataclass(frozen=True, slots=True)
class SpeedKalmanParameters:
    """Variances, in the unit squared; of the speed for each second."""

    q: float = number("Q, speed each second", "1/s³", 1e-2, 1e-30, 1e30, "variance", decimals=6)
    r: float = number("R, of a reading", "", 4e-2, 1e-30, 1e30, "variance", decimals=6)

    def __post_init__(self) -> None:
        check_inputs(self)


class SpeedKalman(FilterKind):
    """No lag behind an even change."""

    name: ClassVar[str] = "kalman-speed"
    label: ClassVar[str] = "Kalman, with speed"
    what: ClassVar[str] = "Goes along with what changes evenly, and shoots over where that ends."
    parameters: ClassVar[type] = SpeedKalmanParameters

    def stage(self, parameters: SpeedKalmanParameters) -> Stage:
        """The filter."""
        return SpeedKalmanStage(parameters.q, parameters.r)
