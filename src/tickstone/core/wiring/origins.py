"""What holds which net at which volts: the board's rails, the person's supplies, batteries."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from tickstone.core.electric.network import Span, exact, within
from tickstone.core.families.board_family import Rail, RailKind
from tickstone.core.families.device_family import Role
from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.netlist import Device, Wiring, place_of
from tickstone.core.wiring.nets import Nets
from tickstone.core.wiring.pieces import Origin
from tickstone.core.wiring.power_supply import PowerSupply

USUAL_DROPOUT_V = 1.5
"""What an old-style linear regulator wants above its output (from memory: 1.2 to 2 V)."""
REGULATOR_TOLERANCE = 0.04
"""Of a linear regulator's output (from memory)."""
EMPTY_SHARE = 0.6
"""A battery below this share of its full volts is flat, or not there (our choice)."""
OFF = exact(0.0)


class Clash(NamedTuple):
    """Sources that hold one net, by name, and from which to which volts."""

    names: tuple[str, ...]
    volts: Span


class Starved(NamedTuple):
    """A linear regulator without headroom: its input, the volts that wants, and what it gives."""

    feed: Span
    wanted_v: float
    gives_v: float


@dataclass(slots=True)
class Origins:
    """by_net: what holds each net. clashes: nets that two sources hold; all else
    is looked at with the volts of the first of them.

    shorted: sources whose two ends are one net. starved: rails and regulators whose input is too
    low for them.
    """

    by_net: dict[str, Origin] = field(default_factory=dict)
    clashes: dict[str, Clash] = field(default_factory=dict)
    shorted: list[str] = field(default_factory=list)
    starved: dict[str, Starved] = field(default_factory=dict)

    def add(self, net: str, ground: str, origin: Origin) -> None:
        """One more source on a net."""
        if net == ground:
            self.shorted.append(origin.name)
            return
        before = self.by_net.get(net)
        if before is None:
            self.by_net[net] = origin
            return
        clash = self.clashes.get(net, Clash((before.name,), before.volts))
        low = min(clash.volts.low, origin.volts.low)
        high = max(clash.volts.high, origin.volts.high)
        volts = Span(low, before.volts.usual, high)
        self.clashes[net] = Clash((*clash.names, origin.name), volts)


def origins_of(wiring: Wiring, nets: Nets, off: frozenset[str] = frozenset()) -> Origins:
    """All sources. off: `board`, and keys of supplies, that are switched off: they hold 0 V.

    What hangs on a rail that is off holds it near ground; at 0 V the most flows into it.
    """
    found = Origins()
    ground = nets.of(nets.ground)
    regulated = {
        nets.of(rail.name) for rail in wiring.board.rails if rail.kind is RailKind.REGULATED
    }
    later = []
    for supply in wiring.supplies:
        volts = OFF if supply.key in off else _sagged(wiring, nets, supply)
        one = Origin(supply.words, volts, supply.limit_a, supply.inner)
        if nets.of(supply.plus) in regulated:
            later.append((nets.of(supply.plus), one))
        else:
            found.add(nets.of(supply.plus), ground, one)
    for rail in _by_feeding(wiring):
        net = nets.of(rail.name)
        if rail.kind is RailKind.GROUND or (rail.kind is RailKind.INPUT and net in found.by_net):
            continue
        volts = OFF if "board" in off else _rail_volts(wiring, nets, rail, found)
        limit = rail.limit_a.value if rail.limit_a else None
        found.add(net, ground, Origin(rail.name, volts, limit))
    for net, one in later:
        found.add(net, ground, one)
    for device in wiring.devices:
        _battery(device, nets, ground, found)
    for part in wiring.parts:
        if part.kind is PartKind.REGULATOR:
            _regulator(part, nets, ground, found)
    return found


def is_fed_by_person(wiring: Wiring, nets: Nets, rail: Rail) -> bool:
    """Whether the person says what feeds a rail: a supply on it, or its volts."""
    if rail.kind is not RailKind.INPUT:
        return False
    net = nets.of(rail.name)
    return wiring.settings.vin_v is not None or any(
        nets.of(one.plus) == net for one in wiring.supplies
    )


def _by_feeding(wiring: Wiring) -> list[Rail]:
    """Rails, each after the one it is fed from."""
    rails = list(wiring.board.rails)

    def depth(rail: Rail) -> int:
        steps, here = 0, rail
        while here.fed_from and steps < len(rails):
            above = wiring.board.rail(here.fed_from)
            if above is None:
                break
            steps, here = steps + 1, above
        return steps

    return sorted(rails, key=depth)


def _rail_volts(wiring: Wiring, nets: Nets, rail: Rail, found: Origins) -> Span:
    if rail.kind is RailKind.INPUT and wiring.settings.vin_v is not None:
        return exact(wiring.settings.vin_v)
    volts = within(rail.volts.value, rail.tolerance)
    above = wiring.board.rail(rail.fed_from) if rail.fed_from else None
    if above is None or rail.dropout_v is None:
        return volts
    feed = found.by_net.get(nets.of(above.name))
    if feed is None or not (is_fed_by_person(wiring, nets, above) or above.fed_from):
        return volts
    if is_beside(feed.volts, rail):
        return volts
    return _through(rail.name, volts, feed.volts, rail.dropout_v.value, found)


def is_beside(feed: Span, rail: Rail) -> bool:
    """Whether what is said to feed a rail's regulator is just the volts that it gives.

    Then it is no input: people bring such a supply in beside the one that feeds the board.
    """
    return feed.low == feed.high and abs(feed.usual - rail.volts.value) <= 0.01 * rail.volts.value


def _through(name: str, volts: Span, feed: Span, dropout: float, found: Origins) -> Span:
    """What a linear regulator gives: its own volts; that its input is too low is told once.

    All that hangs on it is looked at as if it were mended.
    """
    if feed.low < volts.low + dropout - 1e-9:
        found.starved[name] = Starved(feed, volts.low + dropout, max(0.0, feed.low - dropout))
    return volts


def _sagged(wiring: Wiring, nets: Nets, supply: PowerSupply) -> Span:
    """A supply's volts, less what its inner resistance takes of the currents drawn from it."""
    net = nets.of(supply.plus)
    usual = 0.0
    for device in wiring.devices:
        for lead in device.family.leads:
            wants = device.family.supply_of(lead)
            if lead.role is not Role.SUPPLY or wants is None:
                continue
            if nets.of(place_of(device.key, lead.name)) == net:
                usual += wants.typical_a.value
    sag = supply.inner * usual
    low, middle, high = supply.volts
    return Span(max(0.0, low - sag), max(0.0, middle - sag), high)


def _battery(device: Device, nets: Nets, ground: str, found: Origins) -> None:
    """A battery that is measured, where its volts are said and nothing else holds its net."""
    full = device.full_charge_v
    for lead in device.family.leads:
        net = nets.of(place_of(device.key, lead.name))
        if lead.role is not Role.BATTERY or full is None or net in found.by_net or net == ground:
            continue
        volts = Span(EMPTY_SHARE * full, full, full)
        found.by_net[net] = Origin(device.name, volts, None, 0.1)


def _regulator(part: Part, nets: Nets, ground: str, found: Origins) -> None:
    feed = found.by_net.get(nets.of(part.ends["in"]))
    assert part.output_v is not None
    volts = within(part.output_v, REGULATOR_TOLERANCE)
    if feed is None or feed.volts.high == 0.0:
        volts = OFF
    else:
        dropout = USUAL_DROPOUT_V if part.dropout_v is None else part.dropout_v
        volts = _through(part.key, volts, feed.volts, dropout, found)
    found.add(nets.of(part.ends["out"]), ground, Origin(part.key, volts, part.max_a))
