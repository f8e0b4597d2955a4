"""Dark or light, sensor by sensor: a threshold each, chosen on its own heaps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.calibration.black_white import BlackWhiteKind, compared_in
from tickstone.core.calibration.kind import Fit
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.heaps.misread import Misread, misread
from tickstone.core.inputs import Choice, check_inputs, choice, number, numbers
from tickstone.core.quantity import COUNTS, LIGHTNESS, VOLTAGE, Quantity
from tickstone.core.reading_units import PERCENT_SHARE
from tickstone.core.rules.following import following_sum
from tickstone.core.rules.kind import (
    Elsewhere,
    Known,
    LaneThreshold,
    Level,
    Part,
    RuleKind,
    Suggestion,
    Way,
)
from tickstone.core.stages.lane_state import HALF_BAND, SURFACE, LaneState
from tickstone.core.thresholds import METHODS
from tickstone.core.thresholds.choosing import Chosen, choose
from tickstone.core.thresholds.method import Wanted

RECOMMENDED = "recommended"
_METHODS = (
    Choice(RECOMMENDED, "what misreads least"),
    *(Choice(one.name, one.label) for one in METHODS.values()),
)


@dataclass(frozen=True, slots=True)
class LineThresholdParameters:
    """A threshold and half a band for each sensor, as shares of the way from its black to its
    white. Raises ValueError when the two lists do not go together.
    """

    at: tuple[float, ...] = numbers(
        "Dark below", "", 0.01, 0.99, "of the way from black to white, sensor by sensor", (0.5,),
        shown_as=PERCENT_SHARE, decimals=1,
    )  # fmt: skip
    half: tuple[float, ...] = numbers(
        "Band, ±", "", 0.0, 0.45, "in which the last state stands", (HALF_BAND,),
        shown_as=PERCENT_SHARE, decimals=1,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.at:
            raise ValueError("at: a threshold for each sensor, or one for all")
        if len(self.half) not in (1, len(self.at)):
            raise ValueError("half: a band for each threshold, or one for all")


@dataclass(frozen=True, slots=True)
class LineThresholdEvidence:
    """How to choose, and what a mistake costs."""

    method: str = choice("Choose by", _METHODS)
    fixed: float = number(
        "At", "", 512.0, 0.0, 1e6, "in what is counted, the same for every sensor",
        decimals=0, when=("method", "fixed"),
    )  # fmt: skip
    cost_missed: float = number(
        "A missed line costs", "", 1.0, 1e-3, 1e3, "beside the other mistake",
        decimals=1, when=("method", "least-cost"),
    )  # fmt: skip
    cost_false: float = number(
        "A false one costs", "", 1.0, 1e-3, 1e3, "a stop, or a swerve, for nothing",
        decimals=1, when=("method", "least-cost"),
    )  # fmt: skip
    dark_share: float = number(
        "Dark is under it", "", 0.5, 0.01, 0.99, "of the time", shown_as=PERCENT_SHARE,
        decimals=0, when=("method", "least-cost"),
    )  # fmt: skip
    sigmas: float = number(
        "Band, ± so many σ", "", 3.0, 0.0, 10.0, "of the noisier heap", decimals=1, is_rare=True
    )

    def __post_init__(self) -> None:
        check_inputs(self)


class LineThresholds(RuleKind):
    """A threshold a sensor, on the heaps of its own black and white."""

    name: ClassVar[str] = "line-thresholds"
    label: ClassVar[str] = "Dark or light"
    parameters: ClassVar[type] = LineThresholdParameters
    evidence: ClassVar[type] = LineThresholdEvidence
    takes: ClassVar[str] = "lightness"
    node: ClassVar[str] = "state"
    decision = SURFACE
    words: ClassVar[tuple[str, str]] = ("How to choose", "Thresholds")
    unset: ClassVar[str] = "No threshold has been chosen: half way stands in for one."
    hint: ClassVar[str] = "The band keeps a sensor on the edge from chattering."

    def stage(self, parameters: LineThresholdParameters, chain_parameters: Any) -> LaneState:
        """Thresholds with hysteresis, lane by lane."""
        return LaneState(parameters.at, parameters.half, "thresholds on each sensor’s own heaps")

    def suggest(
        self,
        evidence: LineThresholdEvidence,
        known: Known,
        tried: LineThresholdParameters | None = None,
    ) -> Suggestion:
        """From the heaps of the calibration in use. Raises ValueError when there are none."""
        fit = known.fits.get(BlackWhiteKind.name)
        if fit is None or not fit.heaps:
            raise ValueError(
                "black and white of the sensors are not known yet: wave the row across the line on "
                "the bench before this one"
            )
        line_is_dark = known.parameters.line_is == "dark"
        wanted = Wanted(
            evidence.fixed if evidence.method == "fixed" else None,
            evidence.cost_missed,
            evidence.cost_false,
            evidence.dark_share,
        )
        chosen = [
            choose(*one.against(line_is_dark), METHODS, wanted, evidence.sigmas)
            for one in fit.heaps
        ]
        ways, counted = _black_white(fit), compared_in(fit)
        told = [
            (_share(_picked(one, evidence.method), *way), one.half_band / abs(way[1]))
            for one, way in zip(chosen, ways, strict=True)
        ]
        at = tuple(min(0.99, max(0.01, round(share, 4))) for share, _ in told)
        half = tuple(min(0.45, round(one, 4)) for _, one in told)
        lanes = [
            _lane(
                heaps, counted, line_is_dark, one, way, _in_hand(place, tried, at, half),
                known.parameters,
            )
            for place, (heaps, one, way) in enumerate(zip(fit.heaps, chosen, ways, strict=True))
        ]  # fmt: skip
        return Suggestion(
            parameters={"at": at, "half": half},
            parts=tuple(_part(lane, line_is_dark) for lane in lanes),
            note=_note(fit, lanes),
            tried_says=_tried_says(lanes) if tried is not None else "",
            tried_fails=any(one.why_not for one in lanes),
            findings=tuple(_findings(lanes)),
            lanes=tuple(lanes),
            elsewhere=tuple(
                _elsewhere(where, heaps, lanes, line_is_dark)
                for where, heaps in known.elsewhere
                if len(heaps) == len(lanes)
            ),
            sum=following_sum(known),
        )

    def lines(self, parameters: LineThresholdParameters) -> tuple[Level, ...]:
        """One level where there is one for all."""
        return tuple(
            Level(one, "dark below", "below", is_alarm=False)
            for one in dict.fromkeys(parameters.at)
        )[:1]

    def short(self, parameters: LineThresholdParameters) -> str:
        """How many there are, and where."""
        low, high = (LIGHTNESS.said(one(parameters.at)) for one in (min, max))
        return f"at {low}" if low == high else f"{low.split()[0]} to {high}"

    def sentence(self, parameters: LineThresholdParameters, needed: float | None) -> str:
        """Where the thresholds are."""
        count = len(parameters.at)
        each = "one threshold for all sensors" if count == 1 else f"{count} thresholds"
        return f"Dark or light by {each}, {self.short(parameters)} of the way from black to white."


def _black_white(fit: Fit) -> list[tuple[float, float]]:
    """Of every lane: black, and how far white is from it."""
    black, white = fit.parameters["black"], fit.parameters["white"]
    assert isinstance(black, list)
    assert isinstance(white, list)
    return [(b, w - b) for b, w in zip(black, white, strict=True)]


def _share(value: float, black: float, width: float) -> float:
    return (value - black) / width


def _picked(chosen: Chosen, method: str) -> float:
    found = chosen.candidates.get(method)
    return chosen.taken.at if found is None else found.at


def _in_hand(
    place: int,
    tried: LineThresholdParameters | None,
    at: Sequence[float],
    half: Sequence[float],
) -> tuple[float, float]:
    """Threshold and half a band of a lane: those tried, or those told."""
    if tried is None or len(tried.at) not in (1, len(at)):
        return at[place], half[place]
    return (
        tried.at[place if len(tried.at) > 1 else 0],
        tried.half[place if len(tried.half) > 1 else 0],
    )


def _lane(
    heaps: LaneHeaps,
    quantity: Quantity,
    line_is_dark: bool,
    chosen: Chosen,
    way: tuple[float, float],
    in_hand: tuple[float, float],
    parameters: Any,
) -> LaneThreshold:
    black, width = way
    at = black + in_hand[0] * width
    per_volt = {COUNTS.name: 2.0**parameters.bits / parameters.reference_v, VOLTAGE.name: 1.0}
    return LaneThreshold(
        heaps=heaps,
        quantity=quantity,
        at=at,
        half=in_hand[1] * abs(width),
        black=black,
        per_share=width,
        per_volt=per_volt.get(quantity.name, 0.0),
        misread=misread(*heaps.against(line_is_dark), at),
        ways=tuple(
            Way(name, one.method.label, one.at, one.misread)
            for name, one in chosen.candidates.items()
        ),
        best=chosen.best,
        why=chosen.why,
        why_not=chosen.why_not,
    )


def _elsewhere(
    where: str, heaps: Sequence[LaneHeaps], lanes: Sequence[LaneThreshold], line_is_dark: bool
) -> Elsewhere:
    """What the thresholds in hand, as counts, do to heaps that were taken elsewhere."""
    samples = sum(heap.n for one in heaps for heap in one.heaps)
    if any(one.why_not for one in heaps):
        return Elsewhere(where, None, samples)
    wrong = 0
    for one, lane in zip(heaps, lanes, strict=True):
        dark, light = one.against(line_is_dark)
        found = misread(dark, light, lane.at)
        is_turned = (dark.mean > light.mean) != (lane.per_share < 0.0)
        missed = found.missed + found.false
        wrong += found.n_dark + found.n_light - missed if is_turned else missed
    return Elsewhere(where, wrong, samples)


def misread_said(found: Misread) -> str:
    """How often, by counting, and within what.

    >>> misread_said(Misread(0, 0, 40, 60, 1e-9, 1e-9))
    '0 of 100 misread (up to 3.6 %)'
    """
    count = found.n_dark + found.n_light
    return (
        f"{found.missed + found.false} of {grouped(count, 0)} misread "
        f"(up to {100.0 * found.interval[1]:.2g} %)"
    )


def _part(lane: LaneThreshold, line_is_dark: bool) -> Part:
    share = _share(lane.at, lane.black, lane.per_share)
    quantity = lane.quantity
    said = quantity.said(lane.at)
    if quantity.name == COUNTS.name:
        said += f" counts, {lane.at / lane.per_volt:.2f} V"
    note = f"{said}; {misread_said(lane.misread)}"
    return Part(f"sensor {lane.heaps.lane}", share, LIGHTNESS, note)


def _note(fit: Fit, lanes: Sequence[LaneThreshold]) -> str:
    samples = grouped(fit.statistics["samples"], 0)
    return f"From {samples} samples of black and white of {len(lanes)} sensors."


def _tried_says(lanes: Sequence[LaneThreshold]) -> str:
    wrong = sum(one.misread.missed + one.misread.false for one in lanes)
    count = sum(one.misread.n_dark + one.misread.n_light for one in lanes)
    return f"These misread {wrong} of {grouped(count, 0)} samples."


def _findings(lanes: Sequence[LaneThreshold]) -> list[Finding]:
    return [
        Finding(
            "error",
            f"No threshold can do for sensor {one.heaps.lane}.",
            f"{one.why_not[0].upper()}{one.why_not[1:]}.",
            "Change the height, the lamp or the shade, and wave again.",
        )
        for one in lanes
        if one.why_not
    ]
