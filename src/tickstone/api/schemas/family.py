"""Families of boards and devices."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.base import Answer, Body

Kind = Literal["board", "device"]


class FamilySummary(Answer):
    """A family in a list. leads: of a device, or pins of a board, as printed. recognise: what
    tells it apart with the part in the hand; empty where nobody said.
    """

    kind: Kind
    name: str
    label: str
    what: str
    recognise: str
    group: str
    leads: list[str]
    is_own: bool
    has_chain: bool


class FamilyOut(FamilySummary):
    """A family with its whole description, as it stands in its file."""

    document: dict[str, Any]


class FamilyIn(Body):
    """A family's description, as JSON text so that every number stays as it was written."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "text": '{"name": "shed_button", "label": "shed button", "kind": "sensor", '
                    '"what": "A push button.", "leads": [{"name": "GND", "role": "ground", '
                    '"labels": ["GND"]}]}'
                }
            ]
        }
    )

    text: Annotated[str, StringConstraints(min_length=2, max_length=600_000)]


class LabelsIn(Body):
    """Labels printed beside the pins."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"labels": "VCC TRIG ECHO GND"}]})

    labels: Annotated[str, StringConstraints(max_length=1_000)]


class RenamedOut(Answer):
    """A label and the lead it belongs to."""

    label: str
    lead: str


class MatchOut(Answer):
    """A family these labels may belong to."""

    family: FamilySummary
    is_exact: bool
    missing: list[str]
    strange: list[str]
    renamed: list[RenamedOut]
    score: float = Field(ge=0, le=1)
