"""Sources against each other, common ground, and headroom: before anything hangs on them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.families.device_family import Role
from tickstone.core.families.part import PartKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, Spot, WiringFinding, offered
from tickstone.core.wiring.solved import Island

SOURCE = "common practice"


def no_common_ground(circuit: Circuit) -> Iterator[WiringFinding]:
    """A supply whose minus is not the board's ground, with signals between what both feed."""
    for supply in circuit.wiring.supplies:
        nets = circuit.nets_as_wired
        net = nets.of(supply.minus)
        if net == nets.of(nets.ground):
            continue
        on_it = [
            thread
            for thread in circuit.threads
            if thread.lead.role is Role.GROUND and nets.of(thread.place) == net
        ]
        devices = {thread.device.key for thread in on_it}
        feeds = [
            thread
            for thread in circuit.threads
            if thread.lead.role is Role.SUPPLY
            and circuit.nets.of(thread.place) == circuit.nets.of(supply.plus)
        ]
        devices |= {thread.device.key for thread in feeds}
        crossing = [
            thread
            for thread in circuit.threads
            if thread.device.key in devices and thread.pin is not None
        ]
        if not crossing and not circuit.feeds_board(supply):
            continue
        names = sorted({thread.device.name for thread in crossing}) or [circuit.board.label]
        yield WiringFinding(
            "no-common-ground",
            Happens.FAILS,
            supply.words,
            f"The minus of {supply.words} is not joined to the board’s ground; "
            f"{', '.join(names)} and the board have no common ground.",
            "A signal is volts between two points. With two grounds nobody knows what its volts "
            "are, and the return current looks for a way through signal leads.",
            SOURCE,
            (Spot(part=supply.key), *(thread.spot for thread in crossing[:1])),
            repairs=(
                Repair(
                    f"Join the minus of {supply.words} to the board’s ground.",
                    supplies=(replace(supply, has_common_ground=True),),
                ),
            ),
        )


def two_sources(circuit: Circuit) -> Iterator[WiringFinding]:
    """Two sources that hold one net: current runs from one into the other."""
    for names, volts in circuit.origins.clashes.values():
        apart = volts.high - volts.low
        yield WiringFinding(
            "two-sources",
            Happens.DESTROYS if apart > 0.15 * volts.high else Happens.LUCK,
            " and ".join(names),
            f"{' and '.join(names)} are joined: {prefixed(volts.low, 'V')} to "
            f"{prefixed(volts.high, 'V')} on one wire.",
            "The one with more volts drives its current into the other; a regulator, a USB port or "
            "a cell is not made to take it.",
            SOURCE,
            tuple(Spot(part=name) for name in names),
            (Number("lowest", volts.low, "V"), Number("highest", volts.high, "V")),
            (),
            "a diode in the wire of the weaker one, or a switch so that only one is on",
        )


def shorted_source(circuit: Circuit) -> Iterator[WiringFinding]:
    """A source whose two ends are one net."""
    for name in circuit.origins.shorted:
        yield WiringFinding(
            "shorted-source",
            Happens.DESTROYS,
            name,
            f"{name} is joined to ground: a short circuit.",
            "All the current it can give runs through the wire: the wire glows, a cell may burst.",
            SOURCE,
            (Spot(part=name),),
        )


def headroom(circuit: Circuit) -> Iterator[WiringFinding]:
    """A linear regulator whose input is too near its output."""
    for name, (feed, wanted, volts) in circuit.origins.starved.items():
        is_always = feed.usual < wanted
        yield WiringFinding(
            "no-headroom",
            Happens.FAILS if is_always else Happens.LUCK,
            name,
            f"The regulator of {name} gets {prefixed(feed.low, 'V')} to "
            f"{prefixed(feed.high, 'V')}; it wants {prefixed(wanted, 'V')}, so that {name} falls "
            f"to {prefixed(volts, 'V')}.",
            "A linear regulator needs its input some volts above its output; under that its output "
            "follows the battery down, and what hangs on it resets or misreads.",
            "common practice: 1.2 to 2 V for old types, 0.3 V for low-drop ones",
            (Spot(part=name),),
            (
                Number("input at least", feed.low, "V"),
                Number("input wanted", wanted, "V"),
                Number("output at least", volts, "V"),
            ),
            (),
            "one cell more, a low-drop regulator, or one that steps up",
        )


def both_on_one_net(circuit: Circuit) -> Iterator[WiringFinding]:
    """Both legs of a two-legged thing on one net: it does nothing there."""
    for device in circuit.wiring.devices:
        legs = [
            thread
            for thread in circuit.of(device)
            if thread.lead.role in (Role.ANODE, Role.CATHODE, Role.LEG)
            and (thread.connection is not None or thread.pin or thread.rail)
        ]
        nets = {circuit.nets.of(thread.place) for thread in legs}
        bridged = len(legs) > 1 and len(nets) == 1 and len(circuit.of(device)) == len(legs)
        if not bridged:
            continue
        yield WiringFinding(
            "both-on-one-net",
            Happens.FAILS,
            device.name,
            f"Both legs of {device.name} come to the same point: it does nothing there.",
            "No current goes through what has the same volts on both sides.",
            SOURCE,
            tuple(thread.spot for thread in legs),
        )
    for part in circuit.wiring.parts:
        nets = {circuit.nets.of(place) for place in part.ends.values()}
        if part.kind is not PartKind.WIRE and len(nets) == 1:
            yield WiringFinding(
                "both-on-one-net",
                Happens.FAILS,
                part.key,
                f"All legs of {part.key}, {part.words}, come to the same point: it does nothing "
                "there.",
                "No current goes through what has the same volts on both sides.",
                SOURCE,
                (Spot(part=part.key),),
                repairs=offered(
                    Repair(f"Take {part.key} off.", parts_removed=(part.key,)),
                ),
            )
    for thread in circuit.threads:
        point = circuit.nets.of(thread.place)
        end = circuit.nets.of(thread.connection.to) if thread.connection else ""
        if thread.series_ohm and point == end:
            yield WiringFinding(
                "both-on-one-net",
                Happens.FAILS,
                thread.where,
                f"Another wire goes around the resistor of {thread.name}: it does nothing there.",
                "No current goes through what has the same volts on both sides.",
                SOURCE,
                (thread.spot,),
            )


def unsolved(circuit: Circuit) -> Iterator[WiringFinding]:
    """Where the arithmetic found no answer: said, because nothing found would be a claim."""
    for island in circuit.solved.islands:
        if island.is_solved and not island.leaves_pairs_out:
            continue
        if island.is_solved:
            yield _in_part(circuit, island)
            continue
        names = sorted({circuit.name_of(piece.owner) for piece in island.pieces})
        yield WiringFinding(
            "not-worked-out",
            Happens.LUCK,
            ", ".join(names[:3]),
            f"The volts around {', '.join(names[:3])} could not be worked out, so nothing was "
            "checked there.",
            "The parts there work against each other in a way that has no one answer. Look at it "
            "again by hand before power.",
            "no convergence of the circuit’s equations",
            tuple(
                Spot(piece.owner.device, piece.owner.lead, piece.owner.pin, piece.owner.key)
                for piece in island.pieces[:1]
            ),
        )


def _in_part(circuit: Circuit, island: Island) -> WiringFinding:
    """A net so many drive that not every two of them were looked at together."""
    drivers = [island.driver(place).owner for place in range(len(island.drivers))]
    names = sorted({circuit.name_of(owner) for owner in drivers})
    return WiringFinding(
        "worked-out-in-part",
        Happens.LUCK,
        ", ".join(names[:3]),
        f"{len(names)} outputs and pins meet around {', '.join(names[:3])}: each was looked at "
        "alone, but not every two of them together.",
        "What two of them do to each other there is not known. Part the nets, or look at them by "
        "hand before power.",
        "the number of states looked at is limited",
        (Spot(drivers[0].device, drivers[0].lead, drivers[0].pin, drivers[0].key),),
    )
