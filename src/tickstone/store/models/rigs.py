"""Rigs, their sensors, where every wire goes, and what was looked at on the bench."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import ForeignKey, Identity, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from tickstone.store.models.base import AirColumns, Base, Deletable, utc_now

if TYPE_CHECKING:
    from tickstone.store.models.calibrations import CalibrationInUse


class Rig(AirColumns, Deletable, Base):
    """A robot or vehicle, with the air it stands in now.

    board: name of its family, empty when none is chosen. wiring, program: what differs from the
    defaults of the wiring's `Settings` and the `Program`. circuit: supplies, joints, parts and
    leads left open, as in a wiring file. wiring_revision: counts its changes.
    line: the port it was last heard on, and which column of its lines belongs to which sensor.
    """

    __tablename__ = "rig"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str]
    description: Mapped[str]
    board: Mapped[str]
    wiring: Mapped[dict[str, Any]] = mapped_column(default=dict)
    circuit: Mapped[dict[str, Any]] = mapped_column(default=dict)
    program: Mapped[dict[str, Any]] = mapped_column(default=dict)
    wiring_revision: Mapped[int] = mapped_column(default=0)
    line: Mapped[dict[str, Any]] = mapped_column(default=dict)
    created_at: Mapped[datetime] = mapped_column(default=utc_now)
    sensors: Mapped[list[Sensor]] = relationship(
        order_by="Sensor.position, Sensor.id",
        primaryjoin="and_(Rig.id == Sensor.rig_id, Sensor.deleted_at.is_(None))",
        back_populates="rig",
    )


class Sensor(Deletable, Base):
    """One sensor or other device on a rig.

    parameters: what differs from the chain's defaults. fitting: address, pulse rate, full charge
    and facing, as far as they were said.
    """

    __tablename__ = "sensor"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"), index=True)
    name: Mapped[str]
    family: Mapped[str]
    place: Mapped[str]
    position: Mapped[int]
    parameters: Mapped[dict[str, Any]]
    fitting: Mapped[dict[str, Any]] = mapped_column(default=dict)
    rig: Mapped[Rig] = relationship(back_populates="sensors")
    in_use: Mapped[list[CalibrationInUse]] = relationship(
        order_by="CalibrationInUse.kind", cascade="all, delete-orphan", lazy="selectin"
    )
    wires: Mapped[list[Wire]] = relationship(
        order_by="Wire.id", cascade="all, delete-orphan", lazy="selectin"
    )


class Wire(Base):
    """Where one lead of a device goes, and through which parts; see `Connection`."""

    __tablename__ = "wire"
    __table_args__ = (UniqueConstraint("sensor_id", "lead"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"), index=True)
    lead: Mapped[str]
    to: Mapped[str]
    beads: Mapped[list[Any]]
    colour: Mapped[str]
    is_fixed: Mapped[bool]


class WiringTick(Base):
    """A line of the wiring list, done and looked at. Holds for its fingerprint only.

    measured_v: volts written down at its test point. skipped_why: why none were, or empty.
    """

    __tablename__ = "wiring_tick"

    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"), primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    fingerprint: Mapped[str]
    done_at: Mapped[datetime | None]
    seen_at: Mapped[datetime | None]
    measured_v: Mapped[float | None]
    skipped_why: Mapped[str] = mapped_column(default="", server_default="")


class SignOff(Deletable, Base):
    """Somebody looked at the wiring, or drove, and said whether it is right.

    grounds: for the wiring, where each lead went.
    """

    __tablename__ = "sign_off"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"), index=True)
    stage: Mapped[str]
    is_right: Mapped[bool]
    note: Mapped[str]
    grounds: Mapped[dict[str, Any]] = mapped_column(default=dict)
    at: Mapped[datetime] = mapped_column(default=utc_now)
