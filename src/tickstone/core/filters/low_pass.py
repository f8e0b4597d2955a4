"""Low-pass by its corner."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, number, whole
from tickstone.core.stages.low_pass import LowPass as LowPassStage


@dataclass(frozen=True, slots=True)
class LowPassParameters:
    """Where it begins to take off, and how steeply."""

    hz: float = number("Corner", "Hz", 2.0, 1e-6, 1e6, decimals=2)
    order: int = whole("Elements", 1, 1, 2, "one after the other", (1, 2))

    def __post_init__(self) -> None:
        check_inputs(self)


class LowPass(FilterKind):
    """The same whatever the rate."""

    name: ClassVar[str] = "low-pass"
    label: ClassVar[str] = "Low-pass"
    what: ClassVar[str] = "By frequency, whatever the time between readings: keeps its corner."
    parameters: ClassVar[type] = LowPassParameters

    def stage(self, parameters: LowPassParameters) -> Stage:
        """The low-pass."""
        return LowPassStage(parameters.hz, parameters.order)
