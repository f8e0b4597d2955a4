"""What was fitted, the plans it was held by, and which of it is in use."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity
from sqlalchemy.orm import Mapped, mapped_column, relationship

from tickstone.store.models.base import Base, Deletable, utc_now


class Study(Deletable, Base):
    """A planned experiment on a sensor: what is varied, and what each cell of the plan gave.

    plan: the inputs of its kind. cells: those that were taken, each with where it was taken.
    """

    __tablename__ = "study"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"), index=True)
    kind: Mapped[str]
    name: Mapped[str]
    plan: Mapped[dict[str, Any]]
    cells: Mapped[list[Any]]
    made_at: Mapped[datetime] = mapped_column(default=utc_now)


class Calibration(Base):
    """What a fit said, and all it rests on. Never changed: the database refuses.

    parameters, covariance, statistics: see `Fit`. surroundings: it was made in. grounds: what of
    the chain it rests on. evidence: the spans as they were, and what was left over of each. heaps:
    what each lane read of each surface, where they were told apart.
    """

    __tablename__ = "calibration"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"), index=True)
    recording_id: Mapped[int] = mapped_column(ForeignKey("recording.id"))
    kind: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(default=utc_now)
    parameters: Mapped[dict[str, Any]]
    covariance: Mapped[list[Any]]
    statistics: Mapped[dict[str, Any]]
    surroundings: Mapped[dict[str, Any]]
    grounds: Mapped[dict[str, Any]]
    evidence: Mapped[list[Any]]
    errors: Mapped[list[Any]]
    heaps: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")


class CalibrationInUse(Base):
    """The calibration of a kind that a sensor's readings go through now.

    undone_by: what somebody said has changed since, so that it holds no more; empty when nothing.
    """

    __tablename__ = "calibration_in_use"

    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    calibration_id: Mapped[int] = mapped_column(ForeignKey("calibration.id"))
    undone_by: Mapped[str] = mapped_column(default="", server_default="")
    calibration: Mapped[Calibration] = relationship(lazy="joined")
