"""Marks and their fit."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body, Metres, Name, Seconds
from tickstone.api.schemas.finding import FindingOut
from tickstone.core.calibration.fit import CalibrationFit


class MarkIn(Body):
    """A true distance held over a span. true_u_m: standard uncertainty of ruler and placing."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"name": "first nail", "start_s": 3, "end_s": 9, "true_m": 0.3}]
        }
    )

    name: Name
    start_s: Seconds
    end_s: Seconds
    true_m: Annotated[Metres, Field(ge=0)]
    true_u_m: float = Field(default=0.001, gt=0, le=1)


class MarkOut(Answer):
    """A mark as kept."""

    id: int
    recording_id: int
    name: str
    start_s: float
    end_s: float
    true_m: float
    true_u_m: float


class MarkResultOut(Answer):
    """A mark after the fit."""

    mark_id: int
    name: str
    true_m: float
    read_m: float | None
    scatter_m: float | None
    count: int
    flagged: int
    wild: int
    still: bool
    used: bool
    residual_m: float | None


class FitOut(Answer):
    """What the marks say: d_true = offset + scale × d_read."""

    offset_m: float
    offset_u_m: float
    scale: float
    scale_u: float
    scale_fitted: bool
    chi_square: float
    degrees: int
    u_at_1m_m: float
    marks: list[MarkResultOut]
    findings: list[FindingOut]

    @classmethod
    def of(cls, fit: CalibrationFit, mark_ids: list[int]) -> FitOut:
        return cls(
            offset_m=fit.offset_m,
            offset_u_m=max(0.0, fit.var_offset) ** 0.5,
            scale=fit.scale,
            scale_u=max(0.0, fit.var_scale) ** 0.5,
            scale_fitted=fit.scale_fitted,
            chi_square=fit.chi_square,
            degrees=fit.degrees,
            u_at_1m_m=fit.u_at(1.0),
            marks=[
                MarkResultOut(
                    mark_id=mark_id,
                    name=mark.name,
                    true_m=mark.true_m,
                    read_m=mark.read_m if mark.used else None,
                    scatter_m=mark.scatter_m if mark.used else None,
                    count=mark.count,
                    flagged=mark.flagged,
                    wild=mark.wild,
                    still=mark.still,
                    used=mark.used,
                    residual_m=mark.residual_m,
                )
                for mark_id, mark in zip(mark_ids, fit.marks, strict=True)
            ],
            findings=[FindingOut.of(remark) for remark in fit.remarks],
        )


class StretchOut(Answer):
    """A stretch of a recording, s."""

    from_s: float
    to_s: float


class MarksOut(Answer):
    """The marks of a recording and their fit; `fit_problem` says why when there is none.

    next_still: where the target stood still and nothing is marked yet, to begin the next mark with.
    """

    marks: list[MarkOut]
    fit: FitOut | None
    fit_problem: str
    next_still: StretchOut | None
