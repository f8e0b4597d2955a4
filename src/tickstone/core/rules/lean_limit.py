"""Leaning too far: before it tips over, or before the ramp is too steep."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import ANGLE, DecisionState, Quantity
from tickstone.core.reading_units import MILLISECONDS, SMALL_LENGTH, STANDARD_GRAVITY_M_PER_S2
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.uncertainty import expanded

LEANING = Quantity(
    "stand", "",
    states=(
        DecisionState("upright", "upright"),
        DecisionState("leaning", "leaning too far", is_alarm=True),
        DecisionState("blind", "blind", is_alarm=True),
    ),
)  # fmt: skip
_DEGREE = math.pi / 180.0


@dataclass(frozen=True, slots=True)
class LeanLimitParameters:
    """Angles rad. Raises ValueError when there is no band."""

    limit_rad: float = number("Too far above", "rad", 12.0 * _DEGREE, 0.1 * _DEGREE, math.pi)
    again_rad: float = number("Upright again below", "rad", 10.0 * _DEGREE, 0.0, math.pi)
    dwell_s: float = number(
        "Only after", "s", 0.2, 0.0, 60.0, "a bump leans it for less",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip
    blind_s: float = number(
        "Blind after", "s", 0.5, 0.0, 60.0, "without a reading", shown_as=MILLISECONDS, decimals=0
    )

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.again_rad < self.limit_rad:
            raise ValueError("again_rad: has to lie below where it leans too far")


@dataclass(frozen=True, slots=True)
class LeanLimitEvidence:
    """What tips it over. Lengths m, accelerations m/s²."""

    track_m: float = number(
        "Wheels apart", "m", 0.18, 0.001, 20.0, "the narrower way", shown_as=SMALL_LENGTH,
        decimals=0,
    )  # fmt: skip
    height_m: float = number(
        "Its weight sits", "m", 0.08, 0.001, 20.0, "above the floor, loaded",
        shown_as=SMALL_LENGTH, decimals=0,
    )  # fmt: skip
    sideways: float = number(
        "Braking or bends pull", "m/s²", 1.0, 0.0, 50.0, "at most, beside gravity", decimals=1
    )
    spare: float = number("Kept in hand", "%", 30.0, 0.0, 95.0, "of what is left", decimals=0)

    def __post_init__(self) -> None:
        check_inputs(self)


class LeanLimit(RuleKind):
    """Stop before it tips over."""

    name: ClassVar[str] = "lean-limit"
    label: ClassVar[str] = "Leaning too far"
    parameters: ClassVar[type] = LeanLimitParameters
    evidence: ClassVar[type] = LeanLimitEvidence
    takes: ClassVar[str] = "inclination"
    node: ClassVar[str] = "lean-limit"
    decision: ClassVar[Quantity] = LEANING
    words: ClassVar[tuple[str, str]] = ("What tips it over", "When it leans too far")
    keep: ClassVar[str] = "the limit"
    unset: ClassVar[str] = "No limit to leaning is set."
    hint: ClassVar[str] = "It has to stand for a while, so that a bump does not count."
    caution: ClassVar[str] = (
        "Try it by lifting one side by hand first. Nobody sits on what is only watched by this."
    )

    def stage(self, parameters: LeanLimitParameters, chain_parameters: Any) -> TwoThresholds:
        """Two thresholds and a wait."""
        return TwoThresholds(
            parameters.limit_rad, parameters.again_rad, LEANING,
            Words("too far", "upright again", "lean"),
            blind_after_s=parameters.blind_s, dwell_s=parameters.dwell_s,
        )  # fmt: skip

    def suggest(
        self, evidence: LeanLimitEvidence, known: Known, tried: LeanLimitParameters | None = None
    ) -> Suggestion:
        """The angle at which its weight passes its wheels, less what pulls, what is doubted, and
        what is kept in hand.
        """
        tips = math.atan2(evidence.track_m / 2.0, evidence.height_m)
        pulls = math.atan2(evidence.sideways, STANDARD_GRAVITY_M_PER_S2)
        doubt = expanded(known.u_at(min(tips, 20.0 * _DEGREE)))
        left = max(0.0, tips - pulls - doubt)
        limit = left * (1.0 - evidence.spare / 100.0)
        rounded = max(0.5 * _DEGREE, math.floor(limit / _DEGREE * 2.0) / 2.0 * _DEGREE)
        again = max(0.0, rounded - max(2.0 * _DEGREE, doubt))
        shown = tried or LeanLimitParameters(rounded, min(again, 0.9 * rounded))
        fails = shown.limit_rad > left
        return Suggestion(
            parameters={"limit_rad": rounded, "again_rad": min(again, 0.9 * rounded)},
            parts=(
                Part("tips over at", tips, ANGLE, "atan(half the track ÷ height)"),
                Part("braking and bends", -pulls, ANGLE, "atan(a ÷ g)"),
                Part("reading’s ±", -doubt, ANGLE, "k = 2"),
                Part("kept in hand", -(left - limit), ANGLE, f"{evidence.spare:.0f} %"),
                Part("too far above", limit, ANGLE, is_total=True),
            ),
            note="At rest on a slope; a bump at speed tips sooner.",
            needed=left,
            tried_says=(
                f"At {ANGLE.said(shown.limit_rad)} it may have tipped already." if fails else ""
            ),
            tried_fails=fails,
        )

    def lines(self, parameters: LeanLimitParameters) -> tuple[Level, ...]:
        """Both angles."""
        return (
            Level(parameters.limit_rad, "too far", "above", is_alarm=True),
            Level(parameters.again_rad, "upright again", "below", is_alarm=False),
        )

    def short(self, parameters: LeanLimitParameters) -> str:
        """The limit."""
        return f"lean {ANGLE.said(parameters.limit_rad, 1)}"

    def sentence(self, parameters: LeanLimitParameters, needed: float | None) -> str:
        """Both, and the wait."""
        return (
            f"Leans too far above {ANGLE.said(parameters.limit_rad, 1)} for "
            f"{1000.0 * parameters.dwell_s:.0f} ms, upright again below "
            f"{ANGLE.said(parameters.again_rad, 1)}."
        )

    def failing(
        self, parameters: LeanLimitParameters, needed: float | None
    ) -> tuple[str, str] | None:
        """When it tips before."""
        if needed is None or parameters.limit_rad <= needed:
            return None
        return "too late", f"It tips at {ANGLE.said(needed, 1)} already, all taken together."


class FusedLeanLimit(LeanLimit):
    """The same on the lean that a gyroscope helps to tell, which holds while it is shaken."""

    takes: ClassVar[str] = "lean"
