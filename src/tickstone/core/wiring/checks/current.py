"""Currents of pins, ports, the whole board, and rails, against what they bear."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.led_resistor import chosen_ohm
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import BeadKind, series
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.currents import pin_current, rail_budgets
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.repairing import restrung, without


def pin_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More from one pin than it is meant for, or than it survives."""
    for thread in circuit.threads:
        current = pin_current(circuit, thread)
        if current is None or thread.pin is None:
            continue
        limits = circuit.board.class_of(thread.pin)
        if limits.drive_a is None or current <= limits.drive_a.value:
            continue
        kills = limits.absolute_a is not None and current > limits.absolute_a.value
        most = prefixed(limits.drive_a.value, "A")
        yield WiringFinding(
            "pin-current",
            "error" if kills else "warning",
            thread.where,
            f"{thread.name} takes {prefixed(current, 'A')} from {thread.pin.name}, which is meant "
            f"for {most}.",
            "The pin’s volts sag and the chip warms; beyond the absolute maximum it is destroyed. "
            "A transistor in between takes the load off the pin.",
            limits.drive_a.source,
            (thread.spot,),
            (
                Number("current", current, "A"),
                Number("meant for", limits.drive_a.value, "A"),
                *(
                    (Number("absolute maximum", limits.absolute_a.value, "A"),)
                    if limits.absolute_a
                    else ()
                ),
            ),
            _less(circuit, thread, limits.drive_a.value),
        )


def port_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More from a group of pins, or from all of them, than the chip bears."""
    by_port: dict[str, list[tuple[Thread, float]]] = defaultdict(list)
    for thread in circuit.threads:
        current = pin_current(circuit, thread)
        if current and thread.pin is not None:
            by_port[thread.pin.port].append((thread, current))
    groups = [
        ("port-current", f"port {port.name}", port.limit_a, by_port.get(port.name, []))
        for port in circuit.board.ports
    ]
    if circuit.board.total_a is not None:
        everything = [one for group in by_port.values() for one in group]
        groups.append(("board-current", "all pins together", circuit.board.total_a, everything))
    for check_id, name, limit, members in groups:
        total = math.fsum(current for _, current in members)
        if total <= limit.value:
            continue
        yield WiringFinding(
            check_id,
            "error",
            name,
            f"{prefixed(total, 'A')} is drawn from {name}, by {len(members)} of its leads; "
            f"{prefixed(limit.value, 'A')} is the most.",
            "The limit of a group is reached before that of any of its pins.",
            limit.source,
            tuple(thread.spot for thread, _ in members),
            (Number("together", total, "A"), Number("limit", limit.value, "A")),
            _all_less(circuit, [thread for thread, _ in members], limit.value * 0.9),
        )


def rail_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More from a rail, its regulator or the USB port, than it gives."""
    for budget in rail_budgets(circuit):
        if budget.limit_a is None or budget.peak_a <= budget.limit_a:
            continue
        is_usual = budget.usual_a > budget.limit_a
        rail = circuit.board.rail(budget.name)
        assert rail is not None
        assert rail.limit_a is not None
        biggest = max(budget.draws, key=lambda draw: draw.peak_a)
        drawn = budget.usual_a if is_usual else budget.peak_a
        yield WiringFinding(
            "rail-current",
            "error" if is_usual else "warning",
            budget.name,
            f"{budget.name} gives {prefixed(budget.limit_a, 'A')}; "
            + ("in work " if is_usual else "for moments ")
            + f"{prefixed(drawn, 'A')} is drawn, most of it by {biggest.name}.",
            "The volts sag, the board resets at the worst moment, or the regulator shuts off hot.",
            rail.limit_a.source,
            (biggest.spot,) if biggest.spot is not None else (),
            (
                Number("in work", budget.usual_a, "A"),
                Number("for a moment", budget.peak_a, "A"),
                Number("limit", budget.limit_a, "A"),
            ),
            _off_rail(circuit, budget.name, biggest.name),
        )


def _less(circuit: Circuit, thread: Thread, current_a: float) -> Repair | None:
    """A larger LED resistor; other loads want a transistor, which no wire can be."""
    emitter = thread.lead.emitter
    if thread.lead.role is Role.SUPPLY and thread.connection is not None:
        rail = circuit.board.logic_rail
        return Repair(
            f"Feed {thread.name} from {rail.name} instead.",
            (replace(thread.connection, to=rail.name, is_fixed=False),),
        )
    if emitter is None:
        return None
    ohm = chosen_ohm(circuit.board.logic_v.value, emitter.forward_v.value, current_a)
    return restrung(
        thread,
        (series(ohm), *without(thread, BeadKind.SERIES)),
        f"Put {prefixed(ohm, 'Ω')} before {thread.name}.",
    )


def _all_less(circuit: Circuit, threads: list[Thread], current_a: float) -> Repair | None:
    """Larger resistors for all LEDs of a group, when the group is nothing but LEDs."""
    repairs = [_less(circuit, thread, current_a / len(threads)) for thread in threads]
    if any(thread.lead.emitter is None for thread in threads) or None in repairs:
        return None
    changed = tuple(one for repair in repairs if repair for one in repair.connections)
    return Repair(
        f"Use larger resistors before {', '.join(thread.name for thread in threads)}.", changed
    )


def _off_rail(circuit: Circuit, rail_name: str, device_name: str) -> Repair | None:
    """The greatest consumer on another rail that suits it and has room."""
    for device in circuit.wiring.devices:
        supply = device.family.supply
        if device.name != device_name or supply is None:
            continue
        lead = next(one for one in device.family.leads if one.role is Role.SUPPLY)
        for rail in circuit.board.rails:
            if rail.name == rail_name or rail.limit_a is None:
                continue
            low = circuit.rail_volts(rail) * (1 - circuit.rail_tolerance(rail))
            high = circuit.rail_volts(rail) * (1 + circuit.rail_tolerance(rail))
            peak = (supply.peak_a or supply.typical_a).value
            drawn = next(
                (one.peak_a for one in rail_budgets(circuit) if one.name == rail.name), 0.0
            )
            if (
                supply.min_v.value <= low
                and high <= supply.max_v.value
                and drawn + peak <= rail.limit_a.value
            ):
                old = circuit.wiring.at(device.key, lead.name)
                assert old is not None
                return Repair(
                    f"Feed {device.name} from {rail.name} instead.",
                    (replace(old, to=rail.name, is_fixed=False),),
                )
    return None
