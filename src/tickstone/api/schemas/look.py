"""A look at a recording: what is asked for and what is drawn."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.air import Air
from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.bench import LevelOut, QuantityOut, ShownOut, StateLook, Values
from tickstone.api.schemas.finding import FindingOut

ShortName = Annotated[str, StringConstraints(min_length=1, max_length=40)]


class RuleDraft(Body):
    """A rule to try."""

    kind: ShortName
    parameters: Annotated[Values, Field(max_length=40)]


class Draft(Body):
    """What is tried out. What is left out is taken as saved.

    calibrations: by kind, ``saved`` uses the one in use, ``none`` leaves it out, ``fit`` uses the
    marks of this recording as they stand.
    """

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"parameters": {"mount_m": 0.008, "median_n": 3}}]}
    )

    air: Air | None = None
    parameters: Annotated[Values, Field(max_length=80)] | None = None
    calibrations: dict[ShortName, Literal["saved", "none", "fit"]] = Field(
        default_factory=dict, max_length=20
    )
    rule: RuleDraft | None = None


class LookIn(Body):
    """A look at a recording: a window, the reading in hand, and what is tried out.

    outputs: those to show; all when there are none.
    """

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"from_s": 0, "to_s": 42, "draft": {"air": {"temperature_c": 21.5}}}]
        }
    )

    outputs: list[ShortName] = Field(default_factory=list, max_length=20)
    from_s: float | None = Field(default=None, ge=-1e9, le=1e10)
    to_s: float | None = Field(default=None, ge=-1e9, le=1e10)
    at_s: float | None = Field(default=None, ge=-1e9, le=1e10)
    points: int = Field(default=1_600, ge=100, le=8_000)
    draft: Draft = Field(default_factory=Draft)


class ComponentOut(Answer):
    """A line of an uncertainty budget; contribution in the step's unit, standard uncertainty."""

    name: str
    u_input: float
    input_unit: str
    contribution: float | None
    shared: bool
    basis: str


class LaneOut(Answer):
    """One lane of a cell, beside the first."""

    name: str
    value: float | None
    u: float | None
    shown: str
    status: str
    status_word: str
    spread_shown: str


class StepOut(Answer):
    """A cell of the working line.

    What is shown is rounded by its uncertainty and in the units asked for; value and u are SI.
    operand_words: whether its operand is words and no number. small: how its doubts are read.
    state: of a decision, by name.
    others: of the lanes after the first. beside: the working of what else enters here.
    """

    stage: str
    label: str
    sign: str
    operand_shown: str
    operand_unit: str
    operand_note: str
    operand_words: bool
    formula: str
    filled: str
    value: float | None
    shown: str
    shown_unit: str
    unit: str
    u: float | None
    spread_shown: str
    small: ShownOut
    status: str
    status_word: str
    state: str
    state_look: StateLook | Literal[""]
    components: list[ComponentOut]
    source: str
    note: str
    below: str
    others: list[LaneOut]
    beside: list[list[StepOut]]


class PauseOut(Answer):
    """A stretch in which nothing came, s."""

    from_s: float
    to_s: float


class LineOfSamplesOut(Answer):
    """A drawn line. low, high: of what each point stands for; the same for a single sample.

    flag_s, flag: where flagged samples stand, thinned to one a pixel. samples: in the window.
    """

    time_s: list[float]
    low: list[float | None]
    high: list[float | None]
    flag_s: list[float]
    flag: list[str]
    samples: int
    is_thinned: bool
    pauses: list[PauseOut]


class StateSpansOut(Answer):
    """Stretches with one decision each, in columns: a name among the states of its quantity, and
    the lane it is of.
    """

    from_s: list[float]
    to_s: list[float]
    state: list[str]
    lane: list[int]


class OutputSeenOut(Answer):
    """One output over the window. lines: one a lane, none for a decision, which has `states`.

    at_s, at_index: the result in hand and its place; at_status: its status. spread: expanded
    uncertainty along spread_at. samples, counts: of the whole recording. beside: a word to stand
    beside the result in hand. levels: that the rule draws on it.
    """

    name: str
    label: str
    quantity: QuantityOut
    lines: list[LineOfSamplesOut]
    states: StateSpansOut
    at_s: float | None
    at_index: int | None
    at_status: str
    working: list[StepOut]
    spread_at: list[float]
    spread: list[float]
    samples: int
    counts: dict[str, int]
    beside: str
    levels: list[LevelOut]


class AirHeardOut(Answer):
    """The rig's own thermometer against what is typed, where the two disagree. °C."""

    heard_c: float
    typed_c: float


class LookOut(Answer):
    """A recording as it is looked at. air: where a thermometer in it disagrees with what is typed
    and it has a say.
    """

    samples: int
    duration_s: float
    from_s: float
    to_s: float
    outputs: list[OutputSeenOut]
    findings: list[FindingOut]
    air: AirHeardOut | None
