"""Pieces between nets, and which net is whose ground, feed and logic supply."""

from __future__ import annotations

from dataclasses import dataclass, field

from tickstone.core.electric.network import Junction, Span, exact
from tickstone.core.families.device_family import Lead, Role
from tickstone.core.wiring.netlist import Device, Wiring, place_of
from tickstone.core.wiring.nets import Nets
from tickstone.core.wiring.pieces import Capacitance, Driver, Origin, Owner, Piece

CLAMP = Junction(0.7, 0.005, 1.0, 10.0)
"""The protection between a pin and its supply: 0.7 V at 5 mA (from memory)."""


@dataclass(slots=True)
class Model:
    """Everything there is to solve: pieces between nets, what drives them, what holds them.

    origins: what holds a net at its volts. unpowered: devices nobody feeds. clamps: protection that
    leads only when volts leave their span. has_part: nets that a part on a wire or on the bench
    leads on from.
    """

    wiring: Wiring
    nets: Nets
    origins: dict[str, Origin]
    unpowered: frozenset[str] = frozenset()
    is_board_off: bool = False
    pieces: list[Piece] = field(default_factory=list)
    clamps: list[Piece] = field(default_factory=list)
    drivers: list[Driver] = field(default_factory=list)
    capacitances: list[Capacitance] = field(default_factory=list)
    has_part: frozenset[str] = frozenset()
    _pins: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        self._pins = frozenset(pin.name for pin in self.wiring.board.pins)

    @property
    def ground(self) -> str:
        """The net everything is measured against."""
        return self.nets.of(self.nets.ground)

    def net(self, device: Device, lead: Lead) -> str:
        """The net of a lead."""
        return self.nets.of(place_of(device.key, lead.name))

    def ground_of(self, device: Device) -> str:
        """The net a device has for its ground; the common one where it has none that will do.

        What is wrong with its ground is told once, by its own check; all else is looked at as if it
        were mended.
        """
        for lead in device.family.leads:
            if lead.role is Role.GROUND:
                net = self.net(device, lead)
                places = tuple(self.nets.places(net))
                is_board = not self._pins.isdisjoint(places)
                if (
                    net in self.origins
                    or is_board
                    or (len(places) < 2 and net not in self.has_part)
                ):
                    return self.ground
                return net
        return self.ground

    def feed_of(self, device: Device, lead: Lead | None = None) -> str | None:
        """The net a device is fed from; None when it is off, or wants no feed.

        One that nobody feeds is looked at as if it were fed as its family wants: what is wrong with
        its supply is told once, by its own check.
        """
        if device.key in self.unpowered:
            return None
        for one in (lead,) if lead else device.family.leads:
            if one.role is Role.SUPPLY:
                return self.fed_net(device, one) or self._as_it_wants(device, one)
        return None

    def fed_net(self, device: Device, lead: Lead) -> str | None:
        """The net a supply lead is on, where anything feeds it there."""
        net = self.net(device, lead)
        if net == self.ground:
            return None
        if net in self.origins or len(tuple(self.nets.places(net))) > 1:
            return net
        return net if net in self.has_part else None

    def _as_it_wants(self, device: Device, lead: Lead) -> str:
        """A net with volts that suit a device: the logic supply's, or those nearest within."""
        wants = device.family.supply_of(lead)
        logic = self.logic()
        if wants is None or self.is_board_off or logic not in self.origins:
            return logic
        volts = self.origins[logic].volts
        if wants.min_v.value <= volts.usual <= wants.max_v.value:
            return logic
        middle = min(max(volts.usual, wants.min_v.value), wants.max_v.value)
        return self.held(f"{device.key} as it wants", exact(middle))

    def logic(self) -> str:
        """The net of the board's logic supply."""
        return self.nets.of(self.wiring.board.logic_rail.name)

    def held(self, name: str, volts: Span) -> str:
        """A net of its own that is held at given volts."""
        net = f"={name}:{volts.low:.9g}:{volts.usual:.9g}:{volts.high:.9g}"
        self.origins.setdefault(net, Origin(name, volts))
        return net

    def resistor(self, a: str, b: str, ohm: Span, owner: Owner, **when: int) -> None:
        """A resistance between two nets, there always or `when` a driver is in a position."""
        if a != b:
            self.pieces.append(Piece("resistors", (a, b), ohm, owner, (), **when))

    def diode(self, junction: Junction, anode: str, cathode: str, owner: Owner) -> None:
        """What leads one way only."""
        if anode != cathode:
            one = junction.between(0, 1)
            rest = (one.emission, one.ohm)
            self.pieces.append(Piece("diodes", (anode, cathode), one.saturation_a, owner, rest))

    def drive(self, driver: Driver) -> int:
        """Something that is in one of some positions; its number."""
        self.drivers.append(driver)
        return len(self.drivers) - 1

    def clamp(self, anode: str, cathode: str, owner: Owner) -> None:
        """Protection from a net to another."""
        if anode != cathode:
            one = CLAMP.between(0, 1)
            rest = (one.emission, one.ohm)
            self.clamps.append(Piece("diodes", (anode, cathode), one.saturation_a, owner, rest))
