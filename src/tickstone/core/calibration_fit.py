"""From marks (true distances held for a while) to an offset and a scale."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from tickstone.core.finding import Finding, worst_first
from tickstone.core.signal import FloatArray
from tickstone.core.uncertainty import expanded

STILL_LIMIT_M = 0.005
"""Readings under a mark that wander by more than this were not held still."""
FEWEST_READINGS = 10
"""Fewer good readings than this under a mark say little about its mean."""
SCALE_WORTH_HAVING = 0.05
"""A scale whose expanded uncertainty is larger than this is not used."""
MOST_WILD = 0.1
"""A mark with a larger share of wild readings than this was not a clean stretch."""
WILD_SIGMAS = 6.0
OUT_OF_LINE = 3.0
"""A residual this many times its own uncertainty does not belong to the line."""


@dataclass(frozen=True, slots=True)
class MarkReadings:
    """A true distance and what the chain read while it was held.

    true_m: m. true_u_m: standard uncertainty of the ruler and its placing, m.
    readings_m: good readings only, m, in order. flagged: how many others there were.
    """

    name: str
    true_m: float
    true_u_m: float
    readings_m: FloatArray
    flagged: int = 0


@dataclass(frozen=True, slots=True)
class MarkResult:
    """One mark after the fit. residual_m: true minus fitted, m; None when the mark had no use.

    wild: readings far outside the others (median absolute deviation), left out of mean and scatter.
    """

    name: str
    true_m: float
    true_u_m: float
    read_m: float
    scatter_m: float
    drift_m: float
    count: int
    flagged: int
    wild: int
    still: bool
    used: bool
    residual_m: float | None = None


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
    looks = [_look_at(mark) for mark in marks]
    remarks = [remark for look in looks for remark in _remarks_on_mark(look)]
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
            remarks.append(_no_scale(read))
        line = _fit_offset(read, true, u_true, u_read)
    (offset, scale), covariance, sigma = line
    residuals = true - (offset + scale * read)
    degrees = len(used) - (2 if scale_fitted else 1)
    chi_square = float(np.sum((residuals / sigma) ** 2))
    if degrees > 0 and chi_square > degrees:
        covariance = covariance * (chi_square / degrees)
    remarks += _remarks_on_line(used, read, residuals, sigma, degrees, scale_fitted, scale)
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


def _look_at(mark: MarkReadings) -> MarkResult:
    readings = _without_wild(mark.readings_m)
    wild = len(mark.readings_m) - len(readings)
    if not (math.isfinite(mark.true_m) and mark.true_m >= 0.0):
        raise ValueError(f"mark “{mark.name}” has a true distance of {mark.true_m:g} m")
    if not (math.isfinite(mark.true_u_m) and mark.true_u_m > 0.0):
        raise ValueError(f"mark “{mark.name}” needs an uncertainty above 0 for its true distance")
    count = len(readings)
    if count == 0:
        nan = float("nan")
        return MarkResult(
            mark.name, mark.true_m, mark.true_u_m, nan, nan, nan, 0, mark.flagged, 0, False, False
        )
    scatter = float(np.std(readings, ddof=1)) if count > 1 else STILL_LIMIT_M
    half = count // 2
    drift = float(np.mean(readings[half:]) - np.mean(readings[:half])) if half else 0.0
    clean = wild <= MOST_WILD * len(mark.readings_m)
    still = clean and scatter <= STILL_LIMIT_M and abs(drift) <= STILL_LIMIT_M
    return MarkResult(
        name=mark.name,
        true_m=mark.true_m,
        true_u_m=mark.true_u_m,
        read_m=float(np.mean(readings)),
        scatter_m=scatter,
        drift_m=drift,
        count=count,
        flagged=mark.flagged,
        wild=wild,
        still=still,
        used=True,
    )


def _without_wild(readings: FloatArray) -> FloatArray:
    """The readings within WILD_SIGMAS robust standard deviations of their median (Hampel)."""
    if len(readings) < 5:
        return readings
    away = np.abs(readings - np.median(readings))
    sigma = max(1.4826 * float(np.median(away)), STILL_LIMIT_M / 5.0)
    return readings[away <= WILD_SIGMAS * sigma]


def _remarks_on_mark(look: MarkResult) -> list[Finding]:
    if not look.used:
        return [
            Finding(
                "error",
                f"Nothing was heard under “{look.name}”.",
                f"All {look.flagged} readings there are flagged, so the mark has no mean.",
                "Move the mark to a stretch with good readings, or record again.",
            )
        ]
    remarks = []
    if not look.still:
        moved = (
            f"they drift by {abs(look.drift_m) * 1000:.0f} mm from its first half to its second"
            if abs(look.drift_m) > STILL_LIMIT_M
            else f"{look.wild} of them are wild"
            if look.scatter_m <= STILL_LIMIT_M
            else f"they scatter by {look.scatter_m * 1000:.0f} mm"
        )
        remarks.append(
            Finding(
                "error",
                f"The readings under “{look.name}” were not still.",
                f"Over the mark {moved}; held still, a ranger stays within "
                f"{STILL_LIMIT_M * 1000:.0f} mm.",
                "Shorten the mark to the stretch where the target stood still.",
            )
        )
    if look.count < FEWEST_READINGS:
        remarks.append(
            Finding(
                "warning",
                f"“{look.name}” rests on {look.count} reading{'s' if look.count > 1 else ''}.",
                f"A mean of fewer than {FEWEST_READINGS} follows the noise.",
                "Hold the target longer, or widen the mark.",
            )
        )
    return remarks


def _no_scale(read: FloatArray) -> Finding:
    many = {2: "Two"}.get(len(read), str(len(read)))
    return Finding(
        "warning",
        f"{many} marks this close together cannot give a scale.",
        f"They stand {float(np.ptp(read)) * 1000:.0f} mm apart, which would leave the scale worse "
        f"than ± {SCALE_WORTH_HAVING * 100:.0f} %. It stays 1; only the offset was fitted.",
        "Add a mark much nearer or much farther away.",
    )


def _remarks_on_line(
    used: list[MarkResult],
    read: FloatArray,
    residuals: FloatArray,
    sigma: FloatArray,
    degrees: int,
    scale_fitted: bool,
    scale: float,
) -> list[Finding]:
    remarks: list[Finding] = []
    if degrees == 0:
        what = "One mark gives an offset only." if len(used) == 1 else "Two marks fit any line."
        remarks.append(
            Finding(
                "warning",
                what,
                "With nothing left over, a slip of the ruler would go unseen.",
                "Add a mark at another distance.",
            )
        )
        return remarks
    leverage = _leverage(read, sigma, scale_fitted)
    spread = sigma * np.sqrt(np.maximum(1e-12, 1.0 - leverage))
    ratio = np.abs(residuals) / spread
    worst = int(np.argmax(ratio))
    if ratio[worst] > OUT_OF_LINE:
        millimetres = residuals[worst] * 1000
        if degrees == 1 and scale_fitted:
            remarks.append(
                Finding(
                    "error",
                    "The three marks do not lie on one line.",
                    f"They miss it by up to {np.max(np.abs(residuals)) * 1000:.1f} mm, "
                    f"{ratio[worst]:.0f} times what ruler and noise allow. With three, nothing "
                    "tells which is wrong.",
                    "Check each true distance; a fourth mark would show the odd one.",
                )
            )
        else:
            remarks.append(
                Finding(
                    "error",
                    f"“{used[worst].name}” is out of line.",
                    f"It is {millimetres:+.1f} mm off the line through the others, "
                    f"{ratio[worst]:.0f} times what ruler and noise allow.",
                    "Check its true distance and its stretch, or leave it out.",
                )
            )
    if scale_fitted and abs(scale - 1.0) > 0.1:
        remarks.append(
            Finding(
                "warning",
                f"The scale is {scale:.3f}, far from 1.",
                "Air, triangle and mount are already taken into account, so a ranger should come "
                "within a few percent.",
                "Check the unit of the echo times and of the marks.",
            )
        )
    return remarks


def _leverage(read: FloatArray, sigma: FloatArray, scale_fitted: bool) -> FloatArray:
    columns = [np.ones_like(read), read] if scale_fitted else [np.ones_like(read)]
    weighted = np.column_stack(columns) / sigma[:, None]
    hat = weighted @ np.linalg.inv(weighted.T @ weighted) @ weighted.T
    return np.asarray(np.diag(hat))
