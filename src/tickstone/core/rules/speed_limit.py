"""Over a speed, under a speed, or standing: two thresholds on the road speed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.inputs import Choice, check_inputs, choice, number
from tickstone.core.quantity import SPEED, DecisionState, Quantity
from tickstone.core.reading_units import ROAD_SPEED
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.status import Status
from tickstone.core.uncertainty import expanded

LIMIT = Quantity(
    "limit",
    "",
    states=(
        DecisionState("within", "within"),
        DecisionState("beyond", "beyond", is_alarm=True),
    ),
)
_SIDES = (Choice("over", "too fast"), Choice("under", "too slow"), Choice("still", "standing"))
_WORDS = {"over": "too fast", "under": "too slow", "still": "standing"}


@dataclass(frozen=True, slots=True)
class SpeedLimitParameters:
    """A speed, the way back, and how long it has to last. Raises ValueError."""

    side: str = choice("Tell when it is", _SIDES)
    limit_m_per_s: float = number("Limit", "m/s", 1.0, 0.0, 400.0, shown_as=ROAD_SPEED, decimals=2)
    back_m_per_s: float = number(
        "Back at", "m/s", 0.9, 0.0, 400.0, "where it ends again", shown_as=ROAD_SPEED, decimals=2
    )
    dwell_s: float = number("Has to last", "s", 0.3, 0.0, 60.0, decimals=2)

    def __post_init__(self) -> None:
        check_inputs(self)
        is_over = self.side == "over"
        if not (
            self.back_m_per_s < self.limit_m_per_s
            if is_over
            else self.back_m_per_s > self.limit_m_per_s
        ):
            which = "below" if is_over else "above"
            raise ValueError(
                f"back_m_per_s: has to lie {which} the limit, so that it cannot dither"
            )


@dataclass(frozen=True, slots=True)
class SpeedLimitEvidence:
    """What speaks for the width of the band."""

    side: str = choice("Tell when it is", _SIDES)
    limit_m_per_s: float = number(
        "Wanted limit", "m/s", 1.0, 0.001, 400.0, shown_as=ROAD_SPEED, decimals=2
    )
    wander_m_per_s: float = number(
        "It wanders by, ±", "m/s", 0.05, 0.0, 100.0, "while driven steadily",
        shown_as=ROAD_SPEED, decimals=2,
    )  # fmt: skip
    sample_s: float | None = number(
        "Between readings", "s", None, 0.0, 60.0, decimals=2,
        from_rig="from the newest recording", is_rare=True,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class SpeedLimit(RuleKind):
    """Over-speed, under-speed or standstill, with a band and a wait."""

    name: ClassVar[str] = "speed-limit"
    label: ClassVar[str] = "Speed limit"
    parameters: ClassVar[type] = SpeedLimitParameters
    evidence: ClassVar[type] = SpeedLimitEvidence
    takes: ClassVar[str] = "speed"
    decision: ClassVar[Quantity] = LIMIT
    words: ClassVar[tuple[str, str]] = ("What it does", "When it tells")
    unset: ClassVar[str] = "No speed limit is set."
    hint: ClassVar[str] = "The band and the wait keep it from dithering."
    caution: ClassVar[str] = (
        "Wheels off the floor for the first run, and a stop within reach. On a road local rules "
        "decide. Tick Stone is not a safety device."
    )

    def stage(self, parameters: SpeedLimitParameters, chain_parameters: Any) -> TwoThresholds:
        """Two thresholds. Slow readings are evidence of a low speed; silence is never one of a
        high one.
        """
        is_over = parameters.side == "over"
        slow = (Status.SLOW,)
        return TwoThresholds(
            parameters.limit_m_per_s,
            parameters.back_m_per_s,
            LIMIT,
            Words(_WORDS[parameters.side], "back", "v"),
            alarm_status=() if is_over else slow,
            calm_status=slow if is_over else (),
            dwell_s=parameters.dwell_s,
        )

    def suggest(
        self, evidence: SpeedLimitEvidence, known: Known, tried: SpeedLimitParameters | None = None
    ) -> Suggestion:
        """A band as wide as wandering and doubt together, a wait of three readings."""
        sample_s = known.sample_s if evidence.sample_s is None else evidence.sample_s
        limit = evidence.limit_m_per_s
        doubt = expanded(known.u_at(limit))
        band = math.hypot(doubt, evidence.wander_m_per_s)
        width = max(2.0 * band, 0.02 * limit)
        back = limit - width if evidence.side == "over" else limit + width
        dwell_s = min(60.0, 3.0 * sample_s)
        fails = tried is not None and abs(tried.limit_m_per_s - tried.back_m_per_s) < band
        return Suggestion(
            parameters={
                "side": evidence.side,
                "limit_m_per_s": round(limit, 4),
                "back_m_per_s": round(max(0.0, back), 4),
                "dwell_s": round(dwell_s, 2),
            },
            parts=(
                Part("doubt of the reading", doubt, SPEED, "k = 2"),
                Part("wandering", evidence.wander_m_per_s, SPEED),
                Part("band", width, SPEED, "twice both together"),
            ),
            note=f"A reading every {sample_s:.2f} s, from {known.note}.",
            needed=band,
            tried_says=("The band is narrower than what wanders: it will dither." if fails else ""),
            tried_fails=fails,
            taken={"sample_s": sample_s},
        )

    def lines(self, parameters: SpeedLimitParameters) -> tuple[Level, ...]:
        """The limit, and the way back."""
        is_over = parameters.side == "over"
        return (
            Level(
                parameters.limit_m_per_s,
                _WORDS[parameters.side],
                "above" if is_over else "below",
                is_alarm=True,
            ),
            Level(parameters.back_m_per_s, "back", "below" if is_over else "above", is_alarm=False),
        )

    def short(self, parameters: SpeedLimitParameters) -> str:
        """The limit."""
        return f"{_WORDS[parameters.side]} {SPEED.said(parameters.limit_m_per_s, 1)}"

    def sentence(self, parameters: SpeedLimitParameters, needed: float | None) -> str:
        """Both speeds and the wait."""
        side = "above" if parameters.side == "over" else "below"
        return (
            f"Tells {_WORDS[parameters.side]} {side} {SPEED.said(parameters.limit_m_per_s, 1)}, "
            f"back at {SPEED.said(parameters.back_m_per_s, 1)}, after {parameters.dwell_s:g} s."
        )

    def failing(
        self, parameters: SpeedLimitParameters, needed: float | None
    ) -> tuple[str, str] | None:
        """When its band is narrower than what wanders."""
        band = abs(parameters.limit_m_per_s - parameters.back_m_per_s)
        if needed is None or band >= needed:
            return None
        return "dithers", (
            f"Its band of {SPEED.said(band, 2)} is narrower than the {SPEED.said(needed, 2)} by "
            "which readings wander."
        )
