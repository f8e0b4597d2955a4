"""Median of the last few."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Stage
from tickstone.core.filters.kind import FilterKind
from tickstone.core.inputs import check_inputs, whole
from tickstone.core.stages.running_median import RunningMedian


@dataclass(frozen=True, slots=True)
class MedianParameters:
    """Raises ValueError for an even number."""

    n: int = whole("Readings", 5, 1, 99, "odd", (3, 5, 7, 9, 15))

    def __post_init__(self) -> None:
        check_inputs(self)
        if self.n % 2 != 1:
            raise ValueError("n: the median takes an odd number of readings")


class Median(FilterKind):
    """Kills single spikes."""

    name: ClassVar[str] = "median"
    label: ClassVar[str] = "Median"
    what: ClassVar[str] = (
        "Takes single spikes out whole; edges stay sharp, late by half its length."
    )
    parameters: ClassVar[type] = MedianParameters

    def stage(self, parameters: MedianParameters) -> Stage:
        """The median."""
        return RunningMedian(parameters.n)
