"""The lines of the I²C bus: who is on each, what lifts it, and its capacitance."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.electric.pull_up import parallel
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.controllers import BUS_ROLES
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.pin_look import PinLook
from tickstone.core.wiring.solved import FLOATING_OHM
from tickstone.core.wiring.thread import Thread


@dataclass(frozen=True, slots=True)
class BusLine:
    """One of the two lines: its pin, who is on it, what lifts it, and its capacitance.

    own_ohm, added_ohm: pull-ups of the modules, and those somebody put there. ohm: all of them
    together as the pin sees them; infinite where nothing lifts it.
    """

    look: PinLook
    threads: tuple[Thread, ...]
    own_ohm: tuple[float, ...]
    added_ohm: tuple[float, ...]
    ohm: float
    volts: float
    capacitance_f: float


def bus_lines(circuit: Circuit) -> tuple[BusLine, ...]:
    """Every pin I²C leads end on."""
    return tuple(
        _line(circuit, look)
        for look in circuit.pin_looks
        if look.job is PinJob.BUS
        and look.point.island is not None
        and any(one.lead.role in BUS_ROLES for one in look.threads)
    )


def _line(circuit: Circuit, look: PinLook) -> BusLine:
    island = look.point.island
    assert island is not None
    threads = tuple(one for one in look.threads if one.lead.role in BUS_ROLES)
    own, added = [], []
    for piece in island.pieces:
        if piece.sort != "resistors" or piece.driver >= 0:
            continue
        lifts = [
            net for net in piece.nets if net in island.held and island.volts_held(net).high > 0
        ]
        if not lifts:
            continue
        if piece.owner.sort == "own pull-up" or piece.owner.sort == "inside":
            own.append(piece.span.usual)
        elif piece.owner.sort in ("bead", "part"):
            added.append(piece.span.usual)
    rest = island.rest_state
    behind = look.point.behind_ohm(rest)
    volts = look.point.volts(rest).usual
    return BusLine(
        look,
        threads,
        tuple(own),
        tuple(added),
        behind if behind < FLOATING_OHM else parallel((*own, *added)),
        volts if own or added else circuit.board.logic_v.value,
        circuit.solved.capacitance_f(look.point),
    )


def address_of(circuit: Circuit, thread: Thread) -> tuple[int, bool]:
    """The address a device answers to, and whether a wire says so.

    A wired address lead decides; left open, what the person says of the device counts.
    """
    bus = thread.device.family.i2c
    assert bus is not None
    typed = thread.device.address or bus.addresses[0]
    if not bus.address_lead:
        return typed, False
    lead = next(one for one in circuit.of(thread.device) if one.lead.name == bus.address_lead)
    point = circuit.solved.at(lead.place)
    if lead.connection is None or not circuit.is_known(lead.place):
        return typed, False
    return bus.addresses[1 if point.volts(0).usual > 1.0 else 0], True
