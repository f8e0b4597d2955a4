"""Offset and cross-talk of a time-of-flight ranger: m = o + d/(1 + x·d²)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span
from tickstone.core.calibration.least_squares import nonlinear
from tickstone.core.calibration.spans import look_at
from tickstone.core.calibration.stillness import still_stretches
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import DISTANCE
from tickstone.core.reading_units import small_length
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.cross_talk import CrossTalk
from tickstone.core.uncertainty import expanded

_STILL_M = 0.005
_WORTH_HAVING = 0.5
"""A cross-talk known no better than to so much of itself, or of this much each m², is left at 0."""
_AT_M = 0.5


class OffsetCoverKind(CalibrationKind):
    """One mark gives the offset; one near and one far give cross-talk as well."""

    name = "offset-cover"
    label = "Offset and cross-talk"
    node = "cover"
    compares = "flight"
    asks_for = DISTANCE
    usual_u = 0.001
    values_within = (0.0, 20.0)
    deed = "Mark a true distance"
    undone_by = ("another cover glass", "another sensor of the kind", "moved on its mount")
    guide = (
        "Hold a white board at a tenth of its reach, and a grey one where readings begin to fall "
        "short; press M, and type what the ruler said. One mark gives the offset alone."
    )

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Least squares; cross-talk only where the marks carry it.

        Raises ValueError when no mark has a good reading.

        >>> spans = [Span(str(d), Signal.of(range(40), np.full(40, 0.01 + d / (1 + 0.1 * d * d))),
        ...               d, 0.001) for d in (0.1, 0.5, 1.0)]
        >>> fit = OffsetCoverKind().fit(spans, None)
        >>> round(fit.parameters["offset"], 4), round(fit.parameters["per_m2"], 4)
        (0.01, 0.1)
        """
        looks = [look_at(span, _STILL_M) for span in spans]
        used = [look for look in looks if look.is_used and look.true is not None]
        if not used:
            raise ValueError(
                "no mark has a good reading under it; place one where readings are good"
            )
        true = np.array([look.true for look in used], dtype=np.float64)
        read = np.array([look.read for look in used], dtype=np.float64)
        sigma = np.array(
            [
                math.hypot(look.u or 0.0, (look.scatter or 0.0) / math.sqrt(look.count))
                for look in used
            ]
        )
        (offset, per_m2), covariance, is_fitted = _fitted(true, read, sigma)
        left = read - (offset + true / (1.0 + per_m2 * true**2))
        degrees = len(used) - (2 if is_fitted else 1)
        chi_square = float(np.sum((left / sigma) ** 2))
        if degrees > 0 and chi_square > degrees:
            covariance = covariance * (chi_square / degrees)
        by_look = {id(look): -float(one) for look, one in zip(used, left, strict=True)}
        remarks = [
            Finding(
                "warning", f"“{look.name}” was not held still.", "Its readings wander.",
                "Mark a calmer stretch.",
            )
            for look in used
            if not look.is_still
        ]  # fmt: skip
        if not is_fitted and len(used) > 1:
            remarks.append(
                Finding(
                    "note",
                    "Cross-talk is left at 0.",
                    "The marks do not tell it from nothing.",
                    "Mark one far off, on a grey board.",
                )
            )
        return Fit(
            parameters={"offset": offset, "per_m2": per_m2},
            covariance=covariance,
            statistics={
                "chi_square": chi_square,
                "degrees": float(degrees),
                "cover_fitted": float(is_fitted),
            },
            spans=tuple(replace(look, residual=by_look.get(id(look))) for look in looks),
            remarks=worst_first(remarks),
        )

    def check(self, fit: Fit) -> None:
        """An offset, and a cross-talk that is not below 0."""
        offset, per_m2 = fit.parameters.get("offset"), fit.parameters.get("per_m2")
        if not (isinstance(offset, int | float) and abs(offset) <= self.values_within[1]):
            raise ValueError("offset: is none that a comparison could give")
        if not (isinstance(per_m2, int | float) and 0.0 <= per_m2 <= 100.0):
            raise ValueError("per_m2: has to lie from 0 to 100")
        fit.check_covariance(2, "offset and cross-talk")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> CrossTalk:
        """The correction."""
        offset, per_m2 = (float(fit.parameters[name]) for name in ("offset", "per_m2"))  # type: ignore[arg-type]
        covariance = tuple(tuple(float(one) for one in row) for row in fit.covariance)
        return CrossTalk(offset, per_m2, covariance, label)  # type: ignore[arg-type]

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Offset, cross-talk, and what both do at a usual distance."""
        stage = self.stage(fit, False, "")
        u = [math.sqrt(max(0.0, one)) for one in np.diag(fit.covariance).tolist()]
        short_m = _AT_M - _AT_M / (1.0 + stage.per_m2 * _AT_M**2)
        cover = (
            f"{stage.per_m2:.3g} ± {expanded(u[1]):.2g} /m²"
            if fit.statistics.get("cover_fitted")
            else "0, not fitted"
        )
        offset = f"{small_length(stage.offset_m, 1)} ± {small_length(expanded(u[0]), 1)}"
        return (
            Line("offset", offset),
            Line("cross-talk", cover),
            Line(f"short at {DISTANCE.typed(_AT_M)}", small_length(short_m, 1)),
        )

    def short(self, fit: Fit) -> str:
        """The offset."""
        return f"offset {small_length(float(fit.parameters['offset']), 1)}"  # type: ignore[arg-type]

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """Stretches in which readings stayed together."""
        return still_stretches(signal, 0.01)


def _fitted(
    true: FloatArray, read: FloatArray, sigma: FloatArray
) -> tuple[tuple[float, float], FloatArray, bool]:
    weight = 1.0 / sigma**2
    offset = float(np.sum(weight * (read - true)) / np.sum(weight))
    alone = np.array([[1.0 / float(np.sum(weight)), 0.0], [0.0, 0.0]])
    if len(set(true.tolist())) < 2:
        return (offset, 0.0), alone, False
    found = nonlinear(
        lambda p: (p[0] + true / (1.0 + p[1] * true**2) - read) / sigma, [offset, 0.01]
    )
    if found is None:
        return (offset, 0.0), alone, False
    (told, per_m2), covariance = found
    u = math.sqrt(max(0.0, float(covariance[1][1])))
    if not per_m2 > 0.0 or expanded(u) > max(_WORTH_HAVING * per_m2, 0.0):
        return (offset, 0.0), alone, False
    return (float(told), float(per_m2)), covariance, True
