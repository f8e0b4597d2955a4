"""Every family there is: those that come with Tick Stone, and those people described here."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily
from tickstone.formats.family_file import (
    BOARD_FILES,
    DEVICE_FILES,
    shipped_boards,
    shipped_devices,
)
from tickstone.store.models import OwnFamily


@dataclass(frozen=True, slots=True)
class Catalogue:
    """Families by name. Put away ones are still found by what uses them.

    own, hidden: names of those described here, and of those put away since, as (kind, name).
    """

    boards: Mapping[str, BoardFamily]
    devices: Mapping[str, DeviceFamily]
    own: frozenset[tuple[str, str]]
    hidden: frozenset[tuple[str, str]]

    def offered_boards(self) -> list[BoardFamily]:
        """What a person can choose from, own ones first."""
        return [self.boards[name] for name in self._offered("board", self.boards)]

    def offered_devices(self) -> list[DeviceFamily]:
        """What a person can choose from, own ones first."""
        return [self.devices[name] for name in self._offered("device", self.devices)]

    def _offered(self, kind: str, names: Iterable[str]) -> list[str]:
        shown = [name for name in names if (kind, name) not in self.hidden]
        return sorted(shown, key=lambda name: ((kind, name) not in self.own, name))


def catalogue_of(session: Session) -> Catalogue:
    """The shipped families with the store's own beside them."""
    boards, devices = dict(shipped_boards()), dict(shipped_devices())
    own, hidden = set[tuple[str, str]](), set[tuple[str, str]]()
    for row in session.scalars(select(OwnFamily)):
        if row.kind == "board":
            boards[row.name] = BOARD_FILES.of(row.document)
        else:
            devices[row.name] = DEVICE_FILES.of(row.document)
        own.add((row.kind, row.name))
        if row.deleted_at is not None:
            hidden.add((row.kind, row.name))
    return Catalogue(boards, devices, frozenset(own), frozenset(hidden))
