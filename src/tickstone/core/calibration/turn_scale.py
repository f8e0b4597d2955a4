"""Turned by hand by a known amount: the scale of a gyroscope's axis."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span, SpanResult
from tickstone.core.calibration.poses import good_samples
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import ANGLE, Quantity
from tickstone.core.signal import FloatArray
from tickstone.core.stages.lane_scale import LaneScale
from tickstone.core.uncertainty import expanded

_TURN = Quantity("turned by", "rad", decimals=0)
_ONE_AXIS = 0.25
_AT_ENDS = math.radians(3.0)
_FAR_OFF = 0.15


class TurnScaleKind(CalibrationKind):
    """s = turned ÷ what the rate sums to, axis by axis."""

    name = "turn-scale"
    label = "Turn scale"
    node = "turn-scale"
    asks_for = _TURN
    usual_u = math.radians(1.0)
    values_within = (math.radians(10.0), 100.0 * 2.0 * math.pi)
    truth = "turned by"
    done = "it was turned by"
    deed = "Mark a turn"
    unset = "How true its rate is has not been tried by turning it."
    is_needed = False
    interval_days = 365
    undone_by = ("another unit of the kind",)
    guide = (
        "Lay it against an edge, turn it by whole turns about one axis, and back against the same "
        "edge. Press M, drag from the rest before to the rest after, and type by how much: 360° "
        "for one turn; ten turns are ten times as good. One mark for each axis."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Weighted means of each axis' scale; one that was not turned keeps 1.

        Raises ValueError when no turn can be told.

        >>> from tickstone.core.quantity import ROTATION
        >>> from tickstone.core.signal import Signal
        >>> rate = np.zeros((3, 201)); rate[2, 50:150] = 6.0
        >>> turn = Signal.of(np.arange(201) / 100, rate, ROTATION)
        >>> fit = TurnScaleKind().fit([Span("360", turn, 2 * math.pi, 0.01)], None)
        >>> [round(one, 3) for one in fit.parameters["scale"]]
        [1.0, 1.0, 1.047]
        """
        looks = [_look(span) for span in spans]
        used = [one for one in looks if one[1] is not None]
        if not used:
            raise ValueError(
                "no turn about one axis is under the marks; begin and end each at rest"
            )
        scale, u = np.ones(3), np.zeros(3)
        residuals: dict[int, float] = {}
        chi_square = 0.0
        for axis in range(3):
            of_axis = [one for one in used if one[1] == axis]
            if not of_axis:
                continue
            read = np.array([one[2] for one in of_axis])
            true = np.array([abs(one[0].true or 0.0) for one in of_axis])
            sigma = np.array([one[0].u or TurnScaleKind.usual_u for one in of_axis])
            weight = 1.0 / sigma**2
            scale[axis] = float((weight * read * true).sum() / (weight * read * read).sum())
            u[axis] = float(1.0 / math.sqrt((weight * read * read).sum()))
            left = true - scale[axis] * read
            chi_square += float((left**2 * weight).sum())
            if len(of_axis) > 1:
                u[axis] *= max(1.0, math.sqrt(float((left**2 * weight).sum()) / (len(read) - 1)))
            residuals |= {
                id(one[0]): float(one_left) for one, one_left in zip(of_axis, left, strict=True)
            }
        return Fit(
            parameters={"scale": scale.tolist()},
            covariance=np.diag(u**2),
            statistics={"chi_square": chi_square, "turns": float(len(used))},
            spans=tuple(
                replace(_result(span, axis, read), residual=residuals.get(id(span)))
                for span, axis, read, _ in looks
            ),
            remarks=worst_first(_remarks(looks, scale)),
        )

    def check(self, fit: Fit) -> None:
        """Three scales near 1."""
        scale = fit.numbers("scale")
        if len(scale) != 3 or not all(0.2 < one < 5.0 for one in scale):
            raise ValueError("scale: is none that turning could give")
        fit.check_covariance(3, "the scales")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> LaneScale:
        """The scales."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance))).tolist()
        return LaneScale(tuple(fit.numbers("scale")), tuple(u), label)

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Each axis that was turned."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance)))
        return [
            Line(axis, f"× {scale:.4f} ± {expanded(float(one)):.4f}" if one else "not turned")
            for axis, scale, one in zip("xyz", fit.numbers("scale"), u, strict=True)
        ]

    def short(self, fit: Fit) -> str:
        """The scale that is furthest from 1."""
        furthest = max(fit.numbers("scale"), key=lambda one: abs(one - 1.0))
        return f"scale {furthest:.3f}"


def _look(span: Span) -> tuple[Span, int | None, float, FloatArray]:
    """The axis that was turned, if one was, and what its rate sums to, rad, without its sign."""
    time_s, values = good_samples(span.signal)
    if len(time_s) < 3:
        return span, None, 0.0, np.zeros(3)
    sums = np.array([float(np.trapezoid(axis, time_s)) for axis in values])
    axis = int(np.argmax(np.abs(sums)))
    others = float(np.abs(np.delete(sums, axis)).max())
    is_one = abs(sums[axis]) > 0.1 and others < _ONE_AXIS * abs(sums[axis])
    ends = np.abs(np.concatenate((values[axis, :3], values[axis, -3:]))).max()
    return span, axis if is_one else None, abs(float(sums[axis])), np.append(sums, ends)


def _sums_said(sums: FloatArray) -> str:
    return ", ".join(f"{n} {ANGLE.said(float(s), 0)}" for n, s in zip("xyz", sums, strict=False))


def _result(span: Span, axis: int | None, read: float) -> SpanResult:
    count = len(good_samples(span.signal)[0])
    return SpanResult(
        name=span.name,
        true=span.true,
        u=span.u,
        read=read,
        scatter=None,
        drift=None,
        count=count,
        flagged=len(span.signal) - count,
        wild=0,
        is_still=True,
        is_used=axis is not None,
    )


def _remarks(
    looks: Sequence[tuple[Span, int | None, float, FloatArray]], scale: FloatArray
) -> list[Finding]:
    remarks = []
    for span, axis, _, sums in looks:
        if axis is None:
            remarks.append(
                Finding(
                    "warning", f"“{span.name}” is left out.",
                    f"It turned about no one axis: {_sums_said(sums)}.",
                    "Turn it flat on a table, about one of its axes.",
                )
            )  # fmt: skip
        elif len(sums) > 3 and sums[3] > _AT_ENDS:
            remarks.append(
                Finding(
                    "warning", f"“{span.name}” does not begin and end at rest.",
                    "What was turned outside the mark is missing from the sum.",
                    "Drag from the rest before to the rest after.",
                )
            )  # fmt: skip
    for name, one in zip("xyz", scale.tolist(), strict=True):
        if abs(one - 1.0) > _FAR_OFF:
            remarks.append(
                Finding(
                    "warning", f"The scale of {name} is {one:.2f}, far from 1.",
                    "Such a part is right to a few percent.",
                    "Check by how much it was turned, and the codes for 1 °/s.",
                )
            )  # fmt: skip
    return remarks
