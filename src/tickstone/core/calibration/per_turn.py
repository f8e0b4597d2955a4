"""Pulses a turn: counted while the wheel is turned by hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.calibration.counting import counted_result, counted_turns
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import TURN_RATE, Quantity
from tickstone.core.stages.ratio import Ratio

TURNS = Quantity("turns", "turns", decimals=0)
_CLOSE = 0.15


class PerTurnKind(CalibrationKind):
    """m = N/turns, a whole number."""

    name = "per-turn"
    label = "Pulses a turn"
    node = "turns"
    compares = "edges"
    asks_for = TURNS
    usual_u = 0.05
    values_within = (0.25, 10_000.0)
    truth = "Turns"
    done = "it was turned"
    deed = "Mark turns by hand"
    unset = "Pulses a turn are as typed, not counted."
    is_needed = False
    undone_by = ("magnets added or gone",)
    guide = (
        "Chalk a line on wheel and frame, turn the wheel by hand ten times until the lines meet "
        "again, press M, drag over it, and type how many turns it were. What comes is counted as "
        "the program counts it, one edge or both."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Pulses over turns, all spans together, to the nearest whole number.

        Raises ValueError when no pulse came, or turns were 0.

        >>> from tickstone.core.chains.pulses import PulseParameters
        >>> from tickstone.core.edges import EDGES
        >>> from tickstone.core.signal import Signal
        >>> edges = Signal.of(range(41), [[0.2] * 41, range(41), [0.0] * 41], EDGES)
        >>> PerTurnKind().fit([Span("by hand", edges, 10.0, 0.05)], PulseParameters()).parameters
        {'per_turn': 4.0}
        """
        pulses, told = counted_turns(spans)
        turns = float(told.sum())
        each = float(pulses.sum()) / turns
        whole = max(1.0, float(round(each)))
        return Fit(
            parameters={"per_turn": whole},
            covariance=np.zeros((1, 1)),
            statistics={"counted": each, "pulses": float(pulses.sum()), "turns": turns},
            spans=tuple(
                counted_result(span, count, count / whole)
                for span, count in zip(spans, pulses.tolist(), strict=True)
            ),
            remarks=worst_first(_remarks(each, whole, turns, parameters)),
        )

    def check(self, fit: Fit) -> None:
        """A whole number above 0."""
        number = fit.parameters.get("per_turn")
        is_whole = isinstance(number, int | float) and number == int(number)
        if not (is_whole and isinstance(number, int | float) and 1 <= number <= 20_000):
            raise ValueError("per_turn: has to be a whole number, 1 to 20 000")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> Ratio:
        """Pulses to turns."""
        number = fit.parameters["per_turn"]
        assert isinstance(number, int | float)
        return pulses_to_turns(float(number), "counted by hand", f"{label}; common practice")

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """The number, and what was counted."""
        number, s = fit.parameters["per_turn"], fit.statistics
        assert isinstance(number, int | float)
        lines = [Line("pulses in a turn", f"{number:.0f}")]
        if "counted" in s:
            lines.append(
                Line("counted", f"{s['pulses']:.0f} in {s['turns']:g} turns, {s['counted']:.2f}")
            )
        return tuple(lines)

    def short(self, fit: Fit) -> str:
        """How many."""
        number = fit.parameters["per_turn"]
        assert isinstance(number, int | float)
        return f"{number:.0f} a turn"


def pulses_to_turns(pulses: float, below: str, source: str) -> Ratio:
    """The stage that makes turns of pulses."""
    return Ratio(
        pulses,
        0.0,
        is_divided=True,
        becomes=TURN_RATE,
        label="pulses a turn",
        formula="n = f/m",
        shown_as="",
        part="pulses a turn",
        basis="a whole number",
        source=source,
        below=below,
    )


def _remarks(each: float, whole: float, turns: float, parameters: Any) -> list[Finding]:
    remarks = []
    if abs(each - whole) > max(_CLOSE, 1.0 / turns):
        remarks.append(
            Finding(
                "error",
                f"{each:.2f} pulses a turn are near no whole number.",
                "A turn too many or too few was typed, or pulses bounced or were missed.",
                "Turn it again, slowly, and count aloud.",
            )
        )
    typed = parameters.pulses_a_turn
    if whole != typed:
        remarks.append(
            Finding(
                "warning",
                f"{whole:.0f} pulses a turn came, {typed} are set.",
                f"With what is set every reading would be {whole / typed:.3g} times the truth.",
                "Keep this calibration, or look at “pulses a turn” and at which edges are counted.",
            )
        )
    return remarks
