"""Studies: planned experiments, led cell by cell."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.base import Answer, Body, Seconds
from tickstone.api.schemas.bench import QuantityOut, Values
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.heaps import LaneHeapsOut
from tickstone.api.schemas.look import ShortName

StudyName = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$")
]


class StudyIn(Body):
    """A study to plan. plan: what its kind asks for; the usual where it is left out."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"kind": "height", "plan": {"levels": [0.003, 0.006]}}]}
    )

    kind: ShortName
    name: StudyName = ""
    plan: Annotated[Values, Field(max_length=40)] = Field(default_factory=dict)


class CellIn(Body):
    """Where a cell was taken: a stretch of a recording, s, or the last seconds of the live line."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"recording_id": 1, "start_s": 12.3, "end_s": 17.5}]}
    )

    recording_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    start_s: Seconds = 0.0
    end_s: Seconds = 0.0
    last_s: float | None = Field(default=None, gt=0, le=120)


class CellOut(Answer):
    """A cell of the plan. heaps: what it gave; none while it is not taken."""

    key: str
    says: str
    what: str
    level: float
    is_lit: bool
    is_taken: bool
    samples: int
    taken_at: datetime | None
    recording_id: int | None
    start_s: float | None
    end_s: float | None
    heaps: list[LaneHeapsOut]


class StudyRowOut(Answer):
    """One level of the result. d_prime: of the worst lane; per_lane: of each."""

    level: float
    d_prime: float
    misread: float
    room_share: float | None
    per_lane: list[float]


class StudyOut(Answer):
    """A study with its plan, its cells in order, and what they say so far."""

    id: int
    kind: str
    label: str
    name: str
    made_at: datetime
    plan: Values
    varies: QuantityOut
    cells: list[CellOut]
    rows: list[StudyRowOut]
    best: float | None
    flat_from: float | None
    flat_to: float | None
    says: str
    cost: str
    findings: list[FindingOut]
