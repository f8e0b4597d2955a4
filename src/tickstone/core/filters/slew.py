"""Slew limit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.stages.slew_limit import SlewLimit


@dataclass(frozen=True, slots=True)
class SlewParameters:
    """How fast it may go."""

    per_s: float = number("At most, each second", "1/s", 1.0, 1e-12, 1e12, "in its unit")

    def __post_init__(self) -> None:
        check_inputs(self)


class Slew(FilterKind):
    """What cannot be so fast is not followed."""

    name: ClassVar[str] = "slew"
    label: ClassVar[str] = "Slew limit"
    what: ClassVar[str] = (
        "Believes no change faster than the thing can make; noise passes below it."
    )
    parameters: ClassVar[type] = SlewParameters

    def stage(self, parameters: SlewParameters) -> Stage:
        """The limit."""
        return SlewLimit(parameters.per_s)
