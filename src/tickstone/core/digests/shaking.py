"""What it shakes with: how strongly, and at which frequencies."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from tickstone.core.digests.kind import BESIDE, DigestKind, Figure
from tickstone.core.looking import spectrum_of
from tickstone.core.quantity import FORCE, FREQUENCY, NUMBER, TURN_RATE
from tickstone.core.signal import FloatArray, Signal

_SIZE = FORCE.in_lanes("")
_LINES = 3
_STANDS_OUT = 4.0
"""A line is one where its amplitude is so many times the median of those around it."""
_AROUND = 25
_STEADY = 0.1


class Shaking(DigestKind):
    """Level, and the lines that stand out, as frequencies and as turns.

    >>> t = np.arange(2000) / 200
    >>> felt = Signal.of(t, 9.8 + np.sin(2 * np.pi * 12.5 * t), _SIZE)
    >>> told = Shaking().figures({"size": felt}, 0.0, 10.0, lambda *_: 0.0, None)
    >>> {one.name: round(one.value, 1) for one in told}["line_1"]
    12.5
    """

    name: ClassVar[str] = "shaking"
    label: ClassVar[str] = "What it shakes with"
    takes: ClassVar[tuple[str, ...]] = ("size",)
    is_calibrated: ClassVar[bool] = False

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """The level, the peak, and up to three lines."""
        time_s, values = _within(results["size"], from_s, to_s)
        return _told(time_s, values)


class ShakingBesideWheel(DigestKind):
    """The same lines, held against what turned meanwhile."""

    name: ClassVar[str] = "shaking-beside-wheel"
    label: ClassVar[str] = "What it shakes with, beside a wheel"
    takes: ClassVar[tuple[str, ...]] = ("size",)
    beside: ClassVar[str] = "rpm"
    is_calibrated: ClassVar[bool] = False

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """How fast it turned, and how many times a turn each line comes."""
        time_s, values = _within(results["size"], from_s, to_s)
        _, turns = _within(results[BESIDE], from_s, to_s)
        if len(turns) < 5:
            return _told(time_s, values)
        mean, spread = float(turns.mean()), float(turns.std())
        is_steady = mean > 0.0 and spread < _STEADY * mean
        how = "steady" if is_steady else "not steady: look at a stretch of even speed"
        figures = [Figure("turns", "the wheel turned", TURN_RATE, mean, spread, how)]
        for number, (hz, u) in enumerate(_lines(time_s, values), start=1):
            times = hz / mean if mean > 0.0 else math.nan
            doubt = math.hypot(u / hz, spread / mean) * times if mean > 0.0 else math.nan
            figures.append(Figure(f"line_{number}", f"line {number}", FREQUENCY, hz, u, "spectrum"))
            figures.append(
                Figure(
                    f"order_{number}", f"line {number}, times a turn", NUMBER, times, doubt,
                    "line over turns" if is_steady else "turned unevenly",
                )
            )  # fmt: skip
        return figures


def _within(signal: Signal, from_s: float, to_s: float) -> tuple[FloatArray, FloatArray]:
    inside = (signal.time_s >= from_s) & (signal.time_s <= to_s)
    inside &= signal.ok & ~np.isnan(signal.value)
    return signal.time_s[inside], signal.value[inside]


def _told(time_s: FloatArray, values: FloatArray) -> list[Figure]:
    if len(values) < 4:
        return [Figure("level", "shakes by", _SIZE, math.nan, math.nan, "too few readings")]
    level = float(values.std())
    off = float(np.abs(values - np.median(values)).max())
    figures = [
        Figure("level", "shakes by", _SIZE, level, math.nan, "standard deviation"),
        Figure("peak", "at most", _SIZE, off, math.nan, "off its middle"),
    ]
    for number, (hz, u) in enumerate(_lines(time_s, values), start=1):
        figures.append(Figure(f"line_{number}", f"line {number}", FREQUENCY, hz, u, "spectrum"))
        figures.append(
            Figure(f"turns_{number}", f"line {number}, as turns", TURN_RATE, hz, u, "once a turn")
        )
    return figures


def _lines(time_s: FloatArray, values: FloatArray) -> list[tuple[float, float]]:
    """Frequencies that stand out, Hz, the strongest first, each with its standard uncertainty."""
    hz, density, _ = spectrum_of(time_s, values)
    if len(hz) < 8:
        return []
    step = float(hz[1] - hz[0])
    found = []
    for place in range(2, len(hz) - 1):
        around = np.concatenate(
            (density[max(1, place - _AROUND) : place - 1], density[place + 2 : place + _AROUND])
        )
        here = float(density[place])
        is_top = here >= density[place - 1] and here > density[place + 1]
        if is_top and len(around) and here > _STANDS_OUT * float(np.median(around)):
            # The top of a parabola through three points on a logarithmic height.
            a, b, c = np.log(np.maximum(density[place - 1 : place + 2], 1e-300))
            bend = a - 2.0 * b + c
            shift = 0.5 * (a - c) / bend if bend < 0.0 else 0.0
            found.append((here, float(hz[place]) + float(shift) * step))
    found.sort(reverse=True)
    return [(at, step / math.sqrt(12.0)) for _, at in found[:_LINES]]
