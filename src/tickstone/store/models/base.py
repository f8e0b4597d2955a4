"""What the tables share: types of columns, the air, rows that can come back."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, LargeBinary, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped

from tickstone.core.air.conditions import AirConditions


def utc_now() -> datetime:
    """The time now, with its zone."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    type_annotation_map = {  # noqa: RUF012
        datetime: DateTime(timezone=True),
        dict[str, Any]: JSONB,
        list[Any]: JSONB,
        str: Text,
        bytes: LargeBinary,
        int: BigInteger,
    }


class AirColumns:
    """The air something was done in; see `AirConditions`."""

    temperature_c: Mapped[float]
    relative_humidity: Mapped[float]
    pressure_pa: Mapped[float]
    temperature_tolerance_c: Mapped[float]
    humidity_tolerance: Mapped[float]
    pressure_tolerance_pa: Mapped[float]

    @property
    def air(self) -> AirConditions:
        return AirConditions(
            self.temperature_c,
            self.relative_humidity,
            self.pressure_pa,
            self.temperature_tolerance_c,
            self.humidity_tolerance,
            self.pressure_tolerance_pa,
        )

    @air.setter
    def air(self, air: AirConditions) -> None:
        self.temperature_c = air.temperature_c
        self.relative_humidity = air.relative_humidity
        self.pressure_pa = air.pressure_pa
        self.temperature_tolerance_c = air.temperature_tolerance_c
        self.humidity_tolerance = air.humidity_tolerance
        self.pressure_tolerance_pa = air.pressure_tolerance_pa


class Deletable:
    """A row that is hidden, not destroyed."""

    deleted_at: Mapped[datetime | None]
