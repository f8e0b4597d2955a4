"""The bench of controllers: plants, settings, known ways to tune, and how a loop did."""

from __future__ import annotations

from typing import Any

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body, Name, Seconds, Words
from tickstone.api.schemas.bench import InputOut, QuantityOut, Values
from tickstone.api.schemas.look import ShortName
from tickstone.api.schemas.machines import KeptOut, TakeOfferedOut, WordOut
from tickstone.api.schemas.rule import Some

_FITTED: dict[str, Any] = {
    "plant": "fitted",
    "plant_inputs": {"gain": 2.0, "lag_s": 1.5, "delay_s": 0.2},
}


class PlantKindOut(Answer):
    """Something to steer."""

    name: str
    label: str
    what: str
    caution: str
    inputs: list[InputOut]
    measured: QuantityOut
    steered: QuantityOut
    usual: Values


class TuningRuleOut(Answer):
    """A known way to tune. terms: those it is published for."""

    name: str
    label: str
    for_what: str
    source: str
    terms: list[str]


class DemonstratorOut(Answer):
    """A mistake beside the same loop without it."""

    name: str
    label: str
    what: str
    plant: str
    right: Values
    wrong: Values


class ControlBenchOut(Answer):
    """All there is for the bench of controllers of a rig."""

    plants: list[PlantKindOut]
    controller: list[InputOut]
    rig: list[InputOut]
    rules: list[TuningRuleOut]
    terms: list[WordOut]
    stages: list[WordOut]
    models: list[WordOut]
    demonstrators: list[DemonstratorOut]
    kept: list[KeptOut]
    takes: list[TakeOfferedOut]
    caution: str


class PlantIn(Body):
    """A plant with its numbers, and what the loop has around its controller."""

    plant: ShortName
    plant_inputs: Some = Field(default_factory=dict)
    rig_inputs: Some = Field(default_factory=dict)


class RunIn(PlantIn):
    """Up to four settings of a controller on one plant. seed: of noise and dropouts."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{**_FITTED, "settings": [{"kp": 1.875, "ki": 1.25}]}]}
    )

    settings: list[Some] = Field(min_length=1, max_length=4)
    seed: int = Field(default=1, ge=0, le=2**31)
    points: int = Field(default=700, ge=50, le=4_000)


class TuneIn(PlantIn):
    """A known way, for which terms. tau_c_s: how fast it is to be, where the way asks."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{**_FITTED, "rule": "simc", "terms": "pi"}]}
    )

    rule: ShortName
    terms: ShortName = ""
    tau_c_s: Seconds | None = None


class AdviseIn(PlantIn):
    """What to do next by hand, at a stage of the order, with some settings."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{**_FITTED, "settings": {"kp": 1.0}, "stage": "p"}]}
    )

    settings: Some
    stage: ShortName = "p"


class ColumnsIn(Body):
    """Columns of a recording by number. wanted: the set point, where there is a column of it."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"take_id": 11, "measured": 1, "output": 0}]}
    )

    take_id: int = Field(ge=1, le=2**63 - 1)
    measured: int = Field(ge=0, le=63)
    output: int = Field(ge=0, le=63)
    wanted: int | None = Field(default=None, ge=0, le=63)
    from_s: Seconds | None = None
    to_s: Seconds | None = None


class FitStepIn(ColumnsIn):
    """Fit a plant to a step in a recording."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"take_id": 11, "measured": 1, "output": 0}]}
    )

    model: ShortName = "lag"


class HeardIn(Body):
    """How a loop would hear an output of a sensor, as recorded."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"take_id": 1, "sensor_id": 1, "output": "distance"}]}
    )

    take_id: int = Field(ge=1, le=2**63 - 1)
    sensor_id: int = Field(ge=1, le=2**63 - 1)
    output: ShortName


class KeepTuningIn(Body):
    """A controller to go by from now on."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{**_FITTED, "name": "wheel", "settings": {"kp": 1.9, "ki": 1.2}}]
        }
    )

    plant: ShortName
    name: Name
    plant_inputs: Some = Field(default_factory=dict)
    rig_inputs: Some = Field(default_factory=dict)
    settings: Some
    sensor_ids: list[int] = Field(default_factory=list, max_length=24)
    note: Words = ""


class MeasuresOut(Answer):
    """How a loop did; see `core.control.measures.Measures`. Shares as shares, the rest SI."""

    overshoot: float | None
    rise_s: float | None
    settling_s: float | None
    itae: float | None
    iae: float | None
    offset: float | None
    travel: float | None
    noise_out: float | None
    clamped: float | None
    swings: int
    decay: float | None


class MarginsOut(Answer):
    """How far it is from swinging by itself. Null: without end, or none. growth: from reading to
    reading; 1 and more is not stable.
    """

    gain: float | None
    gain_down: float | None
    phase_rad: float | None
    delay_s: float | None
    peak: float | None
    growth: float
    is_stable: bool


class RunOut(Answer):
    """One of the settings: its course, thinned, and how it did."""

    settings: Values
    time_s: list[float]
    wanted: list[float]
    true: list[float]
    measured: list[float | None]
    output: list[float]
    measures: MeasuresOut | None
    why_not: str
    margins: MarginsOut
    says: list[str]


class RunsOut(Answer):
    """All of them. adds_s: what the rig adds to the dead time."""

    runs: list[RunOut]
    measured: QuantityOut
    steered: QuantityOut
    adds_s: float


class WorkingOut(Answer):
    """A line of a sum."""

    what: str
    value: float | None


class TunedOut(Answer):
    """Gains by a known way, and how they came about."""

    kp: float
    ki: float
    kd: float
    source: str
    working: list[WorkingOut]


class AdviceOut(Answer):
    """What to do next. settings: to try, or nothing to change."""

    stage: str
    says: str
    do: str
    watch: str
    settings: Values | None


class PlantFittedOut(Answer):
    """What a step says of a plant, with ±, and how well it describes it."""

    gain: float
    lag_s: float
    delay_s: float
    u_gain: float | None
    u_lag_s: float | None
    u_delay_s: float | None
    model: str
    scatter: float
    explained: float
    time_s: list[float]
    read: list[float | None]
    told: list[float]
    output: list[float | None]
    remarks: list[str]


class ReadLoopOut(Answer):
    """The measures of a loop that a rig itself ran. relay: what it says of the edge, where the
    output went to and fro like a relay.
    """

    measures: MeasuresOut | None
    why_not: str
    relay: RelayOut | None
    time_s: list[float]
    wanted: list[float | None]
    measured: list[float | None]
    output: list[float | None]


class RelayOut(Answer):
    """What a relay run says of the edge."""

    ku: float
    tu_s: float
    u_ku: float | None
    u_tu_s: float | None
    amplitude: float
    swings: int


class LoopHeardOut(Answer):
    """How a sensor really delivers. noise_u: null where that could not be told."""

    sample_s: float
    longest_s: float
    noise_u: float | None
    zeros: float
    samples: int


ReadLoopOut.model_rebuild()
