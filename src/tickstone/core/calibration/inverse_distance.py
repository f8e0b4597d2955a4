"""The curve of a triangulating ranger, from marked distances: V = a/(d + d₀) + b."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span, SpanResult
from tickstone.core.calibration.least_squares import nonlinear
from tickstone.core.calibration.spans import look_at
from tickstone.core.calibration.stillness import still_stretches
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import DISTANCE
from tickstone.core.reading_units import small_length
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.inverse_law import InverseLaw
from tickstone.core.uncertainty import expanded

_FEWEST = 3
_STILL_V = 0.03
_START = (0.25, 0.02, 0.05)
_OUT_OF_LINE = 3.0
_AT_M = 0.3


class InverseDistanceKind(CalibrationKind):
    """a, d₀ and b from three marked distances or more, beyond the near limit."""

    name = "inverse-distance"
    label = "Curve by marks"
    node = "law"
    compares = "volts"
    asks_for = DISTANCE
    usual_u = 0.001
    values_within = (0.0, 20.0)
    least_spans = _FEWEST
    truth = "True distance, from the face"
    deed = "Mark a true distance"
    unset = "It goes by a datasheet’s curve: no mark has been fitted."
    undone_by = ("another sensor of the kind", "another target", "moved on its mount")
    guide = (
        "Hold a white board square to it at three distances or more, all beyond its near limit, "
        "from near to far; press M, and type each distance from the sensor’s face."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Least squares of volts, each mark weighed by its scatter and by how well it was placed.

        Raises ValueError with fewer than three marks, or when no curve goes through them.

        >>> law = InverseLaw(0.288, 0.028, 0.052)
        >>> spans = [Span(str(d), Signal.of(range(40), np.full(40, law.volts(d))), d, 0.001)
        ...          for d in (0.1, 0.2, 0.4, 0.7)]
        >>> fit = InverseDistanceKind().fit(spans, None)
        >>> [round(fit.parameters[name], 3) for name in ("a", "d0", "b")]
        [0.288, 0.028, 0.052]
        """
        looks = [look_at(span, _STILL_V) for span in spans]
        used = [look for look in looks if look.is_used and look.true is not None]
        different = len({look.true for look in used})
        if different < _FEWEST:
            raise ValueError(
                f"{different} different distance{'' if different == 1 else 's'} marked; the curve "
                "has three unknowns, so three at least, and a fourth shows whether it fits"
            )
        true, volts, u_true, u_volts = _columns(used)
        found = _fitted(true, volts, u_true, u_volts)
        if found is None or not found[0][0] > 0.0:
            raise ValueError(
                "no falling curve goes through these marks; are all of them beyond the near limit, "
                "where the voltage falls with distance?"
            )
        (a, d0, b), covariance, sigma = found
        left = volts - (a / (true + d0) + b)
        degrees = len(used) - 3
        chi_square = float(np.sum((left / sigma) ** 2))
        if degrees > 0 and chi_square > degrees:
            covariance = covariance * (chi_square / degrees)
        law = InverseLaw(a, d0, b)
        in_metres = true - law.apply(Signal.of(range(len(volts)), volts)).value
        by_look = {id(look): float(m) for look, m in zip(used, in_metres, strict=True)}
        return Fit(
            parameters={"a": float(a), "d0": float(d0), "b": float(b)},
            covariance=covariance,
            statistics={
                "chi_square": chi_square,
                "degrees": float(degrees),
                "nearest": float(true.min()),
                "farthest": float(true.max()),
            },
            spans=tuple(replace(look, residual=by_look.get(id(look))) for look in looks),
            remarks=worst_first(_remarks(used, left, sigma, volts, true)),
        )

    def check(self, fit: Fit) -> None:
        """A curve that falls."""
        values = [fit.parameters.get(name) for name in ("a", "d0", "b")]
        if not all(isinstance(one, int | float) and math.isfinite(one) for one in values):
            raise ValueError("a, d0, b: have to be numbers")
        if not fit.parameters["a"] > 0.0:  # type: ignore[operator]
            raise ValueError("a: has to lie above 0: the voltage falls with distance")
        fit.check_covariance(3, "a, d0 and b")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> InverseLaw:
        """The curve turned round."""
        a, d0, b = (float(fit.parameters[name]) for name in ("a", "d0", "b"))  # type: ignore[arg-type]
        covariance = tuple(tuple(float(one) for one in row) for row in fit.covariance)
        return InverseLaw(a, d0, b, covariance, 0.0, label)  # type: ignore[arg-type]

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """a, d₀, b, the span that was marked, and ± within it."""
        law = self.stage(fit, False, "")
        u = [math.sqrt(max(0.0, one)) for one in np.diag(fit.covariance).tolist()]
        near, far = fit.statistics["nearest"], fit.statistics["farthest"]
        return (
            Line("a", f"{law.a:.4g} ± {expanded(u[0]):.2g} V·m"),
            Line("d₀", f"{small_length(law.d0, 1)} ± {small_length(expanded(u[1]), 1)}"),
            Line("b", f"{law.b:.3f} ± {expanded(u[2]):.3f} V"),
            Line("usable", f"{DISTANCE.typed(near)} to {DISTANCE.typed(far)}, as marked"),
            Line(f"± at {DISTANCE.typed(_AT_M)}", small_length(expanded(_u_at(fit, _AT_M)), 1)),
        )

    def short(self, fit: Fit) -> str:
        """Its ± at a usual distance."""
        return f"± {small_length(expanded(_u_at(fit, _AT_M)), 1)}"

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """Stretches in which the volts stayed together."""
        return still_stretches(signal, _STILL_V)


def _u_at(fit: Fit, distance_m: float) -> float:
    a, d0 = (float(fit.parameters[name]) for name in ("a", "d0"))  # type: ignore[arg-type]
    over = a / (distance_m + d0)
    slope = np.array([1.0 / over, -1.0, a / over**2])
    return math.sqrt(max(0.0, float(slope @ fit.covariance @ slope)))


def _columns(
    used: Sequence[SpanResult],
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    true = np.array([look.true for look in used], dtype=np.float64)
    volts = np.array([look.read for look in used], dtype=np.float64)
    u_true = np.array([look.u for look in used], dtype=np.float64)
    scatter = np.array([look.scatter for look in used], dtype=np.float64)
    counts = np.array([look.count for look in used], dtype=np.float64)
    # A mean of codes is no better known than a share of one code.
    return true, volts, u_true, np.maximum(scatter / np.sqrt(counts), 1e-4)


def _fitted(
    true: FloatArray, volts: FloatArray, u_true: FloatArray, u_volts: FloatArray
) -> tuple[tuple[float, float, float], FloatArray, FloatArray] | None:
    """Effective variance: what a misplaced mark does to the volts, by the curve’s own slope."""
    parameters = np.array(_START)
    covariance = np.zeros((3, 3))
    sigma: FloatArray = u_volts
    for _ in range(12):
        a, d0, _ = parameters
        slope = a / np.maximum(1e-6, true + d0) ** 2
        sigma = np.hypot(u_volts, slope * u_true)
        found = nonlinear(
            lambda p, sigma=sigma: (  # type: ignore[misc]
                (p[0] / np.maximum(1e-6, true + p[1]) + p[2] - volts) / sigma
            ),
            parameters,
        )
        if found is None:
            return None
        moved = float(np.max(np.abs(found[0] - parameters) / (np.abs(parameters) + 1e-9)))
        parameters, covariance = found
        if moved < 1e-10:
            break
    if not (true + parameters[1] > 0.0).all():
        return None
    return (float(parameters[0]), float(parameters[1]), float(parameters[2])), covariance, sigma


def _remarks(
    used: Sequence[SpanResult],
    left: FloatArray,
    sigma: FloatArray,
    volts: FloatArray,
    true: FloatArray,
) -> list[Finding]:
    remarks = []
    for look, off, one in zip(used, left.tolist(), sigma.tolist(), strict=True):
        if not look.is_still:
            remarks.append(
                Finding(
                    "warning",
                    f"“{look.name}” was not held still.",
                    "Its volts wander by more than they do at rest.",
                    "Mark a calmer stretch.",
                )
            )
        if len(used) > 3 and abs(off) > _OUT_OF_LINE * one:
            remarks.append(
                Finding(
                    "warning",
                    f"“{look.name}” does not lie on the curve.",
                    f"It is {abs(off) * 1000:.0f} mV off, {abs(off) / one:.0f} times its doubt.",
                    "Measure it again; very near, the voltage folds back.",
                )
            )
    order = np.argsort(true)
    if (np.diff(volts[order]) > 0.0).any():
        remarks.append(
            Finding(
                "error",
                "The voltage does not fall with distance everywhere.",
                "A mark nearer than the limit reads as one farther off: the curve folds back.",
                "Leave out what is nearer than the sensor can tell, and set it back by that much.",
            )
        )
    if len(used) == 3:
        remarks.append(
            Finding(
                "note",
                "Three marks make a curve that nothing checks.",
                "It goes through all of them whatever they are.",
                "A fourth shows whether it holds between.",
            )
        )
    return remarks
