"""Exponential smoothing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.stages.exponential import Exponential as ExponentialStage


@dataclass(frozen=True, slots=True)
class ExponentialParameters:
    """The share of each new reading."""

    a: float = number("Share of each new one", "", 0.2, 1e-6, 1.0, decimals=3)

    def __post_init__(self) -> None:
        check_inputs(self)


class Exponential(FilterKind):
    """One number kept."""

    name: ClassVar[str] = "exponential"
    label: ClassVar[str] = "Exponential"
    what: ClassVar[str] = "One number kept, one multiplication; creeps after what changes."
    parameters: ClassVar[type] = ExponentialParameters

    def stage(self, parameters: ExponentialParameters) -> Stage:
        """The smoothing."""
        return ExponentialStage(parameters.a)
