"""What a recording comes to."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.bench import ShownOut
from tickstone.api.schemas.look import Draft

Edge = Annotated[float | None, Field(ge=0, le=1e10)]


class DigestIn(Body):
    """Which stretch to sum up, and what is tried out meanwhile.

    beside: the recording of another sensor in the take, for a digest that takes one; the first
    there is when it is left out.
    """

    model_config = ConfigDict(json_schema_extra={"examples": [{"from_s": 0, "to_s": 42}]})

    from_s: Edge = None
    to_s: Edge = None
    beside: Annotated[int | None, Field(ge=1, le=2**31 - 1)] = None
    draft: Draft = Field(default_factory=Draft)


class FeedOut(Answer):
    """A decision of another sensor that a figure answers a question of. input, u_input: by name."""

    sensor_id: int
    sensor: str
    rule: str
    label: str
    input: str
    u_input: str


class FigureOut(Answer):
    """One figure, SI, with its standard uncertainty where that is known, and how it was got."""

    name: str
    label: str
    value: float | None
    u: float | None
    shown: ShownOut
    how: str
    feeds: list[FeedOut]
    sets: dict[str, float | str]


class StretchOut(Answer):
    """A stretch and its figures. lap: its number, 0 for the whole of it."""

    lap: int
    from_s: float
    to_s: float
    figures: list[FigureOut]


class BesideOut(Answer):
    """A recording of another sensor in the take, and the sensor's name."""

    recording_id: int
    sensor: str


class DigestOut(Answer):
    """A digest: the whole first, then each lap. lap_note: what notes are called that end a lap.

    beside: the recording it was held against; others: those it can be held against. A digest that
    takes one and has none has no stretches.
    """

    name: str
    label: str
    lap_note: str
    beside: int | None
    others: list[BesideOut]
    stretches: list[StretchOut]
