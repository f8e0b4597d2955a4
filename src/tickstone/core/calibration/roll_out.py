"""Roll-out: how far a wheel rolls in one turn, from pulses counted along a tape."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.calibration.counting import counted_result
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span
from tickstone.core.edges import passed
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import DISTANCE
from tickstone.core.reading_units import small_length
from tickstone.core.stages.roll_out import RollOut
from tickstone.core.uncertainty import expanded

_FEWEST_TURNS = 3.0
_OUT_OF_LINE = 3.0


class RollOutKind(CalibrationKind):
    """C = L·m/N from spans along a tape: L what it said, N the pulses counted, m to a turn."""

    name = "roll-out"
    label = "Roll-out"
    node = "speed"
    compares = "edges"
    asks_for = DISTANCE
    usual_u = 0.005
    values_within = (0.01, 10_000.0)
    truth = "Rolled on the tape"
    done = "it rolled"
    deed = "Mark a rolled length"
    unset = "No roll-out has been measured."
    is_needed = True
    undone_by = ("another tyre", "another load", "another tyre pressure")
    guide = (
        "Lay a tape, roll the rig straight along it for five turns or more with its usual load, "
        "press M, drag over the stretch in which it rolled, and type what the tape said. A second "
        "and a third run show how well they agree."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Weighted mean of what each span says (JCGM 100 §4.2 and annex H.3).

        A length weighs by its own doubt and by one pulse more or less at either end. With more
        than one span the doubt is widened by χ²/degrees when that is above 1.

        Raises ValueError when no span has a pulse in it, naming one that has no length.

        >>> from tickstone.core.chains.pulses import PulseParameters
        >>> from tickstone.core.edges import EDGES
        >>> from tickstone.core.signal import Signal
        >>> edges = Signal.of(range(6), [[0.2] * 6, range(1, 7), [0.0] * 6], EDGES)
        >>> fit = RollOutKind().fit([Span("tape", edges, 2.35, 0.005)], PulseParameters())
        >>> round(fit.parameters["roll_out"], 3)
        0.392
        """
        turns_a_pulse = parameters.gear / parameters.pulses_a_turn
        rows = [(span, passed(span.signal)) for span in spans]
        for span, _ in rows:
            if span.true is None or not span.true > 0.0:
                raise ValueError(f"“{span.name}” says no length that it rolled")
        used = [(span, pulses) for span, pulses in rows if pulses >= 1.0]
        if not used:
            raise ValueError("no pulse came under a mark; roll the wheel while it is recorded")
        length = np.array([span.true for span, _ in used], dtype=np.float64)
        length_u = np.array([span.u or self.usual_u for span, _ in used])
        turns = np.array([pulses for _, pulses in used]) * turns_a_pulse
        each = length / turns
        pulse_u = turns_a_pulse / math.sqrt(6.0)
        each_u = each * np.hypot(length_u / length, pulse_u / turns)
        weight = 1.0 / each_u**2
        mean = float(np.sum(weight * each) / np.sum(weight))
        u = float(1.0 / np.sqrt(np.sum(weight)))
        degrees = len(used) - 1
        chi_square = float(np.sum(((each - mean) / each_u) ** 2))
        if degrees > 0 and chi_square > degrees:
            u *= math.sqrt(chi_square / degrees)
        results = tuple(
            counted_result(span, pulses, pulses * turns_a_pulse * mean) for span, pulses in rows
        )
        off = np.abs(each - mean) / each_u
        return Fit(
            parameters={"roll_out": mean},
            covariance=np.array([[u * u]]),
            statistics={"chi_square": chi_square, "degrees": float(degrees)},
            spans=results,
            remarks=worst_first(_remarks(used, turns, off, mean, parameters)),
        )

    def check(self, fit: Fit) -> None:
        """A length, with its variance."""
        length = fit.parameters.get("roll_out")
        if not (isinstance(length, int | float) and 0.0 < length <= 100.0):
            raise ValueError("roll_out: has to lie above 0 m, and to be 100 m at most")
        fit.check_covariance(1, "one length")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> RollOut:
        """The wheel."""
        length = fit.parameters["roll_out"]
        assert isinstance(length, int | float)
        u = math.sqrt(max(0.0, float(fit.covariance[0][0])))
        return RollOut(float(length), u, "roll-out", f"{label}; weighted mean")

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """The length of a turn, and the diameter that goes with it."""
        length = fit.parameters["roll_out"]
        assert isinstance(length, int | float)
        u = expanded(math.sqrt(max(0.0, float(fit.covariance[0][0]))))
        across = float(length) / math.pi
        return (
            Line("rolls in a turn", f"{small_length(float(length), 1)} ± {small_length(u, 1)}"),
            Line("as if it were across", small_length(across, 1)),
        )

    def short(self, fit: Fit) -> str:
        """How far it rolls."""
        length = fit.parameters["roll_out"]
        assert isinstance(length, int | float)
        u = expanded(math.sqrt(max(0.0, float(fit.covariance[0][0]))))
        return f"{small_length(float(length), 0)} ± {small_length(u, 0)}"


def _remarks(
    used: Sequence[tuple[Span, float]],
    turns: np.ndarray,
    off: np.ndarray,
    mean: float,
    parameters: Any,
) -> list[Finding]:
    remarks = []
    for (span, pulses), turned, is_off in zip(used, turns.tolist(), off.tolist(), strict=True):
        if turned < _FEWEST_TURNS:
            remarks.append(
                Finding(
                    "warning",
                    f"“{span.name}” is {turned:.1f} turns long.",
                    "One pulse more or less at its ends weighs heavily on so few.",
                    "Roll five turns or more.",
                )
            )
        if len(used) > 2 and is_off > _OUT_OF_LINE:
            remarks.append(
                Finding(
                    "error",
                    f"“{span.name}” does not agree with the others.",
                    f"Its {pulses:.0f} pulses give another length of a turn, {is_off:.0f} times "
                    "what tape and counting allow.",
                    "Check the tape, and that the stretch begins and ends with the rolling.",
                )
            )
    if len(used) == 1:
        remarks.append(
            Finding(
                "note",
                "One run cannot show how well runs agree.",
                "A slip of the tape would go unseen.",
                "Roll it again, and mark that too.",
            )
        )
    wheel = math.pi * parameters.wheel_m
    ratio = mean / wheel
    if not 0.8 < ratio < 1.25:
        whole = round(max(ratio, 1.0 / ratio))
        cause = (
            f"That is close to {whole} times: are the pulses a turn right, and is one edge counted "
            "or both?"
            if whole >= 2 and abs(max(ratio, 1.0 / ratio) / whole - 1.0) < 0.15
            else "Is the wheel the one that was measured across?"
        )
        remarks.append(
            Finding(
                "warning",
                f"It rolls {ratio:.2f} times what the wheel’s size says.",
                f"π times what it is across would be {small_length(wheel, 0)}. {cause}",
                "Check pulses a turn, edges and wheel in the cells above.",
            )
        )
    return remarks
