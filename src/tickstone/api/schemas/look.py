"""A look at a recording: what is asked for and what is drawn."""

from __future__ import annotations

from typing import Literal

from pydantic import ConfigDict, Field

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.rig import Parameters


class ThresholdDraft(Body):
    """Two distances to try, m."""

    stop_m: float = Field(ge=0, le=20)
    go_m: float = Field(gt=0, le=20)


class ViewIn(Body):
    """A look at a recording. What is left out is taken as saved; `saved` words can be tried out.

    calibration: ``saved`` uses the calibration in use, ``none`` leaves it out, ``fit`` uses the
    marks of this recording as they stand.
    """

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"from_s": 0, "to_s": 42, "air": {"temperature_c": 21.5}}]}
    )

    from_s: float | None = None
    to_s: float | None = None
    at_s: float | None = None
    points: int = Field(default=1_600, ge=100, le=8_000)
    air: Air | None = None
    parameters: Parameters | None = None
    calibration: Literal["saved", "none", "fit"] = "saved"
    threshold: ThresholdDraft | None = None


class ComponentOut(Answer):
    """A line of an uncertainty budget; contribution in the step's unit, standard uncertainty."""

    name: str
    u_input: float
    input_unit: str
    contribution: float | None
    shared: bool
    basis: str


class StepOut(Answer):
    """A cell of the working line.

    What is shown is rounded by its uncertainty and in the units asked for; value and u are SI.
    """

    stage: str
    label: str
    sign: str
    operand_shown: str
    operand_unit: str
    operand_note: str
    formula: str
    filled: str
    value: float | None
    shown: str
    shown_unit: str
    unit: str
    u: float | None
    spread_shown: str
    status: str
    components: list[ComponentOut]
    source: str
    note: str


class PauseOut(Answer):
    """A stretch in which nothing came, s."""

    from_s: float
    to_s: float


class FlagOut(Answer):
    """A flagged sample."""

    time_s: float
    status: str


class DecisionOut(Answer):
    """A stretch with one decision."""

    from_s: float
    to_s: float
    decision: Literal["clear", "stop", "blind"]


class ViewOut(Answer):
    """A window of a recording, ready to draw. `distance_m` is null where the line is broken."""

    samples: int
    shown_samples: int
    duration_s: float
    from_s: float
    to_s: float
    time_s: list[float]
    distance_m: list[float | None]
    flags: list[FlagOut]
    pauses: list[PauseOut]
    decisions: list[DecisionOut]
    counts: dict[str, int]
    at_index: int | None
    at_s: float | None
    at_status: str
    working: list[StepOut]
    footprint_m: float | None
    spread_at_m: list[float]
    spread_m: list[float]
    findings: list[FindingOut]
