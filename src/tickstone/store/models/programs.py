"""What was written for a board, and what the board said it runs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Identity, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from tickstone.store.models.base import Base, utc_now


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
