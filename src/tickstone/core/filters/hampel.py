"""Gate for outliers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, number, whole
from tickstone.core.stages.hampel_gate import HampelGate


@dataclass(frozen=True, slots=True)
class HampelParameters:
    """How many are compared, and how wide the gate is."""

    n: int = whole("Readings", 7, 3, 99, "", (5, 7, 9, 15))
    k: float = number("Wild beyond", "", 3.0, 0.1, 100.0, "times their scatter", decimals=1)
    least: float = number(
        "Scatter granted", "", 0.0, 0.0, 1e9, "in its unit, for what stands quite still"
    )

    def __post_init__(self) -> None:
        check_inputs(self)


class Hampel(FilterKind):
    """Leaves all alone that is not wild."""

    name: ClassVar[str] = "hampel"
    label: ClassVar[str] = "Outlier gate"
    what: ClassVar[str] = "Only wild readings are replaced; all others pass unchanged and at once."
    parameters: ClassVar[type] = HampelParameters

    def stage(self, parameters: HampelParameters) -> Stage:
        """The gate."""
        return HampelGate(parameters.n, parameters.k, parameters.least)
