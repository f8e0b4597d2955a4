"""The air."""

from __future__ import annotations

from dataclasses import asdict
from typing import Self

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Body
from tickstone.core.air.conditions import STANDARD_PRESSURE_PA, AirConditions


class Air(Body):
    """Air with the tolerances (half widths) of what measured it."""

    model_config = ConfigDict(
        extra="forbid",
        allow_inf_nan=False,
        from_attributes=True,
        json_schema_serialization_defaults_required=True,
        json_schema_extra={"examples": [{"temperature_c": 20.0, "relative_humidity": 0.5}]},
    )

    temperature_c: float = Field(ge=-40, le=60)
    relative_humidity: float = Field(default=0.5, ge=0, le=1)
    pressure_pa: float = Field(default=STANDARD_PRESSURE_PA, ge=30_000, le=120_000)
    temperature_tolerance_c: float = Field(default=2.0, ge=0, le=30)
    humidity_tolerance: float = Field(default=0.05, ge=0, le=1)
    pressure_tolerance_pa: float = Field(default=3_000.0, ge=0, le=50_000)

    def conditions(self) -> AirConditions:
        """As the core takes it."""
        return AirConditions(**self.model_dump())

    @classmethod
    def of(cls, air: AirConditions) -> Self:
        """From the core's."""
        return cls(**asdict(air))
