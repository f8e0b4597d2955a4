"""Supply and ground: there, the right way round, common, and of the right volts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.families.board_family import Rail, RailKind
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.netlist import Connection
from tickstone.core.wiring.rails import suitable_rail
from tickstone.core.wiring.repairing import moved

SOURCE = "common practice; the family’s stated supply range"


def missing_supply(circuit: Circuit) -> Iterator[WiringFinding]:
    """A supply lead that goes nowhere."""
    for thread in circuit.threads:
        if not _feeds(thread) or thread.lead.is_optional or thread.connection is not None:
            continue
        rail = suitable_rail(circuit, thread.device)
        yield WiringFinding(
            "missing-supply",
            "error",
            thread.where,
            f"{thread.name} has no supply.",
            "Without it the device is dead, or feeds itself through a signal lead and half works.",
            SOURCE,
            (thread.spot,),
            repair=_to_rail(thread, rail),
        )


def missing_ground(circuit: Circuit) -> Iterator[WiringFinding]:
    """A ground lead that does not end on ground: no common ground, no common volts."""
    for thread in circuit.threads:
        if not _grounds(thread) or thread.lead.is_optional:
            continue
        if thread.rail is not None and thread.rail.kind is RailKind.GROUND:
            continue
        if thread.rail is not None:
            continue  # that is reversed-supply's
        on_pin = f"ends on pin {thread.pin.name}" if thread.pin else "goes nowhere"
        yield WiringFinding(
            "missing-ground",
            "error",
            thread.where,
            f"{thread.name} {on_pin}; it has to be on the common ground.",
            "Volts are measured against ground. Without a common one, readings float and a signal "
            "lead carries the return current.",
            SOURCE,
            (thread.spot,),
            repair=_to_rail(thread, circuit.board.ground),
        )


def reversed_supply(circuit: Circuit) -> Iterator[WiringFinding]:
    """A supply lead on ground, or a ground lead on a supply."""
    for thread in circuit.threads:
        if thread.rail is None:
            continue
        is_ground = thread.rail.kind is RailKind.GROUND
        if _feeds(thread) and is_ground:
            rail = suitable_rail(circuit, thread.device)
        elif _grounds(thread) and not is_ground:
            rail = circuit.board.ground
        else:
            continue
        yield WiringFinding(
            "reversed-supply",
            "error",
            thread.where,
            f"{thread.name} is {thread.lead.role.words} but ends on {thread.rail.name}.",
            "Supply the wrong way round destroys most modules within a second.",
            SOURCE,
            (thread.spot,),
            repair=_to_rail(thread, rail),
        )


def output_on_rail(circuit: Circuit) -> Iterator[WiringFinding]:
    """An output or bus lead that ends straight on a supply or on ground."""
    signals = (Role.OUTPUT, Role.TWO_WAY, Role.ANALOGUE, Role.SDA, Role.SCL, Role.BATTERY)
    for thread in circuit.threads:
        if thread.lead.role in signals and thread.rail is not None:
            yield WiringFinding(
                "output-on-rail",
                "error",
                thread.where,
                f"{thread.name} gives a signal but ends on {thread.rail.name}: a short.",
                "When it drives the other way its output stage carries all the current there is.",
                "common practice",
                (thread.spot,),
                repair=moved(circuit, thread),
            )


def supply_range(circuit: Circuit) -> Iterator[WiringFinding]:
    """Fed less or more than it is stated for."""
    for thread in circuit.threads:
        supply = thread.device.family.supply
        rail = thread.rail
        if thread.lead.role is not Role.SUPPLY or supply is None or rail is None:
            continue
        if rail.kind is RailKind.GROUND:
            continue
        low = circuit.rail_volts(rail) * (1 - circuit.rail_tolerance(rail))
        high = circuit.rail_volts(rail) * (1 + circuit.rail_tolerance(rail))
        # A rail's nominal has to fit; its corners may only touch what the family states.
        slack = 0.03 * circuit.rail_volts(rail)
        if supply.min_v.value - slack <= low and high <= supply.max_v.value + slack:
            continue
        too = "little" if low < supply.min_v.value - slack else "much"
        better = suitable_rail(circuit, thread.device)
        yield WiringFinding(
            "supply-range",
            "error",
            thread.where,
            f"{rail.name} gives {prefixed(low, 'V')} to {prefixed(high, 'V')}, too {too} for "
            f"{thread.name}: {supply.min_v.value:g} to {supply.max_v.value:g} V.",
            "Too little and it resets or misreads; too much and it is destroyed.",
            f"{supply.min_v.source}; {supply.max_v.source}",
            (thread.spot,),
            (
                Number("rail low", low, "V"),
                Number("rail high", high, "V"),
                Number("stated low", supply.min_v.value, "V"),
                Number("stated high", supply.max_v.value, "V"),
            ),
            _to_rail(thread, better) if better is not rail else None,
        )


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
    return Repair(
        f"Put {thread.name} on {rail.name}.", (replace(old, to=rail.name, is_fixed=False),)
    )
