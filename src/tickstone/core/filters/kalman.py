"""Scalar Kalman, a value that wanders."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.stages.value_kalman import ValueKalman


@dataclass(frozen=True, slots=True)
class KalmanParameters:
    """Variances, in the unit squared."""

    q: float = number("Q, walks each reading", "", 1e-3, 1e-30, 1e30, "variance", decimals=6)
    r: float = number("R, of a reading", "", 4e-2, 1e-30, 1e30, "variance", decimals=6)

    def __post_init__(self) -> None:
        check_inputs(self)


class Kalman(FilterKind):
    """Quick at first, then an exponential filter."""

    name: ClassVar[str] = "kalman"
    label: ClassVar[str] = "Kalman, a value"
    what: ClassVar[str] = (
        "Quick at first; once run in it is an exponential filter, whose share Q/R sets."
    )
    parameters: ClassVar[type] = KalmanParameters

    def stage(self, parameters: KalmanParameters) -> Stage:
        """The filter."""
        return ValueKalman(parameters.q, parameters.r)
