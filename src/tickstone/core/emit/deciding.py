"""Rules and controllers put behind the chains of a program: what feeds each, and what is told."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.emit.routine import Routine
from tickstone.core.listening.reading import PrintedColumn
from tickstone.core.machines.machine import Machine

_CHARACTERS = 9


@dataclass(frozen=True, slots=True)
class FromSum:
    """What a chain told: the name of its routine, and of the value and status that it keeps."""

    routine: str
    value: str
    status: str


@dataclass(frozen=True, slots=True)
class Deciding:
    """A routine with what feeds its entries, in their order: what a chain tells, or a number that
    stands in the program.

    slot: which decision of the rig it is. label: what it is called there. machine: of rules; a
    controller has none.
    """

    slot: str
    label: str
    routine: Routine
    fed: tuple[FromSum | float, ...]
    machine: Machine | None = None

    @property
    def column(self) -> PrintedColumn:
        """The first that it tells, as a column of a line."""
        told = self.routine.told[0]
        name = f"{self.routine.name}_{told.name}"
        return PrintedColumn(name, "", told.quantity.name, "", _CHARACTERS)

    @property
    def wanted(self) -> float | None:
        """What it is to hold, where that stands in the program."""
        return next((one for one in self.fed if isinstance(one, float)), None)
