"""What a fit has to say of itself."""

from __future__ import annotations

import numpy as np

from tickstone.core.calibration.marks import STILL_LIMIT_M, MarkResult
from tickstone.core.finding import Finding
from tickstone.core.reading_units import small_length
from tickstone.core.signal import FloatArray

FEWEST_READINGS = 10
"""Fewer good readings than this under a mark say little about its mean."""
SCALE_WORTH_HAVING = 0.05
"""A scale whose expanded uncertainty is larger than this is not used."""
OUT_OF_LINE = 3.0
"""A residual this many times its own uncertainty does not belong to the line."""


def remarks_on_mark(look: MarkResult) -> list[Finding]:
    """What there is to say of one mark by itself."""
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
            f"they drift by {small_length(abs(look.drift_m), 0)} from its first half to its second"
            if abs(look.drift_m) > STILL_LIMIT_M
            else f"{look.wild} of them are wild"
            if look.scatter_m <= STILL_LIMIT_M
            else f"they scatter by {small_length(look.scatter_m, 0)}"
        )
        remarks.append(
            Finding(
                "error",
                f"The readings under “{look.name}” were not still.",
                f"Over the mark {moved}; held still, a ranger stays within "
                f"{small_length(STILL_LIMIT_M, 0)}.",
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


def no_scale(read: FloatArray) -> Finding:
    """Marks too close together for a scale."""
    many = {2: "Two"}.get(len(read), str(len(read)))
    return Finding(
        "warning",
        f"{many} marks this close together cannot give a scale.",
        f"They stand {small_length(float(np.ptp(read)), 0)} apart, which would leave the scale "
        f"worse than ± {SCALE_WORTH_HAVING * 100:.0f} %. It stays 1; only the offset was fitted.",
        "Add a mark much nearer or much farther away.",
    )


def remarks_on_line(
    used: list[MarkResult],
    read: FloatArray,
    residuals: FloatArray,
    sigma: FloatArray,
    degrees: int,
    scale_fitted: bool,
    scale: float,
) -> list[Finding]:
    """What the residuals say of the marks together. read, residuals, sigma: m, one per mark."""
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
        off_m = float(residuals[worst])
        if degrees == 1 and scale_fitted:
            remarks.append(
                Finding(
                    "error",
                    "The three marks do not lie on one line.",
                    f"They miss it by up to {small_length(float(np.max(np.abs(residuals))), 1)}, "
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
                    f"It is {small_length(off_m, 1, is_signed=True)} off the line through the "
                    f"others, {ratio[worst]:.0f} times what ruler and noise allow.",
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
