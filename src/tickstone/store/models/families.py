"""Boards and devices that somebody here described."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import Identity, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from tickstone.store.models.base import Base, Deletable, utc_now


class OwnFamily(Deletable, Base):
    """A family of boards or devices that somebody here described. kind: board or device."""

    __tablename__ = "own_family"
    __table_args__ = (UniqueConstraint("kind", "name"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str]
    name: Mapped[str]
    document: Mapped[dict[str, Any]]
    at: Mapped[datetime] = mapped_column(default=utc_now)
