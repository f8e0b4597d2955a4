"""A lead with where it goes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tickstone.core.families.board_family import Pin, Rail
from tickstone.core.families.device_family import Lead
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.finding import Spot
from tickstone.core.wiring.netlist import END, Connection, Device, place_of
from tickstone.core.wiring.power_supply import PowerSupply


@dataclass(frozen=True, slots=True)
class Thread:
    """A lead with where it goes, if anywhere.

    pin, rail, supply: what its wire comes to at last, over joints and other leads too.
    """

    device: Device
    lead: Lead
    connection: Connection | None
    pin: Pin | None
    rail: Rail | None
    supply: PowerSupply | None = None
    is_open_on_purpose: bool = False

    @property
    def place(self) -> str:
        """The lead as a place."""
        return place_of(self.device.key, self.lead.name)

    @property
    def end(self) -> END:
        """The lead it starts from."""
        return (self.device.key, self.lead.name)

    @property
    def name(self) -> str:
        """Such as ``Front ranger ECHO``."""
        return f"{self.device.name} {self.lead.name}"

    @property
    def where(self) -> str:
        """Such as ``Front ranger ECHO → D8``."""
        return f"{self.name} → {self.connection.to}" if self.connection else self.name

    @property
    def spot(self) -> Spot:
        """The same as data."""
        return Spot(self.device.key, self.lead.name, self.connection.to if self.connection else "")

    @property
    def beads(self) -> tuple[Bead, ...]:
        """The parts on it."""
        return self.connection.beads if self.connection else ()

    @property
    def series_ohm(self) -> float:
        """All resistors in the wire, Ω."""
        return math.fsum(b.ohm for b in self.beads if b.kind is BeadKind.SERIES and b.ohm)


def names_of(threads: Sequence[Thread]) -> str:
    """Leads of one device as a person names them: ``Strip OUT1, OUT2 and OUT3``."""
    *others, last = [thread.lead.name for thread in threads]
    leads = f"{', '.join(others)} and {last}" if others else last
    return f"{threads[0].device.name} {leads}"
