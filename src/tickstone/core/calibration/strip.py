"""Strip thresholds: from the two heaps of counts that light and dark give."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span, SpanResult
from tickstone.core.display import grouped
from tickstone.core.finding import Finding, worst_first
from tickstone.core.signal import FloatArray
from tickstone.core.stages.level_edges import LevelEdges

_FEWEST = 8
_CLEAR = 6.0
_STEPS = 256


class StripKind(CalibrationKind):
    """Two thresholds a third of the way in from either heap."""

    name = "strip"
    label = "Strip thresholds"
    node = "pulse"
    compares = "@pulses"
    done = "the strip passed"
    deed = "Mark a stretch of turning"
    unset = "The thresholds of the strip have not been learnt."
    is_needed = False
    undone_by = ("another strip or lamp", "sensor nearer or farther")
    guide = (
        "For a strip read by a converter: turn the wheel by hand a few times, press M, and drag "
        "over it. The counts make two heaps, light and dark; the thresholds go between them."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """The two heaps parted where the variance between them is largest (Otsu's criterion).

        Raises ValueError when there are too few counts, or no two heaps.

        >>> from tickstone.core.signal import Signal
        >>> counts = Signal.of(range(40), [200.0, 203.0, 800.0, 806.0] * 10)
        >>> fit = StripKind().fit([Span("turning", counts)], None)
        >>> round(fit.parameters["low"]), round(fit.parameters["high"])
        (402, 602)
        """
        counts = np.concatenate([span.signal.value[span.signal.ok] for span in spans])
        if len(counts) < _FEWEST:
            raise ValueError(f"{len(counts)} counts are under the marks; turn the wheel for longer")
        parted = _parted(counts)
        light, dark = counts[counts <= parted], counts[counts > parted]
        if len(light) < 2 or len(dark) < 2:
            raise ValueError("all counts are alike; the strip has to pass while it is recorded")
        means = np.array([np.median(light), np.median(dark)])
        spread = np.array([max(_spread(light), 0.3), max(_spread(dark), 0.3)])
        third = np.array([[2.0, 1.0], [1.0, 2.0]]) / 3.0
        of_means = np.diag(spread**2 / np.array([len(light), len(dark)]))
        low, high = (third @ means).tolist()
        clear = float((means[1] - means[0]) / np.hypot(*spread))
        return Fit(
            parameters={"low": low, "high": high},
            covariance=third @ of_means @ third.T,
            statistics={
                "light": float(means[0]),
                "dark": float(means[1]),
                "light_spread": float(spread[0]),
                "dark_spread": float(spread[1]),
                "clear": clear,
            },
            spans=tuple(_result(span) for span in spans),
            remarks=worst_first(_remarks(clear, light, dark)),
        )

    def check(self, fit: Fit) -> None:
        """Two thresholds in order."""
        low, high = fit.parameters.get("low"), fit.parameters.get("high")
        if not (isinstance(low, int | float) and isinstance(high, int | float) and low < high):
            raise ValueError("low, high: have to be numbers, low below high")
        fit.check_covariance(2, "two thresholds")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> LevelEdges:
        """Edges where the counts cross both."""
        low, high = fit.parameters["low"], fit.parameters["high"]
        assert isinstance(low, int | float)
        assert isinstance(high, int | float)
        return LevelEdges(float(low), float(high), is_exact=False, timing_s=0.0)

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """The thresholds and the heaps."""
        told, s = fit.parameters, fit.statistics
        lines = [
            Line("light at or below", f"{grouped(float(_one(told['low'])), 0)} counts"),
            Line("dark at or above", f"{grouped(float(_one(told['high'])), 0)} counts"),
        ]
        if "light" in s:
            lines.append(
                Line("heaps", f"{grouped(s['light'], 0)} and {grouped(s['dark'], 0)} counts")
            )
        return tuple(lines)

    def short(self, fit: Fit) -> str:
        """Between which counts."""
        return f"{_one(fit.parameters['low']):.0f} and {_one(fit.parameters['high']):.0f} counts"


def _one(value: float | list[float]) -> float:
    assert not isinstance(value, list)
    return value


def _parted(counts: FloatArray) -> float:
    """Where to part the counts so that the variance between both sides is largest."""
    low, high = float(counts.min()), float(counts.max())
    edges = np.linspace(low, high, _STEPS + 1)
    heap, _ = np.histogram(counts, edges)
    middles = (edges[1:] + edges[:-1]) / 2.0
    below = np.cumsum(heap)
    total = np.cumsum(heap * middles)
    with np.errstate(invalid="ignore", divide="ignore"):
        between = (total[-1] * below / below[-1] - total) ** 2 / (below * (below[-1] - below))
    if not np.isfinite(between).any():
        return high
    best = np.flatnonzero(between == np.nanmax(between[np.isfinite(between)]))
    return float(edges[1:][best].mean())


def _spread(heap: FloatArray) -> float:
    """Standard deviation by quartiles, which what passes between the heaps does not widen."""
    quarter, three = np.quantile(heap, [0.25, 0.75])
    return float(three - quarter) / 1.349


def _result(span: Span) -> SpanResult:
    return SpanResult(
        name=span.name,
        true=None,
        u=None,
        read=None,
        scatter=None,
        drift=None,
        count=len(span.signal),
        flagged=int(np.count_nonzero(~span.signal.ok)),
        wild=0,
        is_still=True,
        is_used=True,
    )


def _remarks(clear: float, light: FloatArray, dark: FloatArray) -> list[Finding]:
    remarks = []
    if clear < _CLEAR:
        remarks.append(
            Finding(
                "warning",
                f"The two heaps lie only {clear:.1f} of their widths apart.",
                "Noise will cross both thresholds now and then, and count what is no strip.",
                "Bring the sensor nearer, shade it, or make the strip whiter.",
            )
        )
    fewer = min(len(light), len(dark)) / (len(light) + len(dark))
    if fewer < 0.02:
        remarks.append(
            Finding(
                "warning",
                f"One heap holds {100 * fewer:.1f} % of the counts.",
                "The strip is narrow for how often it is read: some may pass unseen.",
                "Turn more slowly, read more often, or make the strip wider.",
            )
        )
    return remarks
