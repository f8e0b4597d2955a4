"""Black and white of every sensor of a row: by a wave across the line, or by holding."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.calibration.black_white_heaps import (
    BLACK,
    COMPARED,
    READ,
    WAVE,
    WHITE,
    heaps_under,
    samples_of,
)
from tickstone.core.calibration.black_white_remarks import (
    is_dark_high,
    missing_said,
    remarks_on,
)
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Pose, Span, SpanResult
from tickstone.core.finding import worst_first
from tickstone.core.heaps.heap import d_prime
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.heaps.parting import part
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.stages.lightness import Lightness, Surfaces

ANOTHER = "another"
_REST_S = 1.0


class BlackWhiteKind(CalibrationKind):
    """What each sensor reads of black and of white, with their heaps.

    A stretch named black or white holds that for every sensor, or for the one it says. Anything
    else that is neither a wave is another surface by its name. A wave holds both, unlabelled.
    """

    name = "black-white"
    label = "Black and white"
    node = "lightness"
    compares = "counts"
    done = "it was waved, or held"
    deed = "Mark a wave"
    least_spans = 1
    interval_days = 30
    unset = "What each sensor reads of black and of white is not known yet."
    undone_by = (
        "another height",
        "another floor or strip",
        "another lamp or supply",
        "other light in the room",
        "sensors cleaned or moved",
    )
    guide = (
        "Slide the row slowly across the strip and back, so that every sensor sees strip and floor "
        "for a second or more; press M and drag over that stretch. Both heaps of every sensor are "
        "found by themselves."
    )
    poses = (
        Pose(WAVE, "Slide the whole row across the strip and back.", "Keep the height."),
        Pose(BLACK, "Or hold all of them over black.", "Keep still."),
        Pose(WHITE, "And hold all of them over white.", "Keep still."),
        Pose(ANOTHER, "A third surface goes by the name you give it."),
    )
    takes_any_pose = True
    can_be_outgrown = True

    def heaps(self, spans: Sequence[Span], parameters: Any) -> tuple[LaneHeaps, ...]:
        """The heaps of every lane, as far as they can be told."""
        return heaps_under(spans, parameters)

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Means of both heaps of every lane; their covariance is that of means of n samples.

        Raises ValueError naming the sensors of which black and white are not both known.
        """
        lanes = self.heaps(spans, parameters)
        if not lanes:
            raise ValueError("there is no mark on this recording yet")
        missing = [one for one in lanes if one.why_not]
        if missing:
            raise ValueError(missing_said(missing, len(lanes)))
        black, white = [one.dark for one in lanes], [one.light for one in lanes]
        se = [heap.sd / math.sqrt(heap.n) for heap in (*black, *white)]
        return Fit(
            parameters={
                "black": [one.mean for one in black],
                "white": [one.mean for one in white],
                "black_sd": [one.sd for one in black],
                "white_sd": [one.sd for one in white],
            },
            covariance=np.diag(np.square(se)),
            statistics={
                "d_prime": min(min(1e6, d_prime(b, w)) for b, w in zip(black, white, strict=True)),
                "samples": float(sum(heap.n for heap in (*black, *white))),
                "dark_is_high": float(is_dark_high(lanes)),
                "compared_in": _place_of(spans[0].signal.quantity),
            },
            spans=tuple(_result(span) for span in spans),
            remarks=worst_first(remarks_on(lanes, spans, parameters)),
            heaps=lanes,
        )

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """The stretch in which every sensor went from one surface to the other, with a second of
        rest at either end; none when one of them saw only one.
        """
        first_s, last_s = math.inf, -math.inf
        for lane in range(len(signal.values)):
            samples = samples_of(Span("", signal), lane)
            found = part(samples.values)
            if found.why_one:
                return []
            middle = (found.low.mean + found.high.mean) / 2.0
            passed = samples.time_s[1:][np.diff(samples.values > middle)]
            first_s, last_s = min(first_s, passed[0]), max(last_s, passed[-1])
        begin_s, end_s = float(signal.time_s[0]), float(signal.time_s[-1])
        return [(max(begin_s, first_s - _REST_S), min(end_s, last_s + _REST_S))]

    def check(self, fit: Fit) -> None:
        """As many blacks as whites, and no two alike."""
        lists = {}
        for name in ("black", "white", "black_sd", "white_sd"):
            given = fit.parameters.get(name)
            if not isinstance(given, list) or not 1 <= len(given) <= 16:
                raise ValueError(f"{name}: has to be a list of 1 to 16 numbers")
            if not all(isinstance(one, int | float) and math.isfinite(one) for one in given):
                raise ValueError(f"{name}: holds something that is no number")
            lists[name] = given
        count = len(lists["black"])
        if any(len(one) != count for one in lists.values()):
            raise ValueError("black and white have to be of as many sensors")
        if any(b == w for b, w in zip(lists["black"], lists["white"], strict=True)):
            raise ValueError("black and white of a sensor read the same")
        if any(one < 0.0 for name in ("black_sd", "white_sd") for one in lists[name]):
            raise ValueError("a scatter lies below 0")
        if fit.statistics.get("compared_in", 0.0) not in range(len(COMPARED)):
            raise ValueError("compared_in: is none that black and white can be known in")
        fit.check_covariance(2 * count, "black and white")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> Lightness:
        """The share of the way from black to white, in what was compared."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance))).tolist()
        lists = [fit.parameters[name] for name in ("black", "white", "black_sd", "white_sd")]
        count = len(u) // 2
        lanes = zip(*lists, u[:count], u[count:], strict=True)  # type: ignore[arg-type]
        # Black and white came through the very converter that reads now.
        return Lightness(
            tuple(Surfaces(*one) for one in lanes),
            absorbs_shared=True,
            label=label,
            of=compared_in(fit).name,
        )

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Each sensor’s black and white, and how far they are apart."""
        black, white = fit.parameters["black"], fit.parameters["white"]
        sds = fit.parameters["black_sd"], fit.parameters["white_sd"]
        assert isinstance(black, list)
        assert isinstance(white, list)
        lines, quantity = [], compared_in(fit)
        for place, (b, w) in enumerate(zip(black, white, strict=True)):
            scatter = math.hypot(*(one[place] for one in sds)) / math.sqrt(2.0)  # type: ignore[index]
            apart = f"d′ {abs(b - w) / scatter:.0f}" if scatter > 0.0 else "no scatter"
            said = f"{quantity.said(b)} black, {quantity.said(w)} white, {apart}"
            lines.append(Line(f"sensor {place + 1}", said))
        return lines

    def short(self, fit: Fit) -> str:
        """How far the nearest heaps are apart."""
        return f"d′ {fit.statistics['d_prime']:.0f} or more"

    def outgrown(self, fit: Fit, signal: Signal) -> tuple[str, str] | None:
        """When a newer recording’s heaps stand elsewhere: other light, height, supply or floor."""
        black, white = fit.parameters["black"], fit.parameters["white"]
        if not isinstance(black, list) or not isinstance(white, list):
            return None
        quantity = compared_in(fit)
        if len(black) != len(signal.values) or quantity.name != signal.quantity.name:
            return None
        unit = "" if quantity.unit or quantity.shown_as else f" {quantity.name}"
        worst: tuple[float, str] | None = None
        for place, (b, w) in enumerate(zip(black, white, strict=True)):
            values = samples_of(Span("", signal), place).values
            found = part(values)
            if found.why_one:
                continue
            dark, light = (found.high, found.low) if b > w else (found.low, found.high)
            for word, heap, was in (("black", dark, b), ("white", light, w)):
                moved = (heap.mean - was) / abs(w - b)
                if abs(moved) > _MOVED and (worst is None or abs(moved) > abs(worst[0])):
                    lighter = "lighter" if (moved > 0.0) == (w > b) else "darker"
                    worst = (
                        moved,
                        (
                            f"In the newest recording the {word} of sensor {place + 1} reads "
                            f"{quantity.said(abs(heap.mean - was))}{unit} {lighter} than it did, "
                            f"{100.0 * abs(moved):.0f} % of the way between black and white: other "
                            "light, height, supply or floor. Wave again."
                        ),
                    )
        return None if worst is None else ("other light", worst[1])


def compared_in(fit: Fit) -> Quantity:
    """What the black and white of a fit are known in."""
    return COMPARED[int(fit.statistics.get("compared_in", 0.0))]


def _place_of(quantity: Quantity) -> float:
    """The place of a quantity among those compared; counts, where it is none of them."""
    names = [one.name for one in COMPARED]
    return float(names.index(quantity.name)) if quantity.name in names else 0.0


_MOVED = 0.15
"""A heap that moved by so much of the way between black and white is another heap."""


def _result(span: Span) -> SpanResult:
    read = np.isin(span.signal.status, READ).all(axis=0)
    count = int(np.count_nonzero(read))
    return SpanResult(
        name=span.name,
        true=None,
        u=None,
        read=None,
        scatter=None,
        drift=None,
        count=count,
        flagged=len(span.signal) - count,
        wild=0,
        is_still=True,
        is_used=count > 0,
    )
