"""What is seen while something is held for a calibration, hands off the keys."""

from __future__ import annotations

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.look import StepOut


class PoseHeldOut(Answer):
    """A pose that was held. from_s, to_s: on the line's axis."""

    name: str
    from_s: float
    to_s: float


class SeenOut(Answer):
    """What is seen now. now: the pose, or nothing while it moves. refused: why the last stillness
    does not count. says: what to do.
    """

    now: str
    still_s: float
    needs_s: float
    done: list[PoseHeldOut]
    missing: list[str]
    refused: str
    says: str
    is_done: bool


class GuidedIn(Body):
    """Stop the recording and mark in it what was held since. from_axis_s: on the line's axis."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"from_axis_s": 3.5}]})

    from_axis_s: float = Field(ge=0.0, le=1e9)


class GuidedOut(Answer):
    """Where it is now: a recording with its marks."""

    recording_id: int
    marks: int


class ReadOut(Answer):
    """The newest reading of an output since a zero; none before there is one. axis_s: when it is
    from, since the line was opened.
    """

    step: StepOut | None
    axis_s: float
