"""Gear ratio: how often the wheel turns in one turn of what the magnets sit on."""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

import numpy as np

from tickstone.core.calibration.counting import counted_result, counted_turns
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span
from tickstone.core.calibration.per_turn import TURNS
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.quantity import TURN_RATE
from tickstone.core.stages.ratio import Ratio
from tickstone.core.uncertainty import expanded

_MOST_TEETH = 120
_FEWEST_TURNS = 5.0


class GearKind(CalibrationKind):
    """g = turns of the wheel / turns heard, from wheel turns counted by hand."""

    name = "gear"
    label = "Gear"
    node = "gear"
    compares = "edges"
    asks_for = TURNS
    usual_u = 0.05
    values_within = (0.25, 10_000.0)
    truth = "Wheel turns"
    done = "the wheel turned"
    deed = "Mark wheel turns by hand"
    unset = "The gear is as typed, not counted."
    is_needed = False
    undone_by = ("another gear, belt or chain",)
    guide = (
        "For magnets that sit before a gear: chalk a line on wheel and frame, turn the wheel by "
        "hand ten times until the lines meet again, press M, drag over it, and type how many "
        "turns of the wheel it were."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """All turns of the wheel over all turns heard; one pulse more or less at every end.

        Raises ValueError when no pulse came, or turns were 0.

        >>> from tickstone.core.chains.pulses import PulseParameters
        >>> from tickstone.core.edges import EDGES
        >>> from tickstone.core.signal import Signal
        >>> edges = Signal.of(range(120), [[0.2] * 120, range(120), [0.0] * 120], EDGES)
        >>> spans = [Span("by hand", edges, 10.0, 0.05)]
        >>> round(GearKind().fit(spans, PulseParameters(per_turn=4)).parameters["gear"], 4)
        0.3333
        """
        pulses, turns = counted_turns(spans)
        turns_u = np.array([span.u or self.usual_u for span in spans])
        heard = pulses / parameters.pulses_a_turn
        gear = float(turns.sum() / heard.sum())
        counting = math.sqrt(len(spans) / 6.0) / float(pulses.sum())
        u = gear * math.hypot(counting, math.hypot(*turns_u) / float(turns.sum()))
        return Fit(
            parameters={"gear": gear},
            covariance=np.array([[u * u]]),
            statistics={"heard": float(heard.sum()), "turns": float(turns.sum())},
            spans=tuple(
                counted_result(span, float(count), float(one) * gear)
                for span, count, one in zip(spans, pulses, heard, strict=True)
            ),
            remarks=_remarks(gear, u, float(turns.sum())),
        )

    def check(self, fit: Fit) -> None:
        """A number above 0, with its variance."""
        gear = fit.parameters.get("gear")
        if not (isinstance(gear, int | float) and 1e-4 <= gear <= 1e4):
            raise ValueError("gear: has to lie between 0.0001 and 10 000")
        fit.check_covariance(1, "one number")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> Ratio:
        """Turns heard to turns of the wheel."""
        gear, u = _told(fit)
        return Ratio(
            gear, u, is_divided=False, becomes=TURN_RATE, label="gear", formula="n·g",
            shown_as="", part="gear", basis="counted by hand", source=f"{label}; common practice",
        )  # fmt: skip

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """The ratio, and the teeth that may be behind it."""
        gear, u = _told(fit)
        lines = [Line("wheel turns a turn", f"{grouped(gear, 4)} ± {grouped(expanded(u), 4)}")]
        teeth = likely_teeth(gear, u)
        if teeth is not None:
            lines.append(Line("as teeth", f"{teeth.numerator} : {teeth.denominator}"))
        return tuple(lines)

    def short(self, fit: Fit) -> str:
        """The ratio."""
        gear, u = _told(fit)
        return f"{grouped(gear, 3)} ± {grouped(expanded(u), 3)}"


def likely_teeth(gear: float, u: float) -> Fraction | None:
    """The simplest ratio of whole numbers that lies within what the counting allows, in its lowest
    terms; None when only one with many teeth does.

    >>> likely_teeth(0.3336, 0.002), likely_teeth(2.7183, 1e-6)
    (Fraction(1, 3), None)
    """
    for most in range(1, _MOST_TEETH + 1):
        near = Fraction(gear).limit_denominator(most)
        if near and abs(float(near) - gear) <= expanded(u) and near.numerator <= _MOST_TEETH:
            return near
    return None


def _told(fit: Fit) -> tuple[float, float]:
    gear = fit.parameters["gear"]
    assert isinstance(gear, int | float)
    return float(gear), math.sqrt(max(0.0, float(fit.covariance[0][0])))


def _remarks(gear: float, u: float, turns: float) -> tuple[Finding, ...]:
    remarks = []
    if turns < _FEWEST_TURNS:
        remarks.append(
            Finding(
                "warning",
                f"Only {turns:g} turns of the wheel were counted.",
                f"The gear is known to ± {100.0 * expanded(u) / gear:.1f} % by them.",
                "Turn it ten times.",
            )
        )
    teeth = likely_teeth(gear, u)
    if teeth is not None:
        remarks.append(
            Finding(
                "note",
                f"It may be {teeth.numerator} : {teeth.denominator}.",
                "That is the simplest ratio of teeth within what was counted, in lowest terms; "
                "belts slip and have none.",
                "Count the teeth, and type what they make into the cell instead.",
            )
        )
    return tuple(remarks)
