"""What kinds share that measure a distance by light: mount, range, median, and what to do on it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.chain import Stage
from tickstone.core.chains.kind import ChainKind, Output
from tickstone.core.digests.agreement import BesideAnother
from tickstone.core.digests.kind import DigestKind
from tickstone.core.filters import check_words, lag_s, stage_from_words
from tickstone.core.inputs import check_inputs, number, switch, whole, words
from tickstone.core.quantity import DISTANCE
from tickstone.core.reading_units import SMALL_LENGTH, typed_span
from tickstone.core.rules.distance_bands import DistanceBands
from tickstone.core.rules.kind import RuleKind
from tickstone.core.rules.stop_and_go import WAY, StopAndGo
from tickstone.core.stages.bands import LAMPS
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.stages.running_median import RunningMedian

METRES = {"mm": 0.001, "cm": 0.01, "m": 1.0, "in": 0.0254}
DISTANCE_OUTPUTS = (
    Output("distance", "Distance", DISTANCE),
    Output("way", "Drive", WAY),
    Output("lamps", "Lamps", LAMPS),
)


@dataclass(frozen=True, slots=True)
class RangingParameters:
    """How a ranger is mounted and filtered. Lengths m, times s."""

    min_m: float = number("Nearest", "m", 0.02, 0.0, 20.0, node="range")
    max_m: float = number("Farthest", "m", 2.0, 0.0, 40.0, node="range")
    mount_m: float = number(
        "Face behind the edge", "m", 0.0, -2.0, 2.0, "negative if it sticks out",
        node="mount", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    mount_tolerance_m: float = number(
        "Measured to, ±", "m", 0.001, 0.0, 1.0, node="mount", shown_as=SMALL_LENGTH, decimals=1
    )
    median_n: int = whole(
        "Readings to choose from", 3, 1, 99, "odd; 1 is no filter", (1, 3, 5, 7, 9, 15),
        node="median",
    )  # fmt: skip
    smooth: str = words(
        "Filter", "", "such as kalman:q=1e-5,r=4e-5 or low-pass:hz=5; none when empty",
        node="smooth", is_rare=True,
    )  # fmt: skip
    blind_stop_s: float = number(
        "Blind after", "s", 0.25, 0.0, 60.0, "without any evidence for this long: stop",
        node="threshold", decimals=2,
    )  # fmt: skip
    silence_is_clear: bool = switch(
        "No reading means an empty way", False, "a dark or slanted thing is not seen either",
        node="threshold",
    )  # fmt: skip

    def check(self) -> None:
        """Raises ValueError naming the first parameter that cannot be."""
        check_inputs(self)
        if not self.min_m < self.max_m:
            raise ValueError("min_m: the range has to run from one distance to a larger one")
        if self.median_n % 2 != 1:
            raise ValueError("median_n: the median takes an odd number of readings")
        check_words(self.smooth)


class Ranging(ChainKind):
    """What all rangers by light share."""

    outputs: ClassVar[tuple[Output, ...]] = DISTANCE_OUTPUTS
    rules: ClassVar[tuple[RuleKind, ...]] = (StopAndGo(), DistanceBands())
    unfiltered: ClassVar[Mapping[str, Any]] = {"median_n": 1, "smooth": ""}
    filtered: ClassVar[str] = "distance"
    digests: ClassVar[tuple[DigestKind, ...]] = (BesideAnother(),)

    def no_number(self, parameters: RangingParameters) -> str:
        """Its range."""
        return (
            "this ranger never reads a distance within its range, "
            f"{typed_span(parameters.min_m, parameters.max_m)}. Open its cells and change what "
            "keeps it from reading"
        )

    def filter_lag_s(self, parameters: RangingParameters, sample_s: float) -> float:
        """That of the median and the filter."""
        return (parameters.median_n - 1) / 2 * sample_s + lag_s(parameters.smooth, sample_s)


def mounted(
    parameters: RangingParameters, watch: Sequence[tuple[str, Stage]] = ()
) -> list[tuple[str, Stage]]:
    """Range, what watches it, mount and median, in order; those that do nothing are left out."""
    stages: list[tuple[str, Stage]] = [
        ("range", RangeGate(parameters.min_m, parameters.max_m)), *watch,
    ]  # fmt: skip
    if parameters.mount_m != 0.0 or parameters.mount_tolerance_m > 0.0:
        stages.append(("mount", MountOffset(parameters.mount_m, parameters.mount_tolerance_m)))
    if parameters.median_n > 1:
        stages.append(("median", RunningMedian(parameters.median_n)))
    smooth = stage_from_words(parameters.smooth)
    if smooth is not None:
        stages.append(("smooth", smooth))
    return stages
