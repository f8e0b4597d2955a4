"""A speed display held against the reading, by UN Regulation 39."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.checks.kind import CheckKind, CheckResult
from tickstone.core.finding import Finding
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import SPEED
from tickstone.core.reading_units import ROAD_SPEED
from tickstone.core.uncertainty import expanded

_KMH = 1.0 / 3.6
SOURCE = "UN Regulation 39: 0 ≤ V₁ − V₂ ≤ V₂/10 + 4 km/h, V₁ shown, V₂ true"


@dataclass(frozen=True, slots=True)
class DisplayShows:
    """What the display said while the reading in hand was taken."""

    shown_m_per_s: float = number(
        "The display shows", "m/s", 5.0, 0.0, 200.0, shown_as=ROAD_SPEED, decimals=1
    )

    def __post_init__(self) -> None:
        check_inputs(self)


def most_above_m_per_s(true_m_per_s: float) -> float:
    """How much above the true speed a display may show.

    >>> round(3.6 * most_above_m_per_s(50.0 / 3.6), 6)
    9.0
    """
    return true_m_per_s / 10.0 + 4.0 * _KMH


class SpeedDisplay(CheckKind):
    """A display must never read low, and not too high."""

    name: ClassVar[str] = "speed-display"
    label: ClassVar[str] = "A speed display"
    what: ClassVar[str] = SOURCE
    asks: ClassVar[type] = DisplayShows
    takes: ClassVar[str] = "speed"
    caution: ClassVar[str] = (
        "For one’s own look only: what is approved for a road, local rules and those who are "
        "licensed decide."
    )

    def judge(self, asked: DisplayShows, value: float, u: float, parameters: Any) -> CheckResult:
        """Whether the display lies in the band, doubt of the reading included.

        >>> SpeedDisplay().judge(DisplayShows(53.0 / 3.6), 50.0 / 3.6, 0.1 / 3.6, None).is_good
        True
        """
        if not value >= 0.0:
            raise ValueError("the reading in hand is no speed; take one in hand that is")
        doubt = expanded(u) if math.isfinite(u) else 0.0
        above = asked.shown_m_per_s - value
        most = most_above_m_per_s(value)
        said = f"{SPEED.said(abs(above), 1)} {'above' if above >= 0 else 'below'}"
        if above + doubt < 0.0:
            why = "A display that reads low hides how fast it goes."
            finding = Finding("error", "The display reads low.", why, "Set a larger wheel in it.")
            return CheckResult(f"{said}: too low", False, (finding,))
        if above - doubt > most + 0.1 * doubt:
            limit = f"At this speed up to {SPEED.said(most, 1)} above is allowed."
            finding = Finding("warning", "The display reads too high.", limit, "")
            return CheckResult(f"{said}: too high", False, (finding,))
        if above - doubt < 0.0 or above + doubt > most:
            finding = Finding(
                "note",
                "The doubt of the reading reaches over the limit.",
                f"It is ± {SPEED.said(doubt, 1)}; whether the display keeps to the rule cannot be "
                "told.",
                "A roll-out along a tape makes the reading surer.",
            )
            return CheckResult(f"{said}: cannot be told", None, (finding,))
        return CheckResult(f"{said}: within what is allowed, up to {SPEED.said(most, 1)}", True)
