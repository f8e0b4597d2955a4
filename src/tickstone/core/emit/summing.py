"""A sensor's chain put behind what a program reads: which value goes where, and what is told."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.emit.routine import Routine
from tickstone.core.emit.whole.routine import WholeRoutine
from tickstone.core.listening.reading import PrintedColumn

_ASCII_UNITS = {"°": "deg", "°C": "degC", "m/s²": "m/s2", "rad/s": "rad/s", "Ω": "ohm"}


@dataclass(frozen=True, slots=True)
class Fed:
    """One input of a routine: the column of a device it comes from, and what it is multiplied by
    to be in the chain's own unit. column: None where nothing feeds it.
    """

    column: str | None
    scale: float = 1.0


@dataclass(frozen=True, slots=True)
class Summing:
    """A routine with what feeds it, in the order of its entries. whole: the same routine without
    floating point, where that is wanted and can be; then it is that one which is written.
    """

    device: str
    label: str
    routine: Routine
    fed: tuple[Fed, ...]
    whole: WholeRoutine | None = None

    @property
    def written(self) -> Routine:
        """The one that goes to the board."""
        return self.routine if self.whole is None else self.whole.routine

    def columns(self) -> tuple[PrintedColumn, ...]:
        """What it tells, as columns of a line, in the order of what the routine tells."""
        found = []
        for told in self.routine.told:
            unit = _ASCII_UNITS.get(told.quantity.unit, told.quantity.unit)
            for name, lane in zip(told.values, told.quantity.lanes, strict=True):
                column = f"{self.routine.name}_{name}"
                if lane.isascii() and lane.isalnum() and len(told.values) > 1:
                    column = f"{self.routine.name}_{told.name}_{lane}".replace("-", "_")
                found.append(
                    PrintedColumn(
                        column, unit if unit.isascii() else "", told.quantity.name, self.device, 12
                    )
                )
        return tuple(found)
