"""The tables. SI units and raw integers, units in the names.

Rows that a person can delete carry `deleted_at` and come back by clearing it.
"""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    DateTime,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.ext.associationproxy import AssociationProxy, association_proxy
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

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


class OwnFamily(Deletable, Base):
    """A family of boards or devices that somebody here described. kind: board or device."""

    __tablename__ = "own_family"
    __table_args__ = (UniqueConstraint("kind", "name"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str]
    name: Mapped[str]
    document: Mapped[dict[str, Any]]
    at: Mapped[datetime] = mapped_column(default=utc_now)


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


class Take(AirColumns, Deletable, Base):
    """What one line or file said: channels side by side, with the conditions it was taken in.

    source: where it came from; kind is line, stand-in, page, file, demo, trim, split or join.
    channels: for each its name, unit, quantity and the sensor it belongs to, or none.
    conditions: light, height, battery, notes. gaps: stretches in which nothing could arrive.
    state: open while it is recorded, then whole, or cut when the server ended first.
    attempts: the number of the write that was committed last, see `work.live.recorder`.
    shape: how lines were read. sha256: of the file it came from. *_time_us: the board's clock, or
    the host's when the lines held no time (`time_source` board or arrival).
    """

    __tablename__ = "take"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"), index=True)
    name: Mapped[str]
    source_name: Mapped[str]
    source: Mapped[dict[str, Any]] = mapped_column(default=dict)
    sha256: Mapped[str] = mapped_column(index=True)
    channels: Mapped[list[Any]]
    samples: Mapped[int] = mapped_column(default=0)
    bad_lines: Mapped[int] = mapped_column(default=0)
    first_time_us: Mapped[int] = mapped_column(default=0)
    last_time_us: Mapped[int] = mapped_column(default=0)
    recorded_at: Mapped[datetime] = mapped_column(default=utc_now)
    conditions: Mapped[dict[str, Any]] = mapped_column(default=dict)
    tags: Mapped[list[Any]] = mapped_column(default=list)
    gaps: Mapped[list[Any]] = mapped_column(default=list)
    state: Mapped[str] = mapped_column(default="whole")
    attempts: Mapped[int] = mapped_column(default=0)
    shape: Mapped[dict[str, Any]] = mapped_column(default=dict)
    time_source: Mapped[str] = mapped_column(default="board")
    jitter_us: Mapped[float | None]
    rig: Mapped[Rig] = relationship()
    recordings: Mapped[list[Recording]] = relationship(
        back_populates="take", order_by="Recording.id"
    )

    @property
    def duration_s(self) -> float:
        """From the first reading to the last, s."""
        return (self.last_time_us - self.first_time_us) / 1e6

    @property
    def rate_hz(self) -> float:
        """Readings per second; 0 when the take has no length."""
        return (self.samples - 1) / self.duration_s if self.duration_s > 0 else 0.0


class TakeChunk(Base):
    """A run of samples: their times. time_overview: first time of each bucket; see `columns`."""

    __tablename__ = "take_chunk"

    take_id: Mapped[int] = mapped_column(
        ForeignKey("take.id", ondelete="CASCADE"), primary_key=True
    )
    sequence: Mapped[int] = mapped_column(primary_key=True)
    samples: Mapped[int]
    first_time_us: Mapped[int]
    last_time_us: Mapped[int]
    times: Mapped[bytes]
    host_times: Mapped[bytes | None]
    time_overview: Mapped[bytes | None]


class TakeColumn(Base):
    """One channel of one chunk, and its overview; see `columns`."""

    __tablename__ = "take_column"
    __table_args__ = (
        ForeignKeyConstraint(
            ["take_id", "sequence"],
            ["take_chunk.take_id", "take_chunk.sequence"],
            ondelete="CASCADE",
        ),
    )

    take_id: Mapped[int] = mapped_column(primary_key=True)
    channel: Mapped[int] = mapped_column(primary_key=True)
    sequence: Mapped[int] = mapped_column(primary_key=True)
    body: Mapped[bytes]
    overview: Mapped[bytes | None]


class ResultOverview(Base):
    """What a node of a chain gave for a whole take, thinned; see `overviews`.

    source: which channels fed it. chain: a digest of the settings it was worked out with.
    overview: of its first lane, a block after the other for further ones. states: the chain's
    states on the way, so that no window has to begin at the beginning.
    """

    __tablename__ = "result_overview"

    take_id: Mapped[int] = mapped_column(
        ForeignKey("take.id", ondelete="CASCADE"), primary_key=True
    )
    source: Mapped[str] = mapped_column(primary_key=True)
    node: Mapped[str] = mapped_column(primary_key=True)
    chain: Mapped[str]
    times: Mapped[bytes]
    overview: Mapped[bytes]
    states: Mapped[bytes]


class BadLineChunk(Base):
    """A run of lines that were put aside, as compressed JSON."""

    __tablename__ = "bad_line_chunk"

    take_id: Mapped[int] = mapped_column(
        ForeignKey("take.id", ondelete="CASCADE"), primary_key=True
    )
    sequence: Mapped[int] = mapped_column(primary_key=True)
    first_index: Mapped[int]
    lines: Mapped[int]
    body: Mapped[bytes]


class Recording(Deletable, Base):
    """What one sensor said in a take: its inputs, with the take's name, air and times."""

    __tablename__ = "recording"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    sensor_id: Mapped[int] = mapped_column(ForeignKey("sensor.id"), index=True)
    take_id: Mapped[int] = mapped_column(ForeignKey("take.id"), index=True)
    sensor: Mapped[Sensor] = relationship()
    take: Mapped[Take] = relationship(back_populates="recordings", lazy="joined")
    inputs: Mapped[list[RecordingInput]] = relationship(
        order_by="RecordingInput.role, RecordingInput.lane",
        cascade="all, delete-orphan",
        lazy="selectin",
    )

    name: AssociationProxy[str] = association_proxy("take", "name")
    source_name: AssociationProxy[str] = association_proxy("take", "source_name")
    sha256: AssociationProxy[str] = association_proxy("take", "sha256")
    samples: AssociationProxy[int] = association_proxy("take", "samples")
    bad_lines: AssociationProxy[int] = association_proxy("take", "bad_lines")
    first_time_us: AssociationProxy[int] = association_proxy("take", "first_time_us")
    recorded_at: AssociationProxy[datetime] = association_proxy("take", "recorded_at")

    @property
    def air(self) -> AirConditions:
        """The air it was taken in."""
        return self.take.air

    @property
    def duration_s(self) -> float:
        """From the first reading to the last, s, by the device's clock."""
        return self.take.duration_s

    @property
    def rate_hz(self) -> float:
        """Readings per second; 0 when the recording has no length."""
        return self.take.rate_hz


class RecordingInput(Base):
    """Which channel of the take is which input of the sensor. form: how it comes; see the roles."""

    __tablename__ = "recording_input"

    recording_id: Mapped[int] = mapped_column(
        ForeignKey("recording.id", ondelete="CASCADE"), primary_key=True
    )
    role: Mapped[str] = mapped_column(primary_key=True)
    lane: Mapped[int] = mapped_column(primary_key=True, default=0)
    channel: Mapped[int]
    form: Mapped[str] = mapped_column(default="")


class Mark(Deletable, Base):
    """Something held or noted over a span of a take, s from its start.

    sensor_id: whose calibration it is for; none for a note, or a value of a channel. calibration:
    the kind it is for, and pose: which of its poses. value: known to be true, in `unit`, with its
    standard uncertainty u; none for a note.
    """

    __tablename__ = "mark"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    take_id: Mapped[int] = mapped_column(ForeignKey("take.id"), index=True)
    sensor_id: Mapped[int | None] = mapped_column(ForeignKey("sensor.id"), index=True)
    channel: Mapped[int | None]
    calibration: Mapped[str] = mapped_column(default="")
    pose: Mapped[str] = mapped_column(default="")
    name: Mapped[str]
    start_s: Mapped[float]
    end_s: Mapped[float]
    value: Mapped[float | None]
    u: Mapped[float | None]
    unit: Mapped[str] = mapped_column(default="")
    lane: Mapped[int | None]


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


class Program(Base):
    """A program as it was written for a rig's board. Never changed: the database refuses.

    identity: of its text, as it says itself. kind: listen, convert or rules. columns: what it
    prints: name, header, unit, quantity, sensor_id. basis: what it rests on: the wiring,
    calibrations and rules of then.
    """

    __tablename__ = "program"
    __table_args__ = (
        UniqueConstraint("rig_id", "identity"),
        Index("program_identity", "identity"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"))
    identity: Mapped[str]
    kind: Mapped[str]
    target: Mapped[str]
    text: Mapped[str]
    columns: Mapped[list[Any]]
    basis: Mapped[dict[str, Any]]
    written_at: Mapped[datetime] = mapped_column(default=utc_now)


class BoardRuns(Base):
    """What a rig's board said last that it runs. is_changed: it printed other columns than the
    program of that identity was written with.
    """

    __tablename__ = "board_runs"

    rig_id: Mapped[int] = mapped_column(ForeignKey("rig.id"), primary_key=True)
    kind: Mapped[str]
    identity: Mapped[str]
    is_changed: Mapped[bool] = mapped_column(default=False)
    heard_at: Mapped[datetime] = mapped_column(default=utc_now)
