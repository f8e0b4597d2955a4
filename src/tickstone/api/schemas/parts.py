"""The parts benches."""

from __future__ import annotations

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.bench import InputOut, Values
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.look import StepOut as WorkingStepOut


class PartBenchOut(Answer):
    """A bench and its inputs."""

    name: str
    label: str
    what: str
    inputs: list[InputOut]


class PartInputs(Body):
    """Inputs by name; those left out keep their defaults."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"inputs": {"supply_v": 5.0, "current_ma": 15.0}}]}
    )

    inputs: Values = Field(max_length=40)


class ResultOut(Answer):
    """A result in its unit. text: as a person reads it."""

    name: str
    value: float
    unit: str
    u: float
    text: str


class WorkedOut(Answer):
    """The working, the results, and what Tick Stone thinks of them."""

    steps: list[WorkingStepOut]
    results: list[ResultOut]
    findings: list[FindingOut]
    bands: list[str]
