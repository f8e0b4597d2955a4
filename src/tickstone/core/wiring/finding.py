"""What a check of the wiring found, and the changes that would mend it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from tickstone.core.families.part import Part
from tickstone.core.wiring.netlist import END, Connection, Settings, Wiring
from tickstone.core.wiring.power_supply import PowerSupply


class Happens(StrEnum):
    """What happens if it stays so, the worst first."""

    DESTROYS = "destroys"
    FAILS = "will not work"
    LUCK = "works by luck"
    BETTER = "could be better"

    @property
    def severity(self) -> str:
        """The word all findings have for it.

        >>> Happens.DESTROYS.severity, Happens.LUCK.severity
        ('error', 'warning')
        """
        return _SEVERITY[self]

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return list(Happens).index(self)


_SEVERITY = {
    Happens.DESTROYS: "error",
    Happens.FAILS: "error",
    Happens.LUCK: "warning",
    Happens.BETTER: "note",
}


@dataclass(frozen=True, slots=True)
class Number:
    """A number a finding rests on, in SI."""

    name: str
    value: float
    unit: str


@dataclass(frozen=True, slots=True)
class Spot:
    """A place in the wiring; any of it may be open. part: the key of a part or a supply."""

    device: str = ""
    lead: str = ""
    pin: str = ""
    part: str = ""

    @property
    def words(self) -> str:
        """Short and always the same."""
        return ".".join((self.device, self.lead, self.pin, *([self.part] if self.part else [])))


@dataclass(frozen=True, slots=True)
class Repair:
    """A change. text: what to do, in the imperative.

    connections: leads that get another place or other parts. removed: leads that come off.
    settings, addresses, parts, supplies: what else changes or is new; parts_removed: by key.
    """

    text: str
    connections: tuple[Connection, ...] = ()
    removed: tuple[END, ...] = ()
    settings: Settings | None = None
    addresses: tuple[tuple[str, int], ...] = ()
    parts: tuple[Part, ...] = ()
    parts_removed: tuple[str, ...] = ()
    supplies: tuple[PowerSupply, ...] = ()

    def then(self, other: Repair) -> Repair:
        """Both, one after the other, as one."""
        placed = {one.end: one for one in (*self.connections, *other.connections)}
        off = {*self.removed} - {*placed} | {*other.removed} - {
            one.end for one in other.connections
        }
        parts = {one.key: one for one in (*self.parts, *other.parts)}
        gone = {*self.parts_removed} - {one.key for one in other.parts} | {*other.parts_removed}
        supplies = {one.key: one for one in (*self.supplies, *other.supplies)}
        return Repair(
            f"{self.text} {other.text}",
            tuple(one for end, one in placed.items() if end not in off),
            tuple(sorted(off)),
            other.settings or self.settings,
            tuple({**dict(self.addresses), **dict(other.addresses)}.items()),
            tuple(one for key, one in parts.items() if key not in gone),
            tuple(sorted(gone)),
            tuple(supplies.values()),
        )

    def applied(self, wiring: Wiring) -> Wiring:
        """The wiring after the repair; what the person measured no longer holds."""
        new = wiring.with_connections(self.connections, self.removed)
        addresses = dict(self.addresses)
        devices = tuple(
            replace(device, address=addresses[device.key]) if device.key in addresses else device
            for device in new.devices
        )
        changed = {part.key: part for part in self.parts}
        parts = [
            changed.pop(one.key, one) for one in new.parts if one.key not in self.parts_removed
        ]
        fed = {one.key: one for one in self.supplies}
        return replace(
            new,
            devices=devices,
            settings=self.settings or new.settings,
            measured={},
            parts=(*parts, *changed.values()),
            supplies=tuple(fed.get(one.key, one) for one in new.supplies),
        )


@dataclass(frozen=True, slots=True)
class WiringFinding:
    """id: of the check. where: in words; spots: the same as data.

    message: one sentence. why: one or two more. source: what the limit rests on. repairs: what one
    press each would do, the best first. buy: what to get where no press mends it.
    """

    id: str
    happens: Happens
    where: str
    message: str
    why: str
    source: str
    spots: tuple[Spot, ...] = ()
    numbers: tuple[Number, ...] = ()
    repairs: tuple[Repair, ...] = ()
    buy: str = ""

    @property
    def severity(self) -> str:
        """error, warning or note."""
        return self.happens.severity

    @property
    def repair(self) -> Repair | None:
        """The best change, or None."""
        return self.repairs[0] if self.repairs else None

    @property
    def key(self) -> str:
        """The same for the same trouble in the same place."""
        return "@".join((self.id, *(spot.words for spot in self.spots)))

    @property
    def places(self) -> frozenset[tuple[str, str, str]]:
        """The leads, parts and supplies it is about; pins, where it is about nothing else."""
        found = frozenset((spot.device, spot.lead, spot.part) for spot in self.spots)
        pins = frozenset(("pin", spot.pin, "") for spot in self.spots)
        return found - {("", "", "")} or pins

    def is_same(self, other: WiringFinding) -> bool:
        """Whether both are the same trouble of a lead or part, wherever that goes now."""
        return self.id == other.id and bool(self.places & other.places)

    @property
    def is_gap(self) -> bool:
        """Whether it is about leads that go nowhere yet, and not about wires there are."""
        return bool(self.spots) and all(spot.lead and not spot.pin for spot in self.spots)


def offered(*repairs: Repair | None) -> tuple[Repair, ...]:
    """Those repairs that there are.

    >>> [one.text for one in offered(None, Repair("Do it."), None)]
    ['Do it.']
    """
    return tuple(one for one in repairs if one is not None)
