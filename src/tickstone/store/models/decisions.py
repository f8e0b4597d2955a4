"""What is decided by: a sensor's rule, a rig's rules and controllers."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, Index
from sqlalchemy.orm import Mapped, mapped_column, relationship

from tickstone.store.models.base import Base, Deletable, utc_now


class Rule(Deletable, Base):
    """What a sensor's readings are decided by. The newest that is not deleted is in use.

    parameters: what is set. basis: the evidence it was set from, what it has to cover (`needed`),
    and the calibrations then in use.
    """

    __tablename__ = "rule"
    __table_args__ = (Index("rule_sensor_id_set_at", "sensor_id", "set_at"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"))
    kind: Mapped[str]
    parameters: Mapped[dict[str, Any]]
    basis: Mapped[dict[str, Any]] = mapped_column(default=dict)
    set_at: Mapped[datetime] = mapped_column(default=utc_now)


class Decision(Base):
    """Rules over a rig, or a tuned controller, as they were kept. Never changed: the database
    refuses.

    slot: what it is in the place of, such as ``rules``; one of each is in use. document: all of it.
    basis: what it rests on: calibrations, delays and geometry of the sensors it looks at.
    """

    __tablename__ = "decision"
    __table_args__ = (Index("decision_rig_id_slot", "rig_id", "slot"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"))
    slot: Mapped[str]
    name: Mapped[str]
    document: Mapped[dict[str, Any]]
    basis: Mapped[dict[str, Any]]
    note: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(default=utc_now)


class DecisionInUse(Base):
    """Which of the decisions of a slot a rig goes by now."""

    __tablename__ = "decision_in_use"

    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"), primary_key=True)
    slot: Mapped[str] = mapped_column(primary_key=True)
    decision_id: Mapped[int] = mapped_column(ForeignKey("decision.id"))
    decision: Mapped[Decision] = relationship(lazy="joined")
