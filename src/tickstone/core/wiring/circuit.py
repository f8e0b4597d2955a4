"""The netlist looked at as a circuit: who feeds whom, what meets on a pin, and which volts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from tickstone.core.electric.ladder import Rung, Source
from tickstone.core.families.board_family import Ability, Pin, Rail, RailKind, Reference
from tickstone.core.families.device_family import Drive, Lead, Role
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.colours import usual_colour
from tickstone.core.wiring.finding import Spot
from tickstone.core.wiring.netlist import END, Connection, Device, Wiring

WIRE_F_PER_M = 60e-12
"""Capacitance of hook-up wire beside others, F/m (from memory: 50 to 100 pF/m)."""
PIN_F = 10e-12
"""Capacitance of a pin, F; UM10204 table 10 allows 10 pF."""


@dataclass(frozen=True, slots=True)
class Thread:
    """A lead with where it goes, if anywhere."""

    device: Device
    lead: Lead
    connection: Connection | None
    pin: Pin | None
    rail: Rail | None

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


class Circuit:
    """Looks things up for the checks. Nothing here judges."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self.board = wiring.board
        self.settings = wiring.settings

    @cached_property
    def threads(self) -> tuple[Thread, ...]:
        """Every lead of every device."""
        ends = {one.end: one for one in self.wiring.connections}
        return tuple(
            self._thread(device, lead, ends.get((device.key, lead.name)))
            for device in self.wiring.devices
            for lead in device.family.leads
        )

    def _thread(self, device: Device, lead: Lead, connection: Connection | None) -> Thread:
        to = connection.to if connection else ""
        return Thread(device, lead, connection, self.board.pin(to), self.board.rail(to))

    def of(self, device: Device) -> tuple[Thread, ...]:
        """The threads of one device."""
        return tuple(one for one in self.threads if one.device.key == device.key)

    def on(self, pin: str) -> tuple[Thread, ...]:
        """The threads that end on a pin."""
        return tuple(one for one in self.threads if one.pin is not None and one.pin.name == pin)

    @cached_property
    def used_pins(self) -> frozenset[str]:
        """Names of the pins anything ends on."""
        return frozenset(one.pin.name for one in self.threads if one.pin is not None)

    def supply_rail(self, device: Device) -> Rail | None:
        """The rail that feeds a device, or None."""
        for thread in self.of(device):
            if thread.lead.role is Role.SUPPLY and thread.rail is not None:
                return thread.rail
        return None

    def rail_volts(self, rail: Rail) -> float:
        """V; for the rail the person feeds, what they said."""
        if rail.kind is RailKind.INPUT and self.settings.vin_v is not None:
            return self.settings.vin_v
        return rail.volts.value

    def rail_tolerance(self, rail: Rail) -> float:
        """As a fraction; what the person states of their own supply counts as it stands."""
        if rail.kind is RailKind.INPUT and self.settings.vin_v is not None:
            return 0.0
        return rail.tolerance

    def supply(self, device: Device) -> Source | None:
        """A device's supply as a stiff source, or None when it has none."""
        rail = self.supply_rail(device)
        if rail is None or rail.kind is RailKind.GROUND:
            return None
        return Source(self.rail_volts(rail), 0.0, self.rail_tolerance(rail))

    @property
    def reference(self) -> Reference | None:
        """The converter's reference in use."""
        if self.board.converter is None:
            return None
        references = self.board.converter.references
        name = self.settings.reference
        return next((one for one in references if one.name == name), references[0])

    @property
    def wired_reference(self) -> Reference | None:
        """The reference in use when it comes by a wire and something is read against it."""
        reference = self.reference
        if reference is None or not reference.rail:
            return None
        return reference if any(self.is_converted(one) for one in self.threads) else None

    def is_converted(self, thread: Thread) -> bool:
        """Whether a lead is read by the converter."""
        return thread.pin is not None and thread.lead.wants is Ability.ANALOGUE

    def rungs(self, thread: Thread, beads: Sequence[Bead] | None = None) -> list[Rung]:
        """The resistors of a thread, seen from the device. beads: instead of its own."""
        rungs = []
        for bead in thread.beads if beads is None else beads:
            if bead.kind is BeadKind.SERIES:
                assert bead.ohm is not None
                rungs.append(Rung(bead.ohm, None, bead.tolerance))
            elif bead.kind is BeadKind.PULL_DOWN:
                assert bead.ohm is not None
                rungs.append(Rung(bead.ohm, 0.0, bead.tolerance))
            elif bead.kind is BeadKind.PULL_UP:
                assert bead.ohm is not None
                rail = self.board.rail(bead.rail) or self.board.logic_rail
                rungs.append(
                    Rung(bead.ohm, self.rail_volts(rail), bead.tolerance, self.rail_tolerance(rail))
                )
            elif bead.kind is BeadKind.PIN_PULL_UP and thread.pin is not None:
                own = self.board.class_of(thread.pin).pull_up_ohm
                if own is not None:
                    rail = self.board.logic_rail
                    rungs.append(
                        Rung(own.value, self.board.logic_v.value, 0.5, self.rail_tolerance(rail))
                    )
        return rungs

    def pull_ups(self, thread: Thread) -> list[Rung]:
        """The resistors that lift an open-drain lead: the module's own, then those on the wire."""
        lifted = [rung for rung in self.rungs(thread) if rung.to_volts]
        own = thread.lead.output.own_pull_up_ohm if thread.lead.output else None
        supply = self.supply(thread.device)
        if own is not None and supply is not None:
            lifted.insert(0, Rung(own.value, supply.volts, 0.05, supply.volts_tolerance))
        return lifted

    def high_source(self, thread: Thread) -> tuple[Source, list[Rung]] | None:
        """What a device's output puts on its wire when high, with what follows; None if unknown."""
        output = thread.lead.output
        supply = self.supply(thread.device)
        if output is None:
            return None
        if output.drive is Drive.OPEN_DRAIN:
            rungs = self.rungs(thread)
            if output.own_pull_up_ohm is not None and supply is not None:
                own = output.own_pull_up_ohm.value
                rungs.insert(0, Rung(own, supply.volts, 0.05, supply.volts_tolerance))
            if not any(rung.to_volts for rung in rungs):
                return None
            return Source(0.0, math.inf), rungs
        if output.high_v is not None:
            return Source(output.high_v.value, 0.0), self.rungs(thread)
        return (supply, self.rungs(thread)) if supply is not None else None

    def colour(self, thread: Thread) -> str:
        """The colour of its wire: the person's, or the usual one."""
        if thread.connection is not None and thread.connection.colour:
            return thread.connection.colour
        signals = [one for one in self.of(thread.device) if one.rail is None]
        place = next((n for n, one in enumerate(signals) if one.lead is thread.lead), 0)
        rail = thread.rail
        is_ground = rail is not None and rail.kind is RailKind.GROUND
        return usual_colour(is_ground, rail is not None and not is_ground, place)

    @property
    def wire_f(self) -> float:
        """Capacitance of one wire with the pin at its end, F."""
        return self.settings.wire_m * WIRE_F_PER_M + PIN_F
