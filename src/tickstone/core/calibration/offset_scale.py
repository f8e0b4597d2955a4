"""Offset and scale: readings held against something known, in as many places as one likes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Span, SpanResult
from tickstone.core.calibration.least_squares import linear
from tickstone.core.calibration.remarks import (
    SCALE_WORTH_HAVING,
    Wording,
    no_scale,
    remarks_on_line,
    remarks_on_span,
)
from tickstone.core.calibration.spans import look_at
from tickstone.core.calibration.stillness import still_stretches
from tickstone.core.finding import worst_first
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.offset_scale import OffsetScale
from tickstone.core.uncertainty import expanded

_APART = 1e-6


class OffsetScaleKind(CalibrationKind):
    """true = offset + scale·read, from spans in which something known was held."""

    name = "offset-scale"
    label = "Offset and scale"
    node = "calibration"
    undone_by = ("moved on its mount", "another sensor of the kind")

    def __init__(
        self,
        asks_for: Quantity,
        usual_u: float,
        wording: Wording,
        at: float,
        steady: float,
        values_within: tuple[float, float],
        guide: str,
    ) -> None:
        """asks_for: what is held known; usual_u: its standard uncertainty, values_within: where it
        may lie. at: where the ± of a
        correction is told; steady: how near readings stay while something is held, both in its
        unit. wording: how to speak of it. guide: what to do while nothing is marked.
        """
        self.asks_for = asks_for
        self.usual_u = usual_u
        self.wording = wording
        self.at = at
        self.steady = steady
        self.values_within = values_within
        self.guide = guide
        self.deed = f"Mark a true {asks_for.name}"

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Weighted least squares through the spans; see `fit_offset_scale`."""
        return fit_offset_scale(spans, self.wording)

    def check(self, fit: Fit) -> None:
        """Offset and scale, with a covariance of two."""
        offset, scale = fit.parameters.get("offset"), fit.parameters.get("scale")
        if not (isinstance(offset, int | float) and abs(offset) <= self.values_within[1]):
            raise ValueError("offset: is none that a comparison could give")
        if not (isinstance(scale, int | float) and 0.0 < scale <= 100.0):
            raise ValueError("scale: has to lie above 0, and to be 100 at most")
        fit.check_covariance(2, "offset and scale")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> OffsetScale:
        """The correction."""
        offset, scale = (float(fit.parameters[name]) for name in ("offset", "scale"))  # type: ignore[arg-type]
        covariance = fit.covariance
        return OffsetScale(
            offset,
            scale,
            float(covariance[0][0]),
            float(covariance[1][1]),
            float(covariance[0][1]),
            absorbs_shared,
            label,
            self.wording.against,
            self.wording.elsewhere,
        )

    def u_at(self, fit: Fit, read: float) -> float:
        """Standard uncertainty of what `read` is corrected to."""
        c = fit.covariance
        return math.sqrt(max(0.0, float(c[0][0] + 2.0 * read * c[0][1] + read**2 * c[1][1])))

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Offset, scale and ±."""
        offset, scale = float(fit.parameters["offset"]), float(fit.parameters["scale"])  # type: ignore[arg-type]
        scale_u = math.sqrt(max(0.0, float(fit.covariance[1][1])))
        offset_u = math.sqrt(max(0.0, float(fit.covariance[0][0])))
        assert self.asks_for is not None
        small = self.wording.small
        fitted = bool(fit.statistics["scale_fitted"])
        return (
            Line("offset", f"{small(offset, 1, True)} ± {small(expanded(offset_u), 1, False)}"),
            Line("scale", f"{scale:.4f} ± {expanded(scale_u):.4f}" if fitted else "1, not fitted"),
            Line(
                f"± at {self.asks_for.typed(self.at)}",
                small(expanded(self.u_at(fit, self.at)), 1, False),
            ),
        )

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """Stretches in which readings stayed together."""
        return still_stretches(signal, self.steady)

    def short(self, fit: Fit) -> str:
        """Its ±."""
        return f"± {self.wording.small(expanded(self.u_at(fit, self.at)), 1, False)}"


def fit_offset_scale(spans: Sequence[Span], wording: Wording) -> Fit:
    """Weighted least squares through the spans (JCGM 100 annex H.3; effective variance).

    Each weighs 1/σ², σ² = u_true² + (s·u_read)², with u_read = scatter/√n. With more spans than
    parameters the covariance is widened by χ²/degrees when that is above 1.

    One span gives an offset. Two or more give offset and scale, unless they stand so close that
    the scale would be worse than ± 5 %; then the scale stays 1 and a remark says so.

    Raises ValueError when no span has a single good reading.

    >>> from tickstone.core.chains.echo_ranger import LENGTHS
    >>> from tickstone.core.signal import Signal
    >>> spans = [Span(str(d), Signal.of(range(40), np.full(40, 1.01 * d + 0.002)), d, 0.0005)
    ...          for d in (0.3, 0.6, 1.0)]
    >>> fit = fit_offset_scale(spans, LENGTHS)
    >>> round(fit.parameters["scale"], 4), round(fit.parameters["offset"], 4)
    (0.9901, -0.002)
    """
    looks = [look_at(span, wording.still_limit) for span in spans]
    remarks = [remark for look in looks for remark in remarks_on_span(look, wording)]
    used = [look for look in looks if look.is_used]
    if not used:
        raise ValueError("no mark has a good reading under it; place one where readings are good")
    read, true, u_true, u_read = _columns(used)
    line = _fit_line(read, true, u_true, u_read) if _apart(read) else None
    if line is not None and expanded(math.sqrt(line[1][1, 1])) > SCALE_WORTH_HAVING:
        line = None
    scale_fitted = line is not None
    if line is None:
        if len(used) > 1:
            remarks.append(no_scale(read, wording))
        line = _fit_offset(read, true, u_true, u_read)
    (offset, scale), covariance, sigma = line
    residuals = true - (offset + scale * read)
    degrees = len(used) - (2 if scale_fitted else 1)
    chi_square = float(np.sum((residuals / sigma) ** 2))
    if degrees > 0 and chi_square > degrees:
        covariance = covariance * (chi_square / degrees)
    remarks += remarks_on_line(used, read, residuals, sigma, degrees, scale_fitted, scale, wording)
    by_look = dict(zip((id(look) for look in used), residuals.tolist(), strict=True))
    return Fit(
        parameters={"offset": float(offset), "scale": float(scale)},
        covariance=covariance,
        statistics={
            "chi_square": chi_square,
            "degrees": float(degrees),
            "scale_fitted": float(scale_fitted),
        },
        spans=tuple(replace(look, residual=by_look.get(id(look))) for look in looks),
        remarks=worst_first(remarks),
    )


def _columns(used: Sequence[SpanResult]) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    read = np.array([look.read for look in used], dtype=np.float64)
    true = np.array([look.true for look in used], dtype=np.float64)
    u_true = np.array([look.u for look in used], dtype=np.float64)
    scatter = np.array([look.scatter for look in used], dtype=np.float64)
    counts = np.array([look.count for look in used], dtype=np.float64)
    return read, true, u_true, scatter / np.sqrt(counts)


_Line = tuple[tuple[float, float], FloatArray, FloatArray]


def _fit_line(
    read: FloatArray, true: FloatArray, u_true: FloatArray, u_read: FloatArray
) -> _Line | None:
    design = np.column_stack([np.ones_like(read), read])
    scale = 1.0
    for _ in range(20):
        sigma: FloatArray = np.sqrt(u_true**2 + (scale * u_read) ** 2)
        found = linear(design, true, sigma)
        if found is None:
            return None
        (offset, new_scale), covariance = found
        if abs(new_scale - scale) < 1e-14:
            break
        scale = float(new_scale)
    return (float(offset), float(new_scale)), covariance, sigma


def _fit_offset(
    read: FloatArray, true: FloatArray, u_true: FloatArray, u_read: FloatArray
) -> _Line:
    sigma = np.sqrt(u_true**2 + u_read**2)
    weight = 1.0 / sigma**2
    offset = float(np.sum(weight * (true - read)) / np.sum(weight))
    covariance = np.array([[1.0 / float(np.sum(weight)), 0.0], [0.0, 0.0]])
    return (offset, 1.0), covariance, sigma


def _apart(read: FloatArray) -> bool:
    return len(read) > 1 and float(np.ptp(read)) > _APART
