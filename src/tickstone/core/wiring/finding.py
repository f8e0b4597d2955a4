"""What a check of the wiring found, and the change that would mend it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from tickstone.core.wiring.netlist import END, Connection, Settings, Wiring


@dataclass(frozen=True, slots=True)
class Number:
    """A number a finding rests on, in SI."""

    name: str
    value: float
    unit: str


@dataclass(frozen=True, slots=True)
class Spot:
    """A place in the wiring; the lead or the device may be open."""

    device: str = ""
    lead: str = ""
    pin: str = ""


@dataclass(frozen=True, slots=True)
class Repair:
    """A change. text: what to do, in the imperative.

    connections: leads that get another place or other parts. removed: leads that come off.
    settings, addresses: what else changes.
    """

    text: str
    connections: tuple[Connection, ...] = ()
    removed: tuple[END, ...] = ()
    settings: Settings | None = None
    addresses: tuple[tuple[str, int], ...] = ()

    def applied(self, wiring: Wiring) -> Wiring:
        """The wiring after the repair; what the person measured no longer holds."""
        new = wiring.with_connections(self.connections, self.removed)
        addresses = dict(self.addresses)
        devices = tuple(
            replace(device, address=addresses[device.key]) if device.key in addresses else device
            for device in new.devices
        )
        return replace(new, devices=devices, settings=self.settings or new.settings, measured={})


@dataclass(frozen=True, slots=True)
class WiringFinding:
    """id: of the check. severity: error, warning or note. where: in words; spots: the same as data.

    message: one sentence. why: one or two more. source: what the limit rests on.
    """

    id: str
    severity: str
    where: str
    message: str
    why: str
    source: str
    spots: tuple[Spot, ...] = ()
    numbers: tuple[Number, ...] = ()
    repair: Repair | None = None

    @property
    def key(self) -> str:
        """The same for the same trouble in the same place."""
        places = (f"{spot.device}.{spot.lead}.{spot.pin}" for spot in self.spots)
        return "@".join((self.id, *places))

    @property
    def is_gap(self) -> bool:
        """Whether it is about leads that go nowhere yet, and not about wires there are."""
        return bool(self.spots) and all(spot.lead and not spot.pin for spot in self.spots)
