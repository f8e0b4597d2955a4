"""Rules: what readings are decided by, and what speaks for it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.bench import LevelOut, QuantityOut, Values
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.heaps import LaneThresholdOut
from tickstone.api.schemas.look import Draft, ShortName

Some = Annotated[Values, Field(max_length=40)]


class SuggestionIn(Body):
    """Evidence for a rule; what is left out is taken from the rig. tried: parameters in hand."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"kind": "stop-and-go", "evidence": {"speed_m_per_s": 0.6}}]
        }
    )

    kind: ShortName
    evidence: Some = Field(default_factory=dict)
    tried: Some | None = None
    draft: Draft = Field(default_factory=Draft)


class PartOut(Answer):
    """A line of the sum behind a suggestion."""

    label: str
    value: float
    quantity: QuantityOut
    note: str
    is_total: bool


class ElsewhereOut(Answer):
    """What is in hand does under other conditions; misread is left out where heaps are one."""

    where: str
    misread: int | None
    samples: int


class TableRowOut(Answer):
    """A line of a table that is set; see `TableRow`."""

    number: int
    picture: str
    name: str
    meaning: str
    letter: str
    told: str
    is_usual: bool


class TableWordOut(Answer):
    """What a letter of a table means."""

    letter: str
    word: str


class OpenSumOut(Answer):
    """A sum about parts that belongs here: its name, what it answers, and what to fill in."""

    bench: str
    label: str
    inputs: dict[str, float]


class CurveOut(Answer):
    """How one figure goes with another, and the point in hand."""

    x_label: str
    x_quantity: QuantityOut
    y_label: str
    y_quantity: QuantityOut
    x: list[float]
    y: list[float]
    at_x: float
    at_y: float


class SuggestionOut(Answer):
    """What to set and why. taken: evidence that was left out, as the rig says it. lanes: the
    thresholds in hand on the heaps of each lane, where it is heaps that speak for them. table: the
    lines of one, where it is a table that is set.
    """

    parameters: Values
    parts: list[PartOut]
    note: str
    needed: float | None
    tried_says: str
    tried_fails: bool
    taken: dict[str, float]
    findings: list[FindingOut]
    lanes: list[LaneThresholdOut]
    elsewhere: list[ElsewhereOut]
    table: list[TableRowOut]
    table_words: list[TableWordOut]
    sum: OpenSumOut | None
    curve: CurveOut | None


class RuleIn(Body):
    """What to decide by, and the evidence it was set from, if any."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"kind": "stop-and-go", "parameters": {"stop_m": 0.42, "go_m": 0.5}}]
        }
    )

    kind: ShortName
    parameters: Some
    evidence: Some | None = None


class RuleOut(Answer):
    """A rule as kept."""

    id: int
    kind: str
    set_at: datetime
    parameters: Values
    evidence: Values | None
    needed: float | None
    levels: list[LevelOut]
