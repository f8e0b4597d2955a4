"""What every request shares: the store, the cache, the lines; and looking rows up."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, TypeVar

from fastapi import Depends, Path, Request
from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker

from tickstone.api.problems import does_not_fit, not_found
from tickstone.core.chains.kind import ChainKind
from tickstone.store.database import MOST_CONNECTIONS
from tickstone.store.models import (
    Deletable,
    Mark,
    Recording,
    Rig,
    Sensor,
    SignOff,
    Take,
)
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.import_desk import ImportDesk
from tickstone.work.live.desk import LineDesk
from tickstone.work.sensing import kind_of

MOST_SESSIONS = MOST_CONNECTIONS // 2
"""The other half is for what goes on beside requests: recording, painting, reading files."""


@dataclass(frozen=True, slots=True)
class Desk:
    """Lives as long as the server."""

    engine: Engine
    make_session: sessionmaker[Session]
    cache: Cache
    imports: ImportDesk
    lines: LineDesk

    def close(self) -> None:
        """Close the lines, stop what is being read, let go of the store."""
        self.lines.close_all()
        self.imports.close()
        self.engine.dispose()


def desk_of(request: Request) -> Desk:
    """The desk of the server that handles this request."""
    desk = request.app.state.desk
    assert isinstance(desk, Desk)
    return desk


def session_of(desk: Annotated[Desk, Depends(desk_of)]) -> Iterator[Session]:
    """A session that is committed when the request went well and rolled back when it did not."""
    with desk.make_session() as session:
        yield session


DeskDep = Annotated[Desk, Depends(desk_of)]
SessionDep = Annotated[
    Session, Depends(session_of, scope="function", max_concurrency=MOST_SESSIONS)
]
"""Given back before the answer is sent: whoever reads it slowly holds no connection.

No more at once than there are connections: a request that has one may have to wait for a thread,
and must never wait for one that waits for a connection. Whatever streams a body takes none.
"""
RowId = Annotated[int, Path(ge=1, le=2**63 - 1)]

Row = TypeVar("Row", bound=Deletable)
# What a person calls them, where that is not the name of the table.
_CALLED: dict[type[Deletable], str] = {Take: "recording", SignOff: "sign-off"}


def find(session: Session, kind: type[Row], row_id: int, deleted: bool = False) -> Row:
    """The row of this kind and number; deleted ones only when asked for."""
    row = session.get(kind, row_id)
    if row is None or (row.deleted_at is not None and not deleted):
        raise not_found(_CALLED.get(kind, kind.__name__.lower()))
    return row


def rig_of(rig_id: RowId, session: SessionDep) -> Rig:
    return find(session, Rig, rig_id)


def sensor_of(sensor_id: RowId, session: SessionDep) -> Sensor:
    return find(session, Sensor, sensor_id)


def catalogue_here(session: SessionDep) -> Catalogue:
    return catalogue_of(session)


CatalogueDep = Annotated[Catalogue, Depends(catalogue_here)]


def chain_kind_of(sensor: Sensor, catalogue: Catalogue) -> ChainKind:
    """What kind of chain a sensor has; a problem when its family has none."""
    kind = kind_of(sensor, catalogue)
    if kind is None:
        label = catalogue.devices[sensor.family].label
        raise does_not_fit(f"Tick Stone has no bench for the {label} here yet")
    return kind


def recording_of(recording_id: RowId, session: SessionDep) -> Recording:
    return find(session, Recording, recording_id)


def take_of(take_id: RowId, session: SessionDep) -> Take:
    return find(session, Take, take_id)


def checked_channel(take: Take, number: int) -> int:
    """The number of a channel of the take; a problem when there are not as many."""
    if number >= len(take.channels):
        raise does_not_fit(f"there are {len(take.channels)} channels", "channel")
    return number


def mark_of(mark_id: RowId, session: SessionDep) -> Mark:
    return find(session, Mark, mark_id)


RigDep = Annotated[Rig, Depends(rig_of)]
SensorDep = Annotated[Sensor, Depends(sensor_of)]
RecordingDep = Annotated[Recording, Depends(recording_of)]
TakeDep = Annotated[Take, Depends(take_of)]
MarkDep = Annotated[Mark, Depends(mark_of)]
