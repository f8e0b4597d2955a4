"""The converter's reference: what analogue leads span, and which reference suits them all."""

from __future__ import annotations

from dataclasses import replace

from tickstone.core.families.board_family import Rail, Reference
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Repair
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.thread import Thread


def analogue_span(circuit: Circuit, thread: Thread) -> tuple[float, float] | None:
    """Lowest and highest volts an analogue lead puts on its pin, usual; None when unknown."""
    if thread.lead.analogue is None or thread.pin is None:
        return None
    point = circuit.solved.at(thread.pin.name)
    if point.island is None:
        return None
    place = point.island.place_of(Owner("output", thread.device.key, thread.lead.name))
    if place is None:
        return None
    low, high = (point.island.state({place: name}) for name in ("low", "high"))
    if low is None or high is None:
        return None
    return point.volts(low).usual, point.volts(high).usual


def scales_with(circuit: Circuit, thread: Thread) -> Rail | None:
    """The rail an analogue output scales with; None for one that keeps its volts."""
    analogue = thread.lead.analogue
    is_scaling = analogue is not None and analogue.ratiometric
    return circuit.supply_rail(thread.device) if is_scaling else None


def is_supply(circuit: Circuit, reference: Reference, rail: str) -> bool:
    """Whether a reference is that very rail, so that both drift together."""
    follows = reference.follows_supply and rail == circuit.board.logic_rail.name
    return follows or reference.rail == rail


def matching_reference(circuit: Circuit, rail: str) -> Repair | None:
    """The reference that is the part's own supply, when all analogue leads stay under it."""
    converter = circuit.board.converter
    assert converter is not None
    for reference in converter.references:
        if is_supply(circuit, reference, rail) and _suits_all(circuit, reference):
            return _use(circuit, reference)
    return None


def lowest_reference(circuit: Circuit) -> Repair | None:
    """The lowest reference every analogue lead stays under, when that is not the one in use."""
    converter = circuit.board.converter
    assert converter is not None
    fitting = [one for one in converter.references if _suits_all(circuit, one)]
    best = min(fitting, key=lambda one: one.volts.value, default=None)
    if best is None or best is circuit.reference:
        return None
    return _use(circuit, best)


def _use(circuit: Circuit, reference: Reference) -> Repair:
    return Repair(
        f"Use the reference “{reference.name}”.",
        settings=replace(circuit.settings, reference=reference.name),
    )


def _suits_all(circuit: Circuit, reference: Reference) -> bool:
    """Whether no analogue lead goes over a reference, and ratiometric ones still match theirs."""
    for thread in circuit.threads:
        if thread.lead.role is Role.BATTERY and thread.pin is not None:
            full = thread.device.full_charge_v
            if full is None:
                return False
            look = next(one for one in circuit.pin_looks if one.pin is thread.pin)
            highest = look.point.highest()
            if highest is not None and highest[1].high > reference.volts.value:
                return False
        bare = thread.lead.role in (Role.COLLECTOR, Role.EMITTER) and thread.pin is not None
        if bare and reference.volts.value < circuit.board.logic_v.value * 0.98:
            return False
        span = analogue_span(circuit, thread)
        if span is None:
            continue
        if span[1] > reference.volts.value * 1.02:
            return False
        rail = scales_with(circuit, thread)
        if rail is not None and not is_supply(circuit, reference, rail.name):
            return False
    return True
