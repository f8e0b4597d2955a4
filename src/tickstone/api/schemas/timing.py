"""What a turn of the program costs."""

from __future__ import annotations

from pydantic import ConfigDict

from tickstone.api.schemas.base import Answer, Body
from tickstone.core.timing.loop_budget import Program


class ProgramIn(Body):
    """What the program does besides reading; see the core's Program."""

    model_config = ConfigDict(
        extra="forbid",
        allow_inf_nan=False,
        from_attributes=True,
        json_schema_serialization_defaults_required=True,
        json_schema_extra={"examples": [{"baud": 9600, "characters": 40}]},
    )

    baud: int = 9_600
    characters: int = 20
    delay_s: float = 0.0
    other_s: float = 0.001
    is_interleaved: bool = False

    def program(self) -> Program:
        """As the core takes it. Raises ValueError naming the field."""
        return Program(**self.model_dump())


class CostOut(Answer):
    """One line of the sum, s."""

    name: str
    what: str
    seconds: float
    other_way_s: float
    source: str


class PeriodOut(Answer):
    """How long a sensor goes unread, s."""

    device: str
    seconds: float
    why: str


class TimeBudgetOut(Answer):
    """The sum, s. other_way_s: one turn when working the other way. slots: rangers in turn."""

    program: ProgramIn
    costs: list[CostOut]
    loop_s: float
    other_way_s: float
    rate_hz: float
    blind_s: float
    bottleneck: CostOut | None
    periods: list[PeriodOut]
    slots: list[list[str]]
