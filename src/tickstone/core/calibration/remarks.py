"""What a fit has to say of itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tickstone.core.calibration.kind import SpanResult
from tickstone.core.finding import Finding
from tickstone.core.signal import FloatArray

FEWEST_READINGS = 10
"""Fewer good readings than this under a mark say little about its mean."""
SCALE_WORTH_HAVING = 0.05
"""A scale whose expanded uncertainty is larger than this is not used."""
OUT_OF_LINE = 3.0
"""A residual this many times its own uncertainty does not belong to the line."""


@dataclass(frozen=True, slots=True)
class Wording:
    """How to speak of one kind of sensor's marks.

    still_limit: how far readings may wander, in their unit, while something is held. small: a
    small amount with so many decimals as a person reads it, with its sign when asked for.
    sensor: what it is called. already: what the chain has taken into account before. units: what
    to check when all is off. against: what is compared with. elsewhere: what of its surroundings
    it rests on.
    """

    still_limit: float
    small: Callable[[float, int, bool], str]
    sensor: str
    already: str
    units: str
    against: str
    elsewhere: str


def remarks_on_span(look: SpanResult, wording: Wording) -> list[Finding]:
    """What there is to say of one mark by itself."""
    if not look.is_used:
        return [
            Finding(
                "error",
                f"Nothing was heard under “{look.name}”.",
                f"All {look.flagged} readings there are flagged, so the mark has no mean.",
                "Move the mark to a stretch with good readings, or record again.",
            )
        ]
    remarks = []
    if not look.is_still:
        limit, small = wording.still_limit, wording.small
        drift, scatter = abs(look.drift or 0.0), look.scatter or 0.0
        moved = (
            f"they drift by {small(drift, 0, False)} from its first half to its second"
            if drift > limit
            else f"{look.wild} of them are wild"
            if scatter <= limit
            else f"they scatter by {small(scatter, 0, False)}"
        )
        remarks.append(
            Finding(
                "error",
                f"The readings under “{look.name}” were not still.",
                f"Over the mark {moved}; held still, {wording.sensor} stays within "
                f"{small(limit, 0, False)}.",
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


def no_scale(read: FloatArray, wording: Wording) -> Finding:
    """Marks too close together for a scale."""
    many = {2: "Two"}.get(len(read), str(len(read)))
    return Finding(
        "warning",
        f"{many} marks this close together cannot give a scale.",
        f"They stand {wording.small(float(np.ptp(read)), 0, False)} apart, which would leave the "
        f"scale worse than ± {SCALE_WORTH_HAVING * 100:.0f} %. It stays 1; only the offset was "
        "fitted.",
        "Add a mark much nearer or much farther away.",
    )


def remarks_on_line(
    used: list[SpanResult],
    read: FloatArray,
    residuals: FloatArray,
    sigma: FloatArray,
    degrees: int,
    scale_fitted: bool,
    scale: float,
    wording: Wording,
) -> list[Finding]:
    """What the residuals say of the marks together. read, residuals, sigma: one per mark."""
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
        most_off = wording.small(float(np.max(np.abs(residuals))), 1, False)
        off = float(residuals[worst])
        if degrees == 1 and scale_fitted:
            remarks.append(
                Finding(
                    "error",
                    "The three marks do not lie on one line.",
                    f"They miss it by up to {most_off}, "
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
                    f"It is {wording.small(off, 1, True)} off the line through the "
                    f"others, {ratio[worst]:.0f} times what ruler and noise allow.",
                    "Check its true distance and its stretch, or leave it out.",
                )
            )
    if scale_fitted and abs(scale - 1.0) > 0.1:
        remarks.append(
            Finding(
                "warning",
                f"The scale is {scale:.3f}, far from 1.",
                f"{wording.already}, so {wording.sensor} should come within a few percent.",
                f"Check {wording.units}.",
            )
        )
    return remarks


def _leverage(read: FloatArray, sigma: FloatArray, scale_fitted: bool) -> FloatArray:
    columns = [np.ones_like(read), read] if scale_fitted else [np.ones_like(read)]
    weighted = np.column_stack(columns) / sigma[:, None]
    hat = weighted @ np.linalg.inv(weighted.T @ weighted) @ weighted.T
    return np.asarray(np.diag(hat))
