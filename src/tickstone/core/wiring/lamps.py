"""Every LED of a wiring, in devices and as a part, with its current over all states."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tickstone.core.electric.network import Span
from tickstone.core.families.device_family import Role
from tickstone.core.families.part import PartKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Spot
from tickstone.core.wiring.pieces import Owner, Piece
from tickstone.core.wiring.solved import Island
from tickstone.core.wiring.thread import Thread

LIMITING = ("bead", "part", "inside", "own pull-up")


@dataclass(frozen=True, slots=True)
class Lamp:
    """An LED. amps: least, usual and greatest over all states. feed_v: what there is for it.

    thread: of its anode; other_thread: of its cathode; None for a part. is_wired: both its legs go
    somewhere. is_shorted: both go to the same net.
    """

    name: str
    where: str
    nets: tuple[str, str]
    forward_v: float
    good_a: float
    max_a: float
    source: str
    amps: Span
    feed_v: float
    has_resistor: bool
    is_on_pin: bool
    is_wired: bool
    is_shorted: bool
    spots: tuple[Spot, ...]
    thread: Thread | None = None
    other_thread: Thread | None = None


def lamps_of(circuit: Circuit) -> Iterator[Lamp]:
    """All of them."""
    for device in circuit.wiring.devices:
        threads = circuit.of(device)
        cathodes = [one for one in threads if one.lead.role is Role.CATHODE]
        anodes = [one for one in threads if one.lead.role is Role.ANODE]
        for number, anode in enumerate(anodes):
            emitter = anode.lead.emitter
            if emitter is None or not cathodes:
                continue
            cathode = cathodes[min(number, len(cathodes) - 1)]
            yield _lamp(
                circuit,
                Owner("lamp", device.key, anode.lead.name),
                anode.name,
                anode.where,
                (circuit.nets.of(anode.place), circuit.nets.of(cathode.place)),
                (emitter.forward_v.value, emitter.good_a.value, emitter.max_a.value),
                emitter.max_a.source,
                (anode.spot,),
                (anode, cathode),
            )
    for part in circuit.wiring.parts:
        if part.kind is PartKind.LED and part.forward_v and part.max_a:
            yield _lamp(
                circuit,
                Owner("part", key=part.key),
                part.key,
                part.key,
                (circuit.nets.of(part.ends["anode"]), circuit.nets.of(part.ends["cathode"])),
                (part.forward_v, part.max_a / 2.0, part.max_a),
                part.source or "as stated",
                (Spot(part=part.key),),
                None,
            )


def _lamp(
    circuit: Circuit,
    owner: Owner,
    name: str,
    where: str,
    nets: tuple[str, str],
    figures: tuple[float, float, float],
    source: str,
    spots: tuple[Spot, ...],
    threads: tuple[Thread, Thread] | None,
) -> Lamp:
    found = [
        (island, piece)
        for island, piece in circuit.solved.pieces_of(owner)
        if piece.sort == "diodes"
    ]
    amps, feed, limited = Span(0.0, 0.0, 0.0), 0.0, False
    for island, piece in found:
        amps = _forward(island, piece)
        feed = _feed(island)
        limited = any(
            one.owner.sort in LIMITING and one.sort == "resistors" for one in island.pieces
        )
    return Lamp(
        name,
        where,
        nets,
        *figures,
        source,
        amps,
        feed,
        limited,
        any(
            place in circuit.jobs
            for island, _ in found
            for net in island.free
            for place in circuit.nets.places(net)
        ),
        all(one.connection is not None or one.pin or one.rail or one.supply for one in threads)
        if threads
        else True,
        nets[0] == nets[1],
        spots,
        *(threads or (None, None)),
    )


def _forward(island: Island, piece: Piece) -> Span:
    """Current the right way round: the largest over all states."""
    found = island.currents(piece)
    if found is None:
        return Span(0.0, 0.0, 0.0)
    low, usual, high = found
    return Span(
        max(0.0, float(low.max())), max(0.0, float(usual.max())), max(0.0, float(high.max()))
    )


def _feed(island: Island) -> float:
    """The highest volts anything holds the island at, usual."""
    return max((island.volts_held(net).usual for net in island.held), default=0.0)
