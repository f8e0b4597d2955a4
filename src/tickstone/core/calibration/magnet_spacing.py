"""Magnet spacing: each gap's share of a turn, learnt from steady turns."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span, SpanResult
from tickstone.core.calibration.least_squares import linear
from tickstone.core.edges import COUNT, GAP
from tickstone.core.finding import Finding, worst_first
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.spacing import MOST_SHARES, Spacing
from tickstone.core.status import Status
from tickstone.core.uncertainty import expanded

_FEWEST_TURNS = 3
_STEADY = 0.10
"""A change of speed over a span, as a share, above which it is called unsteady."""
_OUT_OF_LINE = 5.0


class MagnetSpacingKind(CalibrationKind):
    """sₖ from gaps in turns that were steady, or changed their speed evenly."""

    name = "magnet-spacing"
    label = "Magnet spacing"
    node = "spacing"
    compares = "edges"
    done = "it turned steadily"
    deed = "Mark steady turns"
    unset = "How evenly the magnets are spaced has not been learnt."
    is_needed = False
    undone_by = ("magnets fixed anew", "another wheel")
    guide = (
        "Spin the wheel freely or roll at a steady speed for ten turns or more, press M, and drag "
        "over a stretch in which nothing sped up or braked. Each gap’s share of a turn is learnt "
        "and divided out."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Least squares of ln Δt = cₖ + b·t over every span: shares are exp(cₖ) ÷ their sum.

        An even change of speed goes into b; each span has a b and a level of its own, and its
        own way round, turned to fit the first. Gaps far off the rest are left out.

        Raises ValueError when a turn has one pulse, too many, or there are too few turns.

        >>> from tickstone.core.chains.pulses import PulseParameters
        >>> from tickstone.core.edges import EDGES
        >>> gaps = [0.3, 0.2] * 10
        >>> edges = Signal.of(np.cumsum(gaps), [gaps, range(20), [0.0] * 20], EDGES)
        >>> fit = MagnetSpacingKind().fit([Span("spin", edges)], PulseParameters(per_turn=2))
        >>> [round(share, 3) for share in fit.parameters["shares"]]
        [0.6, 0.4]
        """
        m = parameters.pulses_a_turn
        if m < 2:
            raise ValueError(
                "with one pulse a turn there is no spacing to learn; set pulses a turn"
            )
        if m > MOST_SHARES:
            raise ValueError(f"up to {MOST_SHARES} pulses a turn can be learnt, not {m}")
        rows = [_gaps(span.signal) for span in spans]
        used = [(span, *row) for span, row in zip(spans, rows, strict=True) if len(row[0]) >= 2 * m]
        turns = sum(len(gap) for _, gap, _, _ in used) / m
        if turns < _FEWEST_TURNS:
            raise ValueError(
                f"{turns:.1f} turns are under the marks; {_FEWEST_TURNS} at least, ten are better. "
                f"{m} pulses make a turn"
            )
        shapes = [_shape(gap, place % m, time_s, m) for _, gap, place, time_s in used]
        first = shapes[0][0]
        turned = [_turned(shape, first) for shape, _ in shapes]
        logs, places, times, groups = [], [], [], []
        for group, ((_, gap, place, time_s), turn) in enumerate(zip(used, turned, strict=True)):
            logs.append(np.log(gap))
            places.append((place - turn) % m)
            times.append(time_s - time_s.mean())
            groups.append(np.full(len(gap), group))
        log, place = np.concatenate(logs), np.concatenate(places)
        shape, covariance, kept, scatter = _fitted(
            log, place, np.concatenate(times), np.concatenate(groups), m
        )
        shares = np.exp(shape) / np.exp(shape).sum()
        # ∂sₖ/∂cⱼ = sₖ(δₖⱼ − sⱼ)
        slope = np.diag(shares) - np.outer(shares, shares)
        largest = int(np.argmax(shares))
        order = (np.arange(m) + largest) % m
        of_shares = (slope @ covariance @ slope.T)[np.ix_(order, order)]
        results = tuple(_result(span, row, m) for span, row in zip(spans, rows, strict=True))
        drifts = [abs(drift) for _, drift in shapes]
        return Fit(
            parameters={"shares": shares[order].tolist()},
            covariance=of_shares,
            statistics={
                "turns": turns,
                "gaps": float(kept.sum()),
                "left_out": float((~kept).sum()),
                "scatter": scatter,
            },
            spans=results,
            remarks=worst_first(_remarks(used, drifts, shares[order], of_shares, kept)),
        )

    def check(self, fit: Fit) -> None:
        """Shares that add up to a turn."""
        shares = fit.parameters.get("shares")
        if not isinstance(shares, list) or not 2 <= len(shares) <= MOST_SHARES:
            raise ValueError("shares: has to be a list of two or more")
        if not all(isinstance(one, int | float) and 0.0 < one < 1.0 for one in shares):
            raise ValueError("shares: each has to lie between 0 and 1")
        if abs(sum(shares) - 1.0) > 1e-6:
            raise ValueError("shares: have to add up to 1")
        fit.check_covariance(len(shares), "the shares")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> Spacing:
        """The shares divided out."""
        shares = fit.parameters["shares"]
        assert isinstance(shares, list)
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance)))
        even = len(shares) * float(np.abs(np.array(shares) - 1.0 / len(shares)).max())
        scatter = float(fit.statistics.get("scatter", 0.0))
        return Spacing(
            len(shares), even, tuple(shares), tuple(u.tolist()), scatter, f"learnt; {label}"
        )

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Every share beside an even one."""
        shares = fit.parameters["shares"]
        assert isinstance(shares, list)
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance)))
        return tuple(
            Line(
                f"gap {place} of {len(shares)}",
                f"{100.0 * share:.2f} % ± {100.0 * expanded(float(one)):.2f} % of a turn",
            )
            for place, (share, one) in enumerate(zip(shares, u, strict=True), start=1)
        )

    def short(self, fit: Fit) -> str:
        """How uneven they are."""
        shares = fit.parameters["shares"]
        assert isinstance(shares, list)
        worst = max(abs(share * len(shares) - 1.0) for share in shares)
        return f"up to {100.0 * worst:.1f} % off even"


Gaps = tuple[FloatArray, FloatArray, FloatArray]


def _gaps(edges: Signal) -> Gaps:
    """Good gaps, which number each has, and the middle of each, s."""
    good = (edges.status[GAP] == Status.OK) & (edges.values[GAP] > 0.0)
    gap = edges.values[GAP, good]
    return gap, np.rint(edges.values[COUNT, good]), edges.time_s[good] - gap / 2.0


def _shape(
    gap: FloatArray, place: FloatArray, time_s: FloatArray, m: int
) -> tuple[FloatArray, float]:
    """Rough logarithms of the shares of one span, and by which share its speed changed."""
    log = np.log(gap)
    design = np.column_stack([place == k for k in range(m)] + [time_s - time_s.mean()]).astype(
        float
    )
    parameters, _ = _solved(design, log)
    drift = float(parameters[-1] * (time_s[-1] - time_s[0]))
    return parameters[:-1] - parameters[:-1].mean(), drift


def _solved(design: FloatArray, log: FloatArray) -> tuple[FloatArray, FloatArray]:
    found = linear(design, log)
    if found is None:
        raise ValueError("some gap of the turn is never under the marks; mark more turns")
    return found


def _turned(shape: FloatArray, first: FloatArray) -> int:
    """By how many places a shape has to be turned to fit the first."""
    apart = [((first - np.roll(shape, -turn)) ** 2).sum() for turn in range(len(shape))]
    return int(np.argmin(apart))


def _fitted(
    log: FloatArray, place: FloatArray, time_s: FloatArray, group: FloatArray, m: int
) -> tuple[FloatArray, FloatArray, np.ndarray, float]:
    """Shape, its covariance by what is left over, which gaps were kept, and their scatter."""
    groups = int(group.max()) + 1
    columns = [(place == k).astype(float) for k in range(m)]
    columns += [(group == g) * time_s for g in range(groups)]
    columns += [(group == g).astype(float) for g in range(1, groups)]
    design = np.column_stack(columns)
    kept = np.ones(len(log), dtype=bool)
    for _ in range(3):
        parameters, covariance = _solved(design[kept], log[kept])
        left = log - design @ parameters
        middle = float(np.median(np.abs(left[kept]))) * 1.4826
        kept = np.abs(left) <= max(_OUT_OF_LINE * middle, 1e-9)
    degrees = max(1, int(kept.sum()) - design.shape[1])
    variance = float((left[kept] ** 2).sum()) / degrees
    # Neighbouring gaps share an edge: what lengthens one shortens the next, so that all of their
    # scatter is in the shape and none in its sum.
    shared = m / (m - 1)
    return parameters[:m], covariance[:m, :m] * variance * shared, kept, math.sqrt(variance)


def _result(span: Span, row: Gaps, m: int) -> SpanResult:
    gap = row[0]
    return SpanResult(
        name=span.name,
        true=None,
        u=None,
        read=len(gap) / m,
        scatter=None,
        drift=None,
        count=len(gap),
        flagged=int(np.count_nonzero(~span.signal.ok)),
        wild=0,
        is_still=True,
        is_used=len(gap) >= 2 * m,
    )


def _remarks(
    used: Sequence[tuple[Span, FloatArray, FloatArray, FloatArray]],
    drifts: Sequence[float],
    shares: FloatArray,
    covariance: FloatArray,
    kept: np.ndarray,
) -> list[Finding]:
    remarks = [
        Finding(
            "warning",
            f"“{span.name}” is not steady: its speed changes by {100 * drift:.0f} %.",
            "An even change is taken into account; an uneven one looks like uneven magnets.",
            "Mark a stretch in which the wheel spins freely.",
        )
        for (span, *_), drift in zip(used, drifts, strict=True)
        if drift > _STEADY
    ]
    off = np.abs(shares * len(shares) - 1.0)
    u = np.sqrt(np.maximum(0.0, np.diag(covariance))) * len(shares)
    if (off < 2.0 * u).all():
        remarks.append(
            Finding(
                "note",
                "The gaps are alike within their ±.",
                "There is hardly anything to divide out.",
                "",
            )
        )
    share_out = float((~kept).mean())
    if share_out > 0.05:
        remarks.append(
            Finding(
                "warning",
                f"{100 * share_out:.0f} % of the gaps are far off the rest.",
                "They were left out: bounce, a missed pulse, or a jolt.",
                "Mark a calmer stretch.",
            )
        )
    return remarks
