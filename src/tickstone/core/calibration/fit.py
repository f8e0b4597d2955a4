"""From marks to an offset and a scale."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from tickstone.core.calibration.marks import MarkReadings, MarkResult, look_at
from tickstone.core.calibration.remarks import (
    SCALE_WORTH_HAVING,
    no_scale,
    remarks_on_line,
    remarks_on_mark,
)
from tickstone.core.finding import Finding, worst_first
from tickstone.core.signal import FloatArray
from tickstone.core.uncertainty import expanded


@dataclass(frozen=True, slots=True)
class CalibrationFit:
    """d_true = offset_m + scale·d_read.

    var_offset, var_scale, cov: covariance of the two, m², 1, m.
    scale_fitted: False when the marks only carry an offset and the scale was held at 1.
    chi_square, degrees: of the weighted residuals.
    """

    offset_m: float
    scale: float
    var_offset: float
    var_scale: float
    cov: float
    scale_fitted: bool
    chi_square: float
    degrees: int
    marks: tuple[MarkResult, ...]
    remarks: tuple[Finding, ...] = field(default=())

    def u_at(self, read_m: float) -> float:
        """Standard uncertainty of the corrected distance for a reading of read_m, m."""
        variance = self.var_offset + 2.0 * read_m * self.cov + read_m**2 * self.var_scale
        return math.sqrt(max(0.0, variance))


def fit_calibration(marks: Sequence[MarkReadings]) -> CalibrationFit:
    """Weighted least squares through the marks (JCGM 100 annex H.3; effective variance).

    Each mark weighs 1/σ², σ² = u_true² + (s·u_read)², with u_read = scatter/√n. With more marks
    than parameters the covariance is widened by χ²/degrees when that is above 1.

    One mark gives an offset. Two or more give offset and scale, unless they stand so close that
    the scale would be worse than ± 5 %; then the scale stays 1 and a remark says so.

    Raises ValueError when no mark has a single good reading.

    >>> marks = [MarkReadings(str(d), d, 0.0005, np.full(40, 1.01 * d + 0.002))
    ...          for d in (0.3, 0.6, 1.0)]
    >>> fit = fit_calibration(marks)
    >>> round(fit.scale, 4), round(fit.offset_m, 4)
    (0.9901, -0.002)
    """
    looks = [look_at(mark) for mark in marks]
    remarks = [remark for look in looks for remark in remarks_on_mark(look)]
    used = [look for look in looks if look.used]
    if not used:
        raise ValueError("no mark has a good reading under it; place one where readings are good")
    read = np.array([look.read_m for look in used])
    true = np.array([look.true_m for look in used])
    u_true = np.array([look.true_u_m for look in used])
    u_read = np.array([look.scatter_m / math.sqrt(look.count) for look in used])
    line = _fit_line(read, true, u_true, u_read) if _apart(read) else None
    if line is not None and expanded(math.sqrt(line[1][1, 1])) > SCALE_WORTH_HAVING:
        line = None
    scale_fitted = line is not None
    if line is None:
        if len(used) > 1:
            remarks.append(no_scale(read))
        line = _fit_offset(read, true, u_true, u_read)
    (offset, scale), covariance, sigma = line
    residuals = true - (offset + scale * read)
    degrees = len(used) - (2 if scale_fitted else 1)
    chi_square = float(np.sum((residuals / sigma) ** 2))
    if degrees > 0 and chi_square > degrees:
        covariance = covariance * (chi_square / degrees)
    remarks += remarks_on_line(used, read, residuals, sigma, degrees, scale_fitted, scale)
    by_look = dict(zip((id(look) for look in used), residuals.tolist(), strict=True))
    results = tuple(replace(look, residual_m=by_look.get(id(look))) for look in looks)
    return CalibrationFit(
        offset_m=float(offset),
        scale=float(scale),
        var_offset=float(covariance[0, 0]),
        var_scale=float(covariance[1, 1]),
        cov=float(covariance[0, 1]),
        scale_fitted=scale_fitted,
        chi_square=chi_square,
        degrees=degrees,
        marks=results,
        remarks=worst_first(remarks),
    )


_Line = tuple[tuple[float, float], FloatArray, FloatArray]


def _fit_line(
    read: FloatArray, true: FloatArray, u_true: FloatArray, u_read: FloatArray
) -> _Line | None:
    design = np.column_stack([np.ones_like(read), read])
    scale = 1.0
    for _ in range(20):
        sigma: FloatArray = np.sqrt(u_true**2 + (scale * u_read) ** 2)
        weighted = design / sigma[:, None]
        normal = weighted.T @ weighted
        if np.linalg.cond(normal) > 1e14:
            return None
        covariance = np.linalg.inv(normal)
        offset, new_scale = covariance @ (weighted.T @ (true / sigma))
        if abs(new_scale - scale) < 1e-14:
            break
        scale = float(new_scale)
    return (float(offset), float(new_scale)), np.asarray(covariance, dtype=np.float64), sigma


def _fit_offset(
    read: FloatArray, true: FloatArray, u_true: FloatArray, u_read: FloatArray
) -> _Line:
    sigma = np.sqrt(u_true**2 + u_read**2)
    weight = 1.0 / sigma**2
    offset = float(np.sum(weight * (true - read)) / np.sum(weight))
    covariance = np.array([[1.0 / float(np.sum(weight)), 0.0], [0.0, 0.0]])
    return (offset, 1.0), covariance, sigma


def _apart(read: FloatArray) -> bool:
    return len(read) > 1 and float(np.ptp(read)) > 1e-6
