"""Supply and ground of every device: there, the right way round, and of the right volts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.network import Span
from tickstone.core.families.board_family import Rail
from tickstone.core.families.device_family import Role, Supply
from tickstone.core.wiring.bead import BeadKind, capacitor
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, WiringFinding, offered
from tickstone.core.wiring.netlist import Connection
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.rails import SLACK, suitable_rail
from tickstone.core.wiring.repairing import restrung, without
from tickstone.core.wiring.thread import Thread

SOURCE = "common practice; the family’s stated supply range"


def missing_supply(circuit: Circuit) -> Iterator[WiringFinding]:
    """A supply lead that nothing feeds."""
    for thread in circuit.threads:
        if not _feeds(thread) or thread.lead.is_optional or _is_led_to_source(circuit, thread):
            continue
        if circuit.is_grounded(thread.place):
            continue  # that is reversed-supply's
        rail = suitable_rail(circuit, thread.device, thread.lead)
        yield WiringFinding(
            "missing-supply",
            Happens.FAILS,
            thread.where,
            f"{thread.name} has no supply.",
            "Without it the device is dead, or feeds itself through a signal lead and half works.",
            SOURCE,
            (thread.spot,),
            repairs=offered(_to_rail(thread, rail)),
            buy="" if rail else _own_supply(thread),
        )


def missing_ground(circuit: Circuit) -> Iterator[WiringFinding]:
    """A ground lead that does not come to ground: no common ground, no common volts."""
    for thread in circuit.threads:
        if not _grounds(thread) or thread.lead.is_optional:
            continue
        if circuit.is_held(thread.place) or _is_led_to_ground(circuit, thread):
            continue  # sound, or reversed-supply's
        on_pin = f"ends on pin {thread.pin.name}" if thread.pin else "goes nowhere"
        if thread.connection is not None and thread.pin is None:
            on_pin = f"ends on {thread.connection.to}, which leads to no ground"
        yield WiringFinding(
            "missing-ground",
            Happens.FAILS,
            thread.where,
            f"{thread.name} {on_pin}; it has to be on the common ground.",
            "Volts are measured against ground. Without a common one, readings float and a signal "
            "lead carries the return current.",
            SOURCE,
            (thread.spot,),
            repairs=offered(_to_rail(thread, circuit.board.ground)),
        )


def reversed_supply(circuit: Circuit) -> Iterator[WiringFinding]:
    """A supply lead on ground, or a ground lead on a supply."""
    for thread in circuit.threads:
        if not circuit.is_held(thread.place):
            continue
        is_ground = circuit.is_grounded(thread.place)
        is_dark = thread.lead.role is Role.CATHODE and _is_dark_for_good(circuit, thread)
        has_ground = _grounds(thread) and (thread.lead.role is not Role.CATHODE or is_dark)
        if _feeds(thread) and is_ground:
            rail = suitable_rail(circuit, thread.device, thread.lead)
        elif has_ground and not is_ground:
            rail = circuit.board.ground
        else:
            continue
        end = thread.rail.name if thread.rail else thread.connection.to if thread.connection else ""
        yield WiringFinding(
            "reversed-supply",
            Happens.FAILS if thread.device.family.supply is None else Happens.DESTROYS,
            thread.where,
            f"{thread.name} is {thread.lead.role.words} but ends on {end}.",
            "Supply the wrong way round destroys most modules within a second.",
            SOURCE,
            (thread.spot,),
            repairs=offered(_to_rail(thread, rail)),
        )


def _is_dark_for_good(circuit: Circuit, thread: Thread) -> bool:
    """Whether the anode beside a cathode that is on a supply is on ground."""
    anode = next((one for one in circuit.of(thread.device) if one.lead.role is Role.ANODE), None)
    return anode is not None and circuit.is_grounded(anode.place)


def supply_range(circuit: Circuit) -> Iterator[WiringFinding]:
    """Fed less or more than it is stated for, where it is fed."""
    for thread in circuit.threads:
        wants = thread.device.family.supply_of(thread.lead)
        if thread.lead.role is not Role.SUPPLY or wants is None:
            continue
        if not circuit.is_fed(thread.device) or _is_on_pin(circuit, thread):
            continue  # that is missing-supply's, reversed-supply's, or fed-from-pin's
        volts = circuit.feed_volts(thread.device, thread.lead)
        if volts is None or volts.high <= 0.0:
            continue
        # A rail's nominal has to fit; its corners may only touch what the family states.
        slack = SLACK * volts.usual
        is_low = volts.low < wants.min_v.value - slack
        is_high = volts.high > wants.max_v.value + slack
        if not is_low and not is_high:
            continue
        yield _out_of_range(circuit, thread, wants, volts, is_high)


def _out_of_range(
    circuit: Circuit, thread: Thread, wants: Supply, volts: Span, is_high: bool
) -> WiringFinding:
    rail, ohm = thread.rail, thread.series_ohm
    name = (
        rail.name
        if rail
        else thread.supply.words
        if thread.supply
        else (
            thread.pin.name if thread.pin else thread.connection.to if thread.connection else "it"
        )
    )
    via = f", through {prefixed(ohm, 'Ω')}," if ohm else ""
    better = suitable_rail(circuit, thread.device, thread.lead)
    repairs: list[Repair | None] = []
    if ohm and not is_high:
        repairs.append(
            restrung(
                thread,
                without(thread, BeadKind.SERIES),
                f"Take the resistor out of the supply of {thread.device.name}.",
            )
        )
    if better is not None and better is not rail:
        repairs.append(_to_rail(thread, better))
    return WiringFinding(
        "supply-range",
        Happens.DESTROYS if is_high else Happens.FAILS,
        thread.where,
        f"{name}{via} gives {prefixed(volts.low, 'V')} to {prefixed(volts.high, 'V')}, too "
        f"{'much' if is_high else 'little'} for {thread.name}: {wants.min_v.value:g} to "
        f"{wants.max_v.value:g} V.",
        "Too little and it resets or misreads; too much and it is destroyed.",
        f"{wants.min_v.source}; {wants.max_v.source}",
        (thread.spot,),
        (
            Number("rail low", volts.low, "V"),
            Number("rail high", volts.high, "V"),
            Number("stated low", wants.min_v.value, "V"),
            Number("stated high", wants.max_v.value, "V"),
        ),
        offered(*repairs),
        "" if better is not None else _own_supply(thread),
    )


def gulp(circuit: Circuit) -> Iterator[WiringFinding]:
    """A moment's current that pulls the supply lead under what the device needs."""
    for thread in circuit.threads:
        wants = thread.device.family.supply_of(thread.lead)
        if thread.lead.role is not Role.SUPPLY or wants is None or wants.peak_a is None:
            continue
        volts = circuit.feed_volts(thread.device, thread.lead)
        if volts is None or not circuit.is_fed(thread.device):
            continue
        if any(bead.kind is BeadKind.CAPACITOR for bead in thread.beads):
            continue
        behind = thread.series_ohm + circuit.inner_ohm(thread.place)
        dip = behind * (wants.peak_a.value - wants.typical_a.value)
        if volts.low - dip >= wants.min_v.value * (1.0 - SLACK) or volts.low < wants.min_v.value:
            continue
        # A gulp of half a millisecond out of a capacitor that may lose a tenth of a volt.
        farad = max(10e-6, wants.peak_a.value * 0.5e-3 / 0.5)
        farad = next((one for one in _BULK_F if one >= farad), _BULK_F[-1])
        yield WiringFinding(
            "supply-dips",
            Happens.LUCK,
            thread.where,
            f"{thread.device.name} gulps {prefixed(wants.peak_a.value, 'A')} and pulls its supply "
            f"down by {prefixed(dip, 'V')}, under the {wants.min_v.value:g} V it needs.",
            "It resets or misreads just when it works hardest.",
            wants.peak_a.source,
            (thread.spot,),
            (
                Number("gulp", wants.peak_a.value, "A"),
                Number("behind the supply", behind, "Ω"),
                Number("dip", dip, "V"),
            ),
            offered(
                restrung(
                    thread,
                    (*thread.beads, capacitor(farad)),
                    f"Put {prefixed(farad, 'F')} across the supply of {thread.device.name}, close "
                    "to it.",
                )
            ),
        )


_BULK_F = (10e-6, 47e-6, 100e-6, 220e-6, 470e-6, 1000e-6)


def _own_supply(thread: Thread) -> str:
    wants = thread.device.family.supply_of(thread.lead)
    if wants is None:
        return ""
    return (
        f"a supply or a regulator of {wants.min_v.value:g} to {wants.max_v.value:g} V for "
        f"{thread.device.name}, with common ground"
    )


def _is_led_to_source(circuit: Circuit, thread: Thread) -> bool:
    """Whether anything feeds a lead: a source, a pin, or parts that lead to one."""
    if circuit.is_held(thread.place):
        return True
    if thread.lead.role is Role.ANODE:
        return circuit.leads_on(thread.place)
    return thread.pin is not None or circuit.leads_on(thread.place)


def _is_led_to_ground(circuit: Circuit, thread: Thread) -> bool:
    """Whether a lead comes to ground, straight or through parts; a cathode may be sunk by a pin."""
    if thread.lead.role in (Role.CATHODE, Role.EMITTER):
        return circuit.leads_on(thread.place)
    if thread.pin is not None:
        return False
    island = circuit.solved.at(thread.place).island
    return (
        island is not None
        and circuit.leads_on(thread.place)
        and circuit.solved.model.ground in island.held
    )


def _is_on_pin(circuit: Circuit, thread: Thread) -> bool:
    return any(look.job is PinJob.FEEDS and thread in look.threads for look in circuit.pin_looks)


def _feeds(thread: Thread) -> bool:
    """A lead that has to be on a supply: that of a module, or a bare emitter or collector."""
    bare = thread.lead.role in (Role.ANODE, Role.COLLECTOR) and thread.lead.wants is None
    return thread.lead.role is Role.SUPPLY or bare


def _grounds(thread: Thread) -> bool:
    bare = thread.lead.role is Role.EMITTER and thread.lead.wants is None
    return thread.lead.role in (Role.GROUND, Role.CATHODE) or bare


def _to_rail(thread: Thread, rail: Rail | None) -> Repair | None:
    if rail is None:
        return None
    old = thread.connection or Connection(*thread.end, rail.name)
    if thread.lead.role in (Role.SUPPLY, Role.GROUND):
        old = replace(old, beads=without(thread, BeadKind.SERIES))
    return Repair(
        f"Put {thread.name} on {rail.name}.", (replace(old, to=rail.name, is_fixed=False),)
    )
