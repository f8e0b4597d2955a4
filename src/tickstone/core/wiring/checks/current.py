"""Currents of pins, ports, rails, supplies, regulators, fuses and transistors, and heat."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.led_resistor import body_for, chosen_ohm
from tickstone.core.families.device_family import Role
from tickstone.core.families.part import PartKind
from tickstone.core.wiring.bead import BeadKind, series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.currents import pin_amps, rail_budgets
from tickstone.core.wiring.finding import Happens, Number, Repair, Spot, WiringFinding, offered
from tickstone.core.wiring.origins import is_beside
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.pin_look import PinLook
from tickstone.core.wiring.rails import suitable_rail
from tickstone.core.wiring.repairing import restrung, without
from tickstone.core.wiring.thread import Thread

PORT_SHARE = 0.05
"""A pin that takes less of its group's limit is not named (our choice)."""
LOAD_SWITCH = "a transistor or a driver that takes the load off the pin"


def pin_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More from one pin than it is meant for, or than it survives."""
    for look in circuit.pin_looks:
        limits = look.limits
        amps = pin_amps(circuit, look)
        kills = limits.absolute_a is not None and amps.high > limits.absolute_a.value
        if limits.drive_a is None or (amps.usual <= limits.drive_a.value and not kills):
            continue
        thread = _taker(look)
        name = thread.name if thread else circuit.parts_words(look.pin.name)
        yield WiringFinding(
            "pin-current",
            Happens.DESTROYS if kills else Happens.LUCK,
            thread.where if thread else look.pin.name,
            f"{name} takes {prefixed(amps.usual, 'A')}, up to {prefixed(amps.high, 'A')}, from "
            f"{look.pin.name}, which is meant for {prefixed(limits.drive_a.value, 'A')}.",
            "The pin’s volts sag and the chip warms; beyond the absolute maximum it is destroyed. "
            "A transistor in between takes the load off the pin.",
            limits.drive_a.source,
            (replace(thread.spot, pin=look.pin.name) if thread else Spot(pin=look.pin.name),),
            (
                Number("current", amps.high, "A"),
                Number("meant for", limits.drive_a.value, "A"),
                *(
                    (Number("absolute maximum", limits.absolute_a.value, "A"),)
                    if limits.absolute_a
                    else ()
                ),
            ),
            offered(_less(circuit, thread, limits.drive_a.value)) if thread else (),
            LOAD_SWITCH,
        )


def _taker(look: PinLook) -> Thread | None:
    """The lead that takes a pin's current."""
    roles = (Role.ANODE, Role.CATHODE, Role.SUPPLY, Role.INPUT)
    taking = [one for one in look.threads if one.lead.role in roles] or list(look.threads)
    return next(iter(taking), None)


def port_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More from a group of pins, or from all of them, than the chip bears."""
    amps = {look.pin.name: pin_amps(circuit, look).high for look in circuit.pin_looks}
    looks = [look for look in circuit.pin_looks if amps[look.pin.name] > 1e-5]
    groups = [
        (
            "port-current",
            f"port {port.name}",
            port.limit_a,
            [look for look in looks if look.pin.port == port.name],
        )
        for port in circuit.board.ports
    ]
    if circuit.board.total_a is not None:
        groups.append(("board-current", "all pins together", circuit.board.total_a, looks))
    for check_id, name, limit, members in groups:
        total = math.fsum(amps[look.pin.name] for look in members)
        share = PORT_SHARE * limit.value
        great = [look for look in members if amps[look.pin.name] >= share]
        if total <= limit.value or len(great) < 2:
            continue  # one pin alone is told of as such
        threads = [one for look in great if (one := _taker(look)) is not None]
        yield WiringFinding(
            check_id,
            Happens.DESTROYS,
            name,
            f"Up to {prefixed(total, 'A')} is drawn from {name}, by {len(members)} of its pins; "
            f"{prefixed(limit.value, 'A')} is the most.",
            "The limit of a group is reached before that of any of its pins.",
            limit.source,
            tuple(thread.spot for thread in threads),
            (Number("together", total, "A"), Number("limit", limit.value, "A")),
            offered(_all_less(circuit, threads, limit.value * 0.9)),
            LOAD_SWITCH,
        )


def rail_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More from a rail, its regulator, the USB port or a supply, than it gives."""
    for budget in rail_budgets(circuit):
        if budget.limit_a is None or budget.peak_a <= budget.limit_a:
            continue
        is_usual = budget.usual_a > budget.limit_a
        biggest = max(budget.draws, key=lambda draw: draw.peak_a)
        drawn = budget.usual_a if is_usual else budget.peak_a
        yield WiringFinding(
            "rail-current",
            Happens.FAILS if is_usual else Happens.LUCK,
            budget.name,
            f"{budget.name} gives {prefixed(budget.limit_a, 'A')}; "
            + ("in work " if is_usual else "for moments ")
            + f"{prefixed(drawn, 'A')} is drawn, most of it by {biggest.name}.",
            "The volts sag, the board resets at the worst moment, or the regulator shuts off hot.",
            budget.source,
            (*((biggest.spot,) if biggest.spot is not None else ()), Spot(part=budget.name)),
            (
                Number("in work", budget.usual_a, "A"),
                Number("for a moment", budget.peak_a, "A"),
                Number("limit", budget.limit_a, "A"),
            ),
            offered(_off_rail(circuit, budget.name, biggest.name)),
            f"a supply of its own for {biggest.name}, with common ground",
        )


def regulator_heat(circuit: Circuit) -> Iterator[WiringFinding]:
    """A linear regulator turns the volts it takes away into heat."""
    budgets = {budget.name: budget for budget in rail_budgets(circuit)}
    for rail in circuit.board.rails:
        above = circuit.board.rail(rail.fed_from) if rail.fed_from else None
        if rail.heat_w is None or above is None or not circuit.is_fed_by_person(above):
            continue
        feed = circuit.origins.by_net.get(circuit.nets.of(above.name))
        if feed is None or is_beside(feed.volts, rail):
            continue
        amps = budgets[rail.name].usual_a
        heat = (feed.volts.usual - rail.volts.value) * amps
        if heat <= rail.heat_w.value:
            continue
        biggest = max(budgets[rail.name].draws, key=lambda draw: draw.usual_a)
        yield WiringFinding(
            "regulator-heat",
            Happens.FAILS,
            rail.name,
            f"The regulator of {rail.name} turns {prefixed(heat, 'W')} into heat: "
            f"{prefixed(feed.volts.usual, 'V')} down to {rail.volts.value:g} V at "
            f"{prefixed(amps, 'A')}. It bears {rail.heat_w.value:g} W.",
            "It shuts off, or shortens its life and that of what is near it.",
            rail.heat_w.source,
            (biggest.spot or Spot(part=rail.name),),
            (Number("heat", heat, "W"), Number("bears", rail.heat_w.value, "W")),
            (),
            "a supply nearer the rail’s volts, or a switching regulator for the large loads",
        )


def resistor_power(circuit: Circuit) -> Iterator[WiringFinding]:
    """A resistor that gets hotter than its body bears, wherever it lies."""
    for thread in circuit.threads:
        heat: dict[int, float] = {}
        for place, bead in enumerate(thread.beads):
            owner = Owner("bead", thread.device.key, thread.lead.name, key=str(place))
            power = _heat(circuit, owner)
            if bead.ohm is not None and power > bead.power_w:
                heat[place] = power
        if not heat:
            continue
        worst = max(heat, key=lambda place: heat[place])
        bead, power = thread.beads[worst], heat[worst]
        yield WiringFinding(
            "resistor-power",
            Happens.DESTROYS,
            thread.where,
            f"{bead.words} on {thread.name} turns {prefixed(power, 'W')} into heat; its body "
            f"bears {bead.power_w:g} W.",
            "It scorches, drifts and takes the board with it. Bodies differ in size; a larger one "
            "may not lie flat.",
            "P = I²·R",
            (thread.spot,),
            (Number("heat", power, "W"), Number("body", bead.power_w, "W")),
            offered(_larger_bodies(thread, heat)),
        )
    for part in circuit.wiring.parts:
        body = part.power_w or 0.25
        power = _heat(circuit, Owner("part", key=part.key))
        if part.kind is not PartKind.RESISTOR or power <= body:
            continue
        larger = body_for(power)
        yield WiringFinding(
            "resistor-power",
            Happens.DESTROYS,
            part.key,
            f"{part.key}, {part.words}, turns {prefixed(power, 'W')} into heat; its body bears "
            f"{body:g} W.",
            "It scorches, drifts and takes the board with it.",
            "P = I²·R",
            (Spot(part=part.key),),
            (Number("heat", power, "W"), Number("body", body, "W")),
            (
                Repair(
                    f"Use a body of {larger:g} W for {part.key}.",
                    parts=(replace(part, power_w=larger),),
                ),
            )
            if larger
            else (),
        )


def _heat(circuit: Circuit, owner: Owner) -> float:
    """The most a resistor turns into heat, W: its greatest current squared times its ohms."""
    most = 0.0
    for island, piece in circuit.solved.pieces_of(owner):
        amps = island.amps(piece)
        if piece.sort == "resistors" and amps is not None and math.isfinite(amps.high):
            most = max(most, amps.high**2 * piece.span.usual)
    return most


def part_currents(circuit: Circuit) -> Iterator[WiringFinding]:
    """More through a fuse, a transistor, a diode or a regulator than it bears."""
    for part in circuit.wiring.parts:
        if part.max_a is None or part.kind in (PartKind.LED, PartKind.REGULATOR):
            continue
        amps = 0.0
        for island, piece in circuit.solved.pieces_of(Owner("part", key=part.key)):
            found = island.amps(piece)
            amps = max(amps, found.high if found else 0.0)
        if amps <= part.max_a:
            continue
        yield WiringFinding(
            "part-current",
            Happens.FAILS if part.kind is PartKind.FUSE else Happens.DESTROYS,
            part.key,
            f"{part.key}, a {part.words}, carries up to {prefixed(amps, 'A')}; it bears "
            f"{prefixed(part.max_a, 'A')}.",
            "A fuse that blows in normal use protects nothing; a transistor beyond its current "
            "fails, mostly shut.",
            part.source or "as stated",
            (Spot(part=part.key),),
            (Number("current", amps, "A"), Number("bears", part.max_a, "A")),
            (),
            f"a {part.kind.words} for {prefixed(1.5 * amps, 'A')} or more",
        )


def _larger_bodies(thread: Thread, heat: dict[int, float]) -> Repair | None:
    """Bodies that bear it, for all that are too hot; None when there is none so large."""
    beads = list(thread.beads)
    for place, power in heat.items():
        body = body_for(power)
        if body is None:
            return None
        beads[place] = replace(beads[place], power_w=body)
    names = " and ".join(f"{beads[place].power_w:g} W for {beads[place].words}" for place in heat)
    return restrung(thread, beads, f"Use a larger body on {thread.name}: {names}.")


def fed_from_pin(circuit: Circuit) -> Iterator[WiringFinding]:
    """A device whose supply is a pin."""
    for look in circuit.pin_looks:
        if look.job is not PinJob.FEEDS:
            continue
        thread = next((one for one in look.threads if one.lead.role is Role.SUPPLY), None)
        drive = look.limits.drive_a
        if thread is None:
            continue
        amps = pin_amps(circuit, look).high
        if drive is not None and amps > drive.value:
            continue  # that is pin-current's
        is_small = drive is not None and amps <= 0.5 * drive.value
        wants = thread.device.family.supply_of(thread.lead)
        volts = circuit.feed_volts(thread.device, thread.lead)
        is_starved = wants is not None and volts is not None and volts.low < wants.min_v.value
        rail = suitable_rail(circuit, thread.device, thread.lead)
        old = thread.connection
        yield WiringFinding(
            "fed-from-pin",
            Happens.FAILS if is_starved else Happens.BETTER if is_small else Happens.LUCK,
            thread.where,
            f"{thread.device.name} is fed from {look.pin.name}, which is a signal and no supply"
            + (f": it gets {prefixed(volts.low, 'V')} at worst." if is_starved and volts else "."),
            "A pin’s volts sag with the current, it is low until the program starts, and a gulp of "
            "the device pulls on the whole chip.",
            "common practice",
            (thread.spot,),
            (Number("current", amps, "A"),),
            (
                Repair(
                    f"Feed {thread.name} from {rail.name} instead.",
                    (replace(old, to=rail.name, is_fixed=False),),
                ),
            )
            if rail is not None and old is not None
            else (),
        )


def _less(circuit: Circuit, thread: Thread, current_a: float) -> Repair | None:
    """A larger LED resistor; other loads want a transistor, which no wire can be."""
    emitter = thread.lead.emitter
    if thread.lead.role is Role.SUPPLY and thread.connection is not None:
        rail = suitable_rail(circuit, thread.device, thread.lead)
        if rail is None:
            return None
        return Repair(
            f"Feed {thread.name} from {rail.name} instead.",
            (replace(thread.connection, to=rail.name, is_fixed=False),),
        )
    if thread.lead.role is Role.CATHODE:
        anode = next(
            (one for one in circuit.of(thread.device) if one.lead.role is Role.ANODE), thread
        )
        emitter = anode.lead.emitter
    if emitter is None or circuit.board.logic_v.value <= emitter.forward_v.value:
        return None
    ohm = chosen_ohm(circuit.board.logic_v.value, emitter.forward_v.value, current_a)
    return restrung(
        thread,
        (series(ohm), *without(thread, BeadKind.SERIES)),
        f"Put {prefixed(ohm, 'Ω')} before {thread.name}.",
    )


def _all_less(circuit: Circuit, threads: list[Thread], current_a: float) -> Repair | None:
    """Larger resistors for all LEDs of a group, when the group is nothing but LEDs."""
    if not threads or any(one.lead.role not in (Role.ANODE, Role.CATHODE) for one in threads):
        return None
    repairs = [_less(circuit, thread, current_a / len(threads)) for thread in threads]
    if None in repairs:
        return None
    changed = tuple(one for repair in repairs if repair for one in repair.connections)
    return Repair(
        f"Use larger resistors before {', '.join(thread.name for thread in threads)}.", changed
    )


def _off_rail(circuit: Circuit, rail_name: str, device_name: str) -> Repair | None:
    """The greatest consumer on another rail that suits it and has room."""
    budgets = {one.name: one for one in rail_budgets(circuit)}
    for device in circuit.wiring.devices:
        supply = device.family.supply
        if device.name != device_name or supply is None:
            continue
        lead = next(one for one in device.family.leads if one.role is Role.SUPPLY)
        old = circuit.wiring.at(device.key, lead.name)
        for rail in circuit.board.rails:
            if rail.name == rail_name or rail.limit_a is None or old is None:
                continue
            low = circuit.rail_volts(rail) * (1 - circuit.rail_tolerance(rail))
            high = circuit.rail_volts(rail) * (1 + circuit.rail_tolerance(rail))
            peak = (supply.peak_a or supply.typical_a).value
            drawn = budgets[rail.name].peak_a if rail.name in budgets else 0.0
            if (
                supply.min_v.value <= low
                and high <= supply.max_v.value
                and drawn + peak <= rail.limit_a.value
            ):
                return Repair(
                    f"Feed {device.name} from {rail.name} instead.",
                    (replace(old, to=rail.name, is_fixed=False),),
                )
    return None
