"""What was recorded: takes in chunks and columns, their sensors' shares, marks on them."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import ForeignKey, ForeignKeyConstraint, Identity
from sqlalchemy.ext.associationproxy import AssociationProxy, association_proxy
from sqlalchemy.orm import Mapped, mapped_column, relationship

from tickstone.core.air.conditions import AirConditions
from tickstone.store.models.base import AirColumns, Base, Deletable, utc_now

if TYPE_CHECKING:
    from tickstone.store.models.rigs import Rig, Sensor


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
