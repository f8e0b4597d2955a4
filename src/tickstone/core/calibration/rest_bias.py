"""What a gyroscope tells while it lies still, and how long it is worth listening to that."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.allan import Noise, noise_of
from tickstone.core.calibration.guiding import see_rest
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Pose, Span, SpanResult
from tickstone.core.calibration.poses import (
    BIN_S,
    Held,
    good_samples,
    held_between,
    held_result,
    longest_still,
)
from tickstone.core.calibration.seen import Seen
from tickstone.core.display import prefixed
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import ROTATION
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.lane_shift import LaneShift
from tickstone.core.uncertainty import expanded

STEADY_TURN = math.radians(0.15)
"""What a gyroscope at rest may wander beside its noise, rad/s; our choice."""
_SHORT_S, _GOOD_S = 5.0, 10.0
_USUAL_READINGS = 200
"""So many readings at rest are usual; common practice."""
_SUSPICIOUS = math.radians(50.0)


class RestBiasKind(CalibrationKind):
    """The mean at rest, and its doubt from the Allan deviation of that rest."""

    name = "rest-bias"
    label = "Bias at rest"
    node = "bias"
    done = "it lay still"
    deed = "Mark a rest"
    unset = "What it tells at rest has not been taken off: angles drift."
    interval_days = 30
    undone_by = ("another unit of the kind",)
    guide = (
        "Lay it down on something that does not shake and leave it alone: ten seconds give the "
        "bias, ten minutes also how long is worth averaging. Press M and drag over the rest."
    )
    poses = (Pose("rest", "Lay it down and leave it alone.", "Nothing may shake it."),)
    takes_any_pose = True
    is_guided = True
    told = ("allan", "best_s", "left_dps")

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """The mean of all that was still, and the noise of the longest of it.

        Raises ValueError when nothing was still for 50 readings.

        >>> rng = np.random.default_rng(1)
        >>> rate = rng.normal(0.0, 1e-3, (3, 1000)) + np.array([[0.01], [0.0], [-0.02]])
        >>> rest = Span("rest", Signal.of(np.arange(1000) / 100, rate, ROTATION))
        >>> fit = RestBiasKind().fit([rest], None)
        >>> [round(one, 3) for one in fit.parameters["bias"]]
        [0.01, 0.0, -0.02]
        """
        rests = [(span, _still(span)) for span in spans]
        used = [(span, held) for span, held in rests if held is not None]
        if not used:
            raise ValueError(
                "nothing under the marks was still for 50 readings: lay it down, and mark the rest"
            )
        span, longest = max(used, key=lambda one: one[1].count)
        time_s, values = _within(span, longest)
        tau0_s = float(np.median(np.diff(time_s)))
        noises = [noise_of(axis, tau0_s) for axis in values]
        weights = np.array([held.count for _, held in used], dtype=np.float64)
        means = np.array([held.mean for _, held in used])
        bias = weights @ means / weights.sum()
        lasted_s = float(weights.sum()) * tau0_s
        u = np.array([max(one.left(lasted_s), 1e-12) for one in noises])
        best_s = float(np.median([one.best_s for one in noises]))
        left = max(one.left(min(best_s, lasted_s)) for one in noises)
        return Fit(
            parameters={"bias": bias.tolist(), "walk": [one.walk for one in noises]},
            covariance=np.diag(np.concatenate((u**2, np.zeros(3)))),
            statistics={
                "lasted_s": lasted_s,
                "readings": float(weights.sum()),
                "best_s": best_s,
                "is_flat": float(all(one.is_flat for one in noises)),
                "left_dps": math.degrees(left),
                **_instability(noises),
                "walk_dps": math.degrees(max(one.walk for one in noises)),
            },
            spans=tuple(_result(one, held) for one, held in rests),
            remarks=worst_first(_remarks(rests, bias, lasted_s, noises)),
            curves={"allan": _points(noises)},
        )

    def check(self, fit: Fit) -> None:
        """Three biases and three random walks."""
        bias, walk = fit.numbers("bias"), fit.numbers("walk")
        if len(bias) != 3 or len(walk) != 3:
            raise ValueError("bias and walk: have to be of three axes")
        if not all(math.isfinite(one) and abs(one) < 50.0 for one in (*bias, *walk)):
            raise ValueError("bias or walk: is none that a rest could give")
        fit.check_covariance(6, "bias and walk")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> LaneShift:
        """The bias, taken off."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance)))[:3].tolist()
        bias, walk = fit.numbers("bias"), fit.numbers("walk")
        return LaneShift(tuple(bias), tuple(u), label, max(walk))

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Each axis' bias, and what the rest said of averaging."""
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance)))
        lines = [
            Line(axis, f"{ROTATION.said(bias, 3)} ± {ROTATION.said(expanded(float(u[place])), 3)}")
            for place, (axis, bias) in enumerate(zip("xyz", fit.numbers("bias"), strict=True))
        ]
        told = fit.statistics
        walk = told["walk_dps"]
        lines.append(Line("random walk", f"{walk:.4f} °/√s, {60.0 * walk:.2f} °/√h"))
        if "instability_dps" in told:
            lines.append(Line("wanders by", f"{told['instability_dps']:.4f} °/s"))
        elif "instability_below_dps" in told:
            below = f"less than {told['instability_below_dps']:.4f} °/s"
            lines.append(Line("wanders by", f"{below}: not seen in this rest"))
        lines.append(Line("worth averaging", best_said(told)))
        lines.append(
            Line("left after that", f"{told['left_dps']:.4f} °/s, {_drift_said(told)} a minute")
        )
        return lines

    def short(self, fit: Fit) -> str:
        """What drift is left."""
        return f"drifts {_drift_said(fit.statistics)} a minute"

    def see(self, signal: Signal, parameters: Any) -> Seen:
        """How long it has been at rest."""
        return see_rest(signal, STEADY_TURN, self.poses[0].name, _GOOD_S)

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """The longest rest."""
        longest = longest_still(signal, STEADY_TURN)
        return [] if longest is None else [(longest.start_s, longest.end_s)]


def best_said(told: Any) -> str:
    """For how long averaging helps."""
    best = prefixed(told["best_s"], "s", 2)
    return best if told["is_flat"] else f"{best} and longer: this rest was too short to tell"


def _drift_said(told: Any) -> str:
    return f"{expanded(told['left_dps']) * 60.0:.2g}°"


def _still(span: Span) -> Held | None:
    """The longest stretch of a span in which nothing moved; all of it, where all is still."""
    time_s, values = good_samples(span.signal)
    if len(time_s) < 50:
        return None
    longest = longest_still(span.signal, STEADY_TURN)
    if longest is None or longest.count < 50:
        return None
    whole = held_between(time_s, values)
    # A quarter second is left off a stretch at either end: not worth it where all was still, which
    # a touch in it would show.
    rest_s = (whole.end_s - whole.start_s) - (longest.end_s - longest.start_s)
    scatters = [float(np.linalg.norm(one.scatter)) for one in (whole, longest)]
    is_all_still = rest_s <= 0.1 * (whole.end_s - whole.start_s) + 4.0 * BIN_S
    return whole if is_all_still and scatters[0] <= 1.2 * scatters[1] else longest


def _within(span: Span, held: Held) -> tuple[FloatArray, FloatArray]:
    time_s, values = good_samples(span.signal)
    inside = (time_s >= held.start_s) & (time_s <= held.end_s)
    return time_s[inside], values[:, inside]


def _instability(noises: Sequence[Noise]) -> dict[str, float]:
    """The worst axis' bias instability, or below what it is where the rest was too short for it."""
    seen = max(one.instability for one in noises)
    if seen > 0.0:
        return {"instability_dps": math.degrees(seen)}
    return {"instability_below_dps": math.degrees(max(one.instability_at_most for one in noises))}


def _points(noises: Sequence[Noise]) -> list[list[float]]:
    """Averaging time, s, and the deviation of each axis, rad/s."""
    return [
        [float(one) for one in row]
        for row in zip(noises[0].tau_s, *(noise.deviation for noise in noises), strict=True)
    ]


def _result(span: Span, held: Held | None) -> SpanResult:
    worst = int(np.argmax(held.scatter)) if held is not None else 0
    return held_result(span, held, worst, held is not None)


def _remarks(
    rests: Sequence[tuple[Span, Held | None]],
    bias: FloatArray,
    lasted_s: float,
    noises: Sequence[Noise],
) -> list[Finding]:
    remarks = []
    for span, held in rests:
        if held is None:
            remarks.append(
                Finding(
                    "warning", f"“{span.name}” is left out.", "It was not still for 50 readings.",
                    "Mark a stretch in which nothing touched it.",
                )
            )  # fmt: skip
        elif held.count < 0.8 * len(span.signal):
            kept = held.end_s - held.start_s
            remarks.append(
                Finding(
                    "note", f"Of “{span.name}” the longest rest is used, {kept:.1f} s.",
                    "Before or after it something moved.", "",
                )
            )  # fmt: skip
    if lasted_s < _SHORT_S:
        remarks.append(
            Finding(
                "warning", f"The rest lasted {lasted_s:.1f} s.",
                f"Some {_USUAL_READINGS} readings or {_SHORT_S:.0f} s are the least that is usual.",
                "Leave it alone for ten seconds or more.",
            )
        )  # fmt: skip
    if float(np.abs(bias).max()) > _SUSPICIOUS:
        remarks.append(
            Finding(
                "warning", f"At rest it tells {ROTATION.said(float(np.abs(bias).max()), 0)}.",
                "That is more than a bias of such a part; it may have been turning evenly.",
                "Check that it lay still, and the codes for 1 °/s.",
            )
        )  # fmt: skip
    if any(one.walk == 0.0 for one in noises):
        remarks.append(
            Finding(
                "warning", "An axis does not change at all.",
                "A gyroscope always has noise: is that column the gyroscope’s?",
                "Check the columns.",
            )
        )  # fmt: skip
    return remarks
