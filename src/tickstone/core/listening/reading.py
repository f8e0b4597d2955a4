"""How one device is read by a program: what each way of reading has to say to every target."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol

from tickstone.core.families.board_family import BoardFamily, Pin
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Device
from tickstone.core.wiring.program_lines import pin_number
from tickstone.core.wiring.thread import Thread


@dataclass(frozen=True, slots=True)
class PrintedColumn:
    """One value of a line. unit: as the header says it, ASCII. quantity: what it most likely is,
    see `lines.guess`. characters: as many as it takes at most.
    """

    name: str
    unit: str
    quantity: str
    device: str
    characters: int = 6

    @property
    def header(self) -> str:
        """As the header names it.

        >>> PrintedColumn("front", "us", "echo time", "1").header
        'front[us]'
        """
        return f"{self.name}[{self.unit}]" if self.unit else self.name


@dataclass(frozen=True, slots=True)
class PinInUse:
    """A pin of the board. printed: beside it. number: as a program writes it."""

    printed: str
    number: str
    port: str = ""
    is_pulled_up: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One device. label: as the person calls it; name: as the program does. seconds: what one
    reading takes at most.
    """

    way: ClassVar[str]

    device: str
    label: str
    name: str
    columns: tuple[PrintedColumn, ...]
    seconds: float

    @property
    def words(self) -> frozenset[str]:
        """Every name that a target may make of it."""
        names = {self.name, *(column.name for column in self.columns)}
        return frozenset((*names, *(f"{name}_{end}" for name in names for end in ENDINGS)))


ENDINGS = (
    *("us", "count", "counted", "last_us", "gap", "gap_us", "edge", "was_high", "is_high"),
    *("counts", "level", "bytes", "is_set", "is_read", "codes", "is_known", "is_begun"),
    *("begun_ms", "asked_ms", "tenths", "pin", "echo"),
)
"""What targets put behind the name of a device or a column, with an underscore between."""


class CannotReadError(ValueError):
    """Why a device cannot be read, and what would be the next best."""

    def __init__(self, why: str, next_best: str) -> None:
        super().__init__(why)
        self.next_best = next_best


@dataclass(frozen=True, slots=True)
class Part:
    """A device to be read, with all a way of reading looks at.

    parameters: of its chain, by name; those that differ from the usual, or none.
    """

    circuit: Circuit
    device: Device
    name: str
    parameters: Mapping[str, Any]

    @property
    def board(self) -> BoardFamily:
        """The board it is wired to."""
        return self.circuit.board

    @property
    def threads(self) -> tuple[Thread, ...]:
        """Its leads that come to a pin, in order."""
        return tuple(one for one in self.circuit.of(self.device) if one.pin is not None)

    def pin(self, lead: str) -> PinInUse | None:
        """The pin one of its leads comes to."""
        return next((pin_of(one) for one in self.threads if one.lead.name == lead), None)

    def common(self, columns: tuple[PrintedColumn, ...], seconds: float = 0.0) -> dict[str, Any]:
        """What every reading says. seconds: what one takes; as its family says, when 0."""
        cost = self.device.family.reading
        return {
            "device": self.device.key,
            "label": self.device.name,
            "name": self.name,
            "columns": columns,
            "seconds": seconds or (cost.blocking_s.value if cost else 0.0),
        }

    def column(self, suffix: str, unit: str, quantity: str, characters: int = 6) -> PrintedColumn:
        """A column of its own, named after it."""
        name = f"{self.name}_{suffix}" if suffix else self.name
        return PrintedColumn(name, unit, quantity, self.device.key, characters)


class Way(Protocol):
    """One way of reading a device."""

    def reading(self, part: Part) -> Reading | None:
        """How it is read this way; None when it is not. Raises CannotReadError."""
        ...


def pin_of(thread: Thread) -> PinInUse:
    """The pin a lead comes to, as a program uses it."""
    pin = thread.pin
    assert pin is not None
    pulled = any(one.kind is BeadKind.PIN_PULL_UP for one in thread.beads)
    return as_used(pin, is_pulled_up=pulled)


def as_used(pin: Pin, is_pulled_up: bool = False) -> PinInUse:
    """A pin as a program uses it."""
    return PinInUse(pin.name, pin_number(pin.name), pin.port, is_pulled_up)
