"""What the program will do with each pin, judged by what hangs on it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from enum import StrEnum
from itertools import pairwise

from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Lead, Role
from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.netlist import Device, Wiring, place_of
from tickstone.core.wiring.nets import Nets, strung


class PinJob(StrEnum):
    """LISTENS: an input. DRIVES: an output. BOTH: in turn. BUS: pulls down or lets go.

    FEEDS: an output that something is fed from.
    """

    LISTENS = "listens"
    DRIVES = "drives"
    BOTH = "both"
    BUS = "bus"
    FEEDS = "feeds"


_PASSED = {
    PartKind.RESISTOR: (("a", "b"),),
    PartKind.DIODE: (("anode", "cathode"),),
    PartKind.LED: (("anode", "cathode"),),
    PartKind.MOSFET: (("drain", "source"),),
    PartKind.SWITCH: (("a", "b"),),
    PartKind.POTENTIOMETER: (("a", "wiper"), ("wiper", "b")),
    PartKind.VARYING: (("a", "b"),),
    PartKind.FUSE: (("a", "b"),),
}
"""Between which legs a signal goes on."""
_LISTENED_TO = (Role.OUTPUT, Role.ANALOGUE, Role.BATTERY, Role.COLLECTOR, Role.EMITTER)
_DRIVEN = (Role.INPUT, Role.ANODE, Role.CATHODE)


class Reach:
    """What a signal on a net gets to, through parts but not through supplies and ground."""

    def __init__(self, wiring: Wiring, nets: Nets, held: set[str]) -> None:
        self.nets, self.held = nets, held
        self._next: dict[str, set[str]] = defaultdict(set)
        self._leads: dict[str, list[tuple[Device, Lead]]] = defaultdict(list)
        self._gates: dict[str, list[Part]] = defaultdict(list)
        self._lamps: dict[str, list[Part]] = defaultdict(list)
        self._touched: dict[str, int] = defaultdict(int)
        for one in wiring.connections:
            for _, start, end in strung(one):
                if end:
                    self._path(nets.of(start), nets.of(end))
        for part in wiring.parts:
            self._part(part, {leg: nets.of(place) for leg, place in part.ends.items()})
        for device in wiring.devices:
            self._device(device)

    def _device(self, device: Device) -> None:
        lamps: list[str] = []
        for lead in device.family.leads:
            net = self.nets.of(place_of(device.key, lead.name))
            self._leads[net].append((device, lead))
            if lead.role in (Role.ANODE, Role.CATHODE):
                lamps.append(net)
        for one, other in pairwise(lamps):
            self._path(one, other)
        for part in device.family.inside:
            at = {}
            for leg, end in part.ends.items():
                is_lead = device.family.lead(end) is not None
                at[leg] = (
                    self.nets.of(place_of(device.key, end)) if is_lead else (f"{device.key}/{end}")
                )
            self._part(part, at)

    def _part(self, part: Part, at: dict[str, str]) -> None:
        for net in at.values():
            self._touched[net] += 1
        for one, other in _PASSED.get(part.kind, ()):
            self._path(at[one], at[other])
        if part.kind is PartKind.TRANSISTOR:
            self._gates[at["base"]].append(part)
        elif part.kind is PartKind.MOSFET:
            self._gates[at["gate"]].append(part)
        elif part.kind is PartKind.LED:
            self._lamps[at["anode"]].append(part)
            self._lamps[at["cathode"]].append(part)

    def _path(self, one: str, other: str) -> None:
        self._next[one].add(other)
        self._next[other].add(one)

    def has_part(self, net: str) -> bool:
        """Whether a leg of a part is on a net."""
        return bool(self._next.get(net) or self._gates.get(net) or self._touched.get(net))

    def nets_from(self, net: str) -> Iterator[str]:
        """The net and all that a signal on it gets to."""
        seen, queue = {net}, [net]
        while queue:
            here = queue.pop()
            yield here
            if here in self.held:
                continue
            for other in self._next[here] - seen:
                # A battery is what is measured; what else it feeds is not on this signal.
                if other not in self.held or self._is_measured(other):
                    seen.add(other)
                    queue.append(other)

    def _is_measured(self, net: str) -> bool:
        return any(lead.role is Role.BATTERY for _, lead in self._leads[net])

    def leads_from(self, net: str) -> Iterator[tuple[Device, Lead]]:
        """The leads a signal on a net gets to."""
        for here in self.nets_from(net):
            yield from self._leads[here]

    def job(self, net: str) -> PinJob:
        """The job of a pin on a net."""
        found = [lead for _, lead in self.leads_from(net)]
        roles = {lead.role for lead in found}
        if roles & {Role.SDA, Role.SCL}:
            return PinJob.BUS
        if Role.TWO_WAY in roles:
            return PinJob.BOTH
        if any(lead.role is Role.SUPPLY for _, lead in self._leads[net]):
            return PinJob.FEEDS
        if roles == {Role.SUPPLY}:
            return PinJob.FEEDS
        if roles & {*_LISTENED_TO} or any(_is_read(lead) for lead in found):
            return PinJob.LISTENS
        if roles & {*_DRIVEN} or any(lead.wants is Ability.DIGITAL_OUT for lead in found):
            return PinJob.DRIVES
        nets = tuple(self.nets_from(net))
        if any(self._gates[one] or self._lamps[one] for one in nets):
            return PinJob.DRIVES
        return PinJob.LISTENS


def _is_read(lead: Lead) -> bool:
    return lead.role is Role.LEG and lead.wants in (Ability.DIGITAL_IN, Ability.ANALOGUE)


def pin_jobs(wiring: Wiring, reach: Reach) -> dict[str, PinJob]:
    """The job of every pin that anything is on."""
    found = {}
    for pin in wiring.board.pins:
        net = reach.nets.of(pin.name)
        if len(tuple(reach.nets.places(net))) > 1 or reach.has_part(net):
            found[pin.name] = reach.job(net)
    return found
