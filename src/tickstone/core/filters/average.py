"""Mean of the last few."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, whole
from tickstone.core.stages.moving_average import MovingAverage


@dataclass(frozen=True, slots=True)
class AverageParameters:
    """How many."""

    n: int = whole("Readings", 5, 1, 1000, "", (3, 5, 10, 20, 30))

    def __post_init__(self) -> None:
        check_inputs(self)


class Average(FilterKind):
    """Noise by the square root of n."""

    name: ClassVar[str] = "mean"
    label: ClassVar[str] = "Moving mean"
    what: ClassVar[str] = (
        "The least noise for its length; a spike is spread over all of it, and n numbers are kept."
    )
    parameters: ClassVar[type] = AverageParameters

    def stage(self, parameters: AverageParameters) -> Stage:
        """The mean."""
        return MovingAverage(parameters.n)
