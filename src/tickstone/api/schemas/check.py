"""Readings held against something."""

from __future__ import annotations

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.look import Draft


class CheckIn(Body):
    """A check by name, what is asked for it, and the reading in hand: SI, with its ±.

    draft: what is tried out; None for the sensor as it is set.
    """

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"name": "turn-reference", "asked": {}, "value": 2.0}]}
    )

    name: str = Field(max_length=60)
    asked: dict[str, float | bool | str] = Field(default_factory=dict, max_length=40)
    value: float
    u: float | None = Field(default=None, ge=0)
    draft: Draft = Field(default_factory=Draft)


class CheckOut(Answer):
    """What it comes to. is_good: whether they agree; None when that cannot be told."""

    says: str
    is_good: bool | None
    findings: list[FindingOut]
