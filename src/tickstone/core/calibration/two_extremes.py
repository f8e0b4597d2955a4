"""Each axis up and down once: zero and scale of an analogue accelerometer, in volts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.axes import three
from tickstone.core.calibration.guiding import see_poses
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Pose, Span, SpanResult
from tickstone.core.calibration.poses import (
    Held,
    face_of,
    face_said,
    good_samples,
    held_between,
    stillness,
)
from tickstone.core.calibration.seen import Seen
from tickstone.core.display import grouped
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import VOLTAGE
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.volts_force import VoltsForce
from tickstone.core.uncertainty import expanded, rectangular

_STEADY_V = 0.004
_ALIKE = 0.35
_UPRIGHT_RAD = math.radians(2.0)
"""How upright an axis is held by hand; from memory. It costs 1 − cos of it."""
_HUNDREDTHS = 100
_AXES = "xyz"


class TwoExtremesKind(CalibrationKind):
    """zero = (V₊ + V₋)/2 and scale = (V₊ − V₋)/2 of each axis."""

    name = "two-extremes"
    label = "Two extremes"
    node = "force"
    compares = "volts"
    done = "an axis stood up or down"
    deed = "Mark the extremes"
    unset = "Its extremes have not been held: zero and scale are as stated."
    interval_days = 365
    undone_by = ("another part of the kind", "another supply or reference")
    guide = (
        "Hold each axis straight up, then straight down, three seconds each, in any order; the "
        "extremes of each are found. Press M and drag over all of it."
    )
    poses = tuple(
        Pose(f"{axis} {way}", f"Hold {axis} straight {way}.", "Keep it there.")
        for axis in _AXES
        for way in ("up", "down")
    )
    takes_any_pose = True
    is_guided = True

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Extremes of each axis among what was held still.

        Raises ValueError naming an axis of which only one end was held.

        >>> from tickstone.core.chains.analogue3 import Analogue3Parameters
        >>> lsb = 5.0 / 1024
        >>> ends = np.full((6, 3), 344.5 * lsb)
        >>> for k in range(6): ends[k, k // 2] = (411.5 if k % 2 == 0 else 277.5) * lsb
        >>> held = [Span(str(k), Signal.of(np.arange(9) / 9, np.tile(v, (9, 1)).T, _VOLTS))
        ...         for k, v in enumerate(ends)]
        >>> fit = TwoExtremesKind().fit(held, Analogue3Parameters())
        >>> round(fit.parameters["per_g_v"][0], 3), round(fit.statistics["per_g_codes"])
        (0.327, 67)
        """
        poses = [(span, pose) for span in spans for pose in _poses(span)]
        if not poses:
            raise ValueError("nothing under the marks was held still")
        means = np.array([pose.mean for _, pose in poses])
        us = np.array([pose.u for _, pose in poses])
        high, low = means.argmax(axis=0), means.argmin(axis=0)
        axes = range(3)
        top, bottom = means[high, axes], means[low, axes]
        zero, per_g = (top + bottom) / 2.0, (top - bottom) / 2.0
        _refuse(per_g, zero, parameters)
        # Not quite upright an extreme falls short, and never goes beyond.
        short = rectangular(1.0 - math.cos(_UPRIGHT_RAD))
        end_u = np.stack((np.hypot(us[high, axes], short * per_g),
                          np.hypot(us[low, axes], short * per_g)))  # fmt: skip
        # A code is known to ± ½; the mean of a few may still be one and the same code.
        end_u = np.hypot(end_u, rectangular(0.5 * parameters.lsb_v))
        u = np.sqrt(np.sum(end_u**2, axis=0)) / 2.0
        lsb_v = parameters.lsb_v
        used = {int(one) for one in (*high, *low)}
        return Fit(
            parameters={"zero_v": zero.tolist(), "per_g_v": per_g.tolist()},
            covariance=np.diag(np.concatenate((u**2, u**2))),
            statistics={
                "lsb_v": lsb_v,
                "zero_codes": float(zero[0] / lsb_v - 0.5),
                "per_g_codes": float(per_g[0] / lsb_v),
                "whole_numbers_lose_g": _integer_loss(bottom / lsb_v, top / lsb_v),
                "poses": float(len(poses)),
            },
            spans=tuple(
                _result(span, [n for n, (one, _) in enumerate(poses) if one is span], used, poses)
                for span in spans
            ),
            remarks=worst_first(_remarks(per_g, zero)),
        )

    def check(self, fit: Fit) -> None:
        """Volts of three axes."""
        zero, per_g = fit.numbers("zero_v"), fit.numbers("per_g_v")
        if len(zero) != 3 or len(per_g) != 3:
            raise ValueError("zero_v and per_g_v: have to be of three axes")
        if not all(0.0 <= one < 100.0 for one in zero) or not all(
            1e-4 < abs(one) < 100.0 for one in per_g
        ):
            raise ValueError("zero_v or per_g_v: is none that extremes could give")
        fit.check_covariance(6, "zero and scale")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> VoltsForce:
        """Volts to force, by what was measured through the same converter."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance))).tolist()
        zero, per_g = three(fit.numbers("zero_v")), three(fit.numbers("per_g_v"))
        return VoltsForce(zero, per_g, three(u[:3]), three(u[3:]), label, absorbs_shared=True)

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Each axis, in volts and codes, and what whole numbers would have lost."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance))).tolist()
        lsb_v = fit.statistics["lsb_v"]
        lines = []
        for place, axis in enumerate(_AXES):
            zero, per_g = fit.numbers("zero_v")[place], fit.numbers("per_g_v")[place]
            lines.append(
                Line(
                    axis,
                    f"0 g at {VOLTAGE.said(zero, 3)}, code {grouped(zero / lsb_v - 0.5, 1)}; "
                    f"{VOLTAGE.said(per_g, 4)} ± {VOLTAGE.said(expanded(u[3 + place]), 4)} a g, "
                    f"{grouped(per_g / lsb_v, 1)} codes",
                )
            )
        lost = fit.statistics["whole_numbers_lose_g"]
        lines.append(
            Line("in whole hundredths", f"a mapping by integers would be off by up to {lost:.3f} g")
        )
        return lines

    def short(self, fit: Fit) -> str:
        """The scale of the first axis."""
        return f"{1000.0 * fit.numbers('per_g_v')[0]:.0f} mV a g"

    def see(self, signal: Signal, parameters: Any) -> Seen:
        """Which ends were held, by zero and scale as they are stated."""
        stated = parameters.stated()
        zero, per_g = np.array(stated.zero_v), np.array(stated.per_g_v)

        def named(held: Held) -> str:
            return face_said(face_of((held.mean - zero) / per_g))

        return see_poses(signal, _STEADY_V, named, [pose.name for pose in self.poses])

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """Everything held still."""
        return [(one.start_s, one.end_s) for one in stillness(signal, _STEADY_V)]


def _poses(span: Span) -> list[Any]:
    """Still stretches of a span; all of it, where that is as still."""
    held = stillness(span.signal, _STEADY_V)
    if held:
        return held
    time_s, values = good_samples(span.signal)
    if len(time_s) < 3:
        return []
    whole = held_between(time_s, values)
    is_still = float(whole.scatter.max()) < 5.0 * _STEADY_V
    return [whole] if is_still and float(np.abs(whole.drift).max()) < 2.0 * _STEADY_V else []


def _refuse(per_g: FloatArray, zero: FloatArray, parameters: Any) -> None:
    likely = float(np.median(per_g))
    if likely <= 0.02 * abs(float(np.median(zero))):
        raise ValueError("all that was held reads nearly the same: turn each axis up and down")
    for axis, one in zip(_AXES, per_g.tolist(), strict=True):
        if one < (1.0 - _ALIKE) * likely or one < 0.5 * parameters.stated().per_g_v[0]:
            raise ValueError(
                f"{axis} goes by {VOLTAGE.said(2 * one)} only between its extremes: one of them "
                f"was not held. Hold {axis} straight up, and straight down"
            )


def _integer_loss(bottom: FloatArray, top: FloatArray) -> float:
    """What mapping codes to whole hundredths of a g by integers is off by at most, g.

    >>> _integer_loss(np.array([277.5]), np.array([411.5])) > 0.009
    True
    """
    low, high = int(bottom[0]), int(top[0])
    codes = np.arange(low, high + 1)
    whole = (codes - low) * 2 * _HUNDREDTHS // max(1, high - low) - _HUNDREDTHS
    exact = (codes + 0.5 - (bottom[0] + top[0]) / 2.0) / ((top[0] - bottom[0]) / 2.0)
    return float(np.abs(whole / _HUNDREDTHS - exact).max())


def _remarks(per_g: FloatArray, zero: FloatArray) -> list[Finding]:
    spread = float(np.ptp(per_g) / np.median(per_g))
    if spread < 0.15:
        return []
    return [
        Finding(
            "warning",
            f"The axes’ scales differ by {100.0 * spread:.0f} %.",
            "Those of one part lie within a few percent: one extreme may not have been upright.",
            "Hold that axis again, against something square.",
        )
    ]


def _result(
    span: Span, mine: list[int], used: set[int], poses: Sequence[tuple[Span, Any]]
) -> SpanResult:
    held = poses[mine[0]][1] if mine else None
    count = sum(poses[n][1].count for n in mine)
    return SpanResult(
        name=span.name,
        true=None,
        u=None,
        read=None,
        scatter=float(held.scatter.max()) if held is not None else None,
        drift=None,
        count=count,
        flagged=len(span.signal) - count,
        wild=0,
        is_still=bool(mine),
        is_used=bool(used & set(mine)),
    )


_VOLTS = VOLTAGE.in_lanes(*_AXES)
