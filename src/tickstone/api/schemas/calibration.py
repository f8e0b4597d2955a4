"""Calibrations: a fit as it stands, and as it is kept."""

from __future__ import annotations

from datetime import datetime

from pydantic import ConfigDict, Field

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.bench import QuantityOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.heaps import LaneHeapsOut
from tickstone.api.schemas.look import Draft, ShortName
from tickstone.core.calibration.kind import CalibrationKind, Fit


class FitIn(Body):
    """A kind of calibration, with what is tried out besides."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"kind": "offset-scale"}]})

    kind: ShortName
    draft: Draft = Field(default_factory=Draft)


class SpanOut(Answer):
    """A mark after the fit. residual: true minus fitted."""

    mark_id: int
    name: str
    true: float | None
    read: float | None
    scatter: float | None
    count: int
    flagged: int
    wild: int
    is_still: bool
    is_used: bool
    residual: float | None


class CertificateLineOut(Answer):
    """A line of what a calibration says, as a person reads it."""

    label: str
    text: str


class StretchOut(Answer):
    """A stretch of a recording, s."""

    from_s: float
    to_s: float


class FittedOut(Answer):
    """What the marks say; `problem` says why when there is nothing to say.

    next_still: where something was held and nothing is marked yet, to begin the next mark with.
    heaps: what each lane read of each surface, also while there is no fit. curves: points worth
    drawing, by name. reads: what is compared, where all of it is one quantity.
    """

    problem: str
    reads: QuantityOut | None
    parameters: dict[str, float | list[float] | list[list[float]]]
    covariance: list[list[float]]
    statistics: dict[str, float]
    certificate: list[CertificateLineOut]
    spans: list[SpanOut]
    findings: list[FindingOut]
    heaps: list[LaneHeapsOut]
    curves: dict[str, list[list[float]]]
    next_still: StretchOut | None


class CalibrationOut(Answer):
    """A calibration as kept; it never changes. undone_by: what somebody said changed since."""

    id: int
    kind: str
    label: str
    made_at: datetime
    recording_id: int
    parameters: dict[str, float | list[float] | list[list[float]]]
    spans_used: int
    certificate: list[CertificateLineOut]
    air: Air
    errors: list[str]
    heaps: list[LaneHeapsOut]
    is_in_use: bool
    undone_by: str


class CalibrationChoice(Body):
    """Which calibration of a kind is in use: one of the sensor's own, or none.

    undone_by: what has changed since it was made, one of what its kind says may; empty for nothing.
    """

    model_config = ConfigDict(json_schema_extra={"examples": [{"calibration_id": None}]})

    calibration_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    undone_by: str = Field(default="", max_length=80)


def certificate_out(kind: CalibrationKind, fit: Fit) -> list[CertificateLineOut]:
    """What a calibration says, line by line."""
    return [CertificateLineOut.model_validate(line) for line in kind.certificate(fit)]
