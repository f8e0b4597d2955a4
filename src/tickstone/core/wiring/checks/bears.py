"""Volts at every pin and lead against what it bears, with everything switched on."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import reduce

from tickstone.core.display import prefixed
from tickstone.core.electric.divider import choose_divider
from tickstone.core.families.device_family import Drive, Lead, Role
from tickstone.core.wiring.bead import BeadKind, pull_up, series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, Spot, WiringFinding, offered
from tickstone.core.wiring.modelling.pins import has_upper_clamp
from tickstone.core.wiring.pin_look import PinLook
from tickstone.core.wiring.repairing import (
    battery_divider,
    divided,
    on_lower_rail,
    restrung,
    without,
    without_resistors,
)
from tickstone.core.wiring.solved import Point, Solved
from tickstone.core.wiring.thread import Thread, names_of

HARMLESS_A = 1e-4
"""Less than this through a pin's protection does it no harm for now (our choice; common practice
allows up to 1 mA where a chip's maker does)."""
OFF_A = 1e-3
"""What the protection of a pin of an unpowered board bears (common practice)."""
OVER_SUPPLY_V = 0.5
"""What a part bears above its own supply where nothing is stated (from memory)."""
SHIFTER = "a level shifter, or a module made for the board’s volts"


def pins_bear(circuit: Circuit) -> Iterator[WiringFinding]:
    """Every pin of the board, in every state; pins that one device harms alike are told at once."""
    alike: dict[tuple[str, str, Happens], list[PinLook]] = {}
    for look in circuit.pin_looks:
        highest = look.point.highest()
        if highest is None:
            continue
        state, volts = highest
        most = look.limits.absolute_max_v.value
        logic = circuit.board.logic_v.value
        is_over = volts.high > most + 1e-9
        is_lifted = volts.usual > max(logic * 1.01, logic + 0.05)
        lifts = is_lifted and has_upper_clamp(look.limits, logic)
        if not is_over and not lifts:
            continue
        amps = _through_protection(look.point, state, most)
        happens = Happens.DESTROYS if is_over and amps > HARMLESS_A else Happens.LUCK
        cause = _cause(look)
        key = (cause.device.key, _id_of(cause), happens) if cause else ("", look.pin.name, happens)
        alike.setdefault(key, []).append(look)
    for (*_, happens), looks in alike.items():
        yield _pin_finding(circuit, looks, happens)


def _top_v(look: PinLook) -> float:
    """The highest volts a pin ever has, as far as anything holds it."""
    highest = look.point.highest()
    return highest[1].high if highest is not None else 0.0


def _through_protection(point: Point, state: int, most: float) -> float:
    """What is left to flow into a pin that gives way at its limit, A."""
    behind = point.behind_ohm(state)
    over = max(0.0, point.volts(state).high - most)
    return over / behind if behind > 0.0 else float("inf") if over > 0.0 else 0.0


_IDS = {
    Role.OUTPUT: "output-too-high",
    Role.TWO_WAY: "output-too-high",
    Role.SDA: "bus-too-high",
    Role.SCL: "bus-too-high",
    Role.ANALOGUE: "analogue-too-high",
    Role.BATTERY: "battery-over-reference",
    Role.COLLECTOR: "analogue-too-high",
    Role.EMITTER: "analogue-too-high",
    Role.LEG: "analogue-too-high",
}


def _id_of(cause: Thread | None) -> str:
    return "pin-too-high" if cause is None else _IDS.get(cause.lead.role, "pin-too-high")


def _pin_finding(circuit: Circuit, looks: list[PinLook], happens: Happens) -> WiringFinding:
    look = max(looks, key=_top_v)
    highest = look.point.highest()
    assert highest is not None
    state, volts = highest
    most, logic = look.limits.absolute_max_v, circuit.board.logic_v.value
    causes = [one for each in looks if (one := _cause(each)) is not None]
    cause = _cause(look)
    who = names_of(causes) if causes else circuit.parts_words(look.pin.name)
    pins = " and ".join(one.pin.name for one in looks)
    is_over = volts.high > most.value + 1e-9
    amps = _through_protection(look.point, state, most.value)
    said = f"{who} put{'s' if len(causes) < 2 else ''} {prefixed(volts.usual, 'V')} on {pins}, " + (
        f"up to {prefixed(volts.high, 'V')} with tolerances; the pin bears {most.value:g} V."
        if is_over
        else f"over the board’s own {logic:g} V."
    )
    if cause is not None and cause.lead.role in (Role.SDA, Role.SCL):
        said = (
            f"{cause.device.name} lifts the bus to {prefixed(volts.high, 'V')}; {pins} "
            f"bear{'s' if len(looks) == 1 else ''} {most.value:g} V."
        )
    numbers = [
        Number("nominal", volts.usual, "V"),
        Number("worst case", volts.high, "V"),
        Number("pin bears", most.value, "V"),
        Number("logic supply", logic, "V"),
    ]
    if is_over and math.isfinite(amps):
        numbers.append(Number("into the pin", amps, "A"))
    spots = tuple(
        replace(one.spot, pin=each.pin.name) if one is not None else Spot(pin=each.pin.name)
        for each in looks
        for one in [_cause(each)]
    )
    is_battery = cause is None or cause.lead.role is Role.BATTERY
    return WiringFinding(
        _id_of(cause),
        happens,
        ", ".join(one.where for one in causes) or look.pin.name,
        said,
        "Above its supply a pin feeds current into the chip through its protection; beyond the "
        "absolute maximum it is destroyed, now or in a month.",
        most.source,
        spots,
        tuple(numbers),
        _for_all(circuit, looks),
        "" if is_battery else SHIFTER,
    )


def _for_all(circuit: Circuit, looks: list[PinLook]) -> tuple[Repair, ...]:
    """Each kind of remedy taken at every pin at once."""
    every = [
        [one for one in _lower(circuit, look, cause) if one is not None]
        for look in looks
        if (cause := _cause(look)) is not None
    ]
    found = []
    for alike in zip(*every, strict=False) if every else ():
        together = alike[0]
        for one in alike[1:]:
            together = together if one.text == together.text else together.then(one)
        found.append(together)
    return tuple(found)


def _cause(look: PinLook) -> Thread | None:
    """The lead that is to be changed for it: one whose kind puts volts on a pin."""
    ranked = [Role.OUTPUT, Role.TWO_WAY, Role.SDA, Role.SCL, *_IDS]
    giving = [one for one in look.threads if one.lead.role in _IDS or one.lead.is_optional]
    return min(
        giving or look.threads,
        key=lambda one: (one.pin is not look.pin, _rank(one.lead, ranked)),
        default=None,
    )


def _rank(lead: Lead, ranked: list[Role]) -> int:
    return ranked.index(lead.role) if lead.role in ranked else len(ranked)


def _lower(circuit: Circuit, look: PinLook, cause: Thread) -> Iterator[Repair | None]:
    """What brings the volts down, by what kind of lead it is."""
    output, most = cause.lead.output, look.limits.absolute_max_v.value
    wrong = any(one.kind is BeadKind.PULL_UP for one in cause.beads)
    if wrong:
        yield _to_logic(circuit, cause)
    if cause.lead.role in (Role.SDA, Role.SCL):
        for one in look.threads:
            if one.lead.role is cause.lead.role:
                yield on_lower_rail(circuit, one.device, most)
                if any(bead.kind is BeadKind.PULL_UP for bead in one.beads):
                    yield _to_logic(circuit, one)
        return
    if output is not None and output.drive is Drive.OPEN_DRAIN:
        if output.own_pull_up_ohm is None:
            good = output.good_pull_up_ohm.value if output.good_pull_up_ohm else 10_000.0
            yield restrung(
                cause,
                (*without_resistors(cause), pull_up(good)),
                f"Lift {cause.name} with {prefixed(good, 'Ω')} to {circuit.board.logic_rail.name} "
                "and nothing else.",
            )
        yield on_lower_rail(circuit, cause.device, most)
        return
    if cause.lead.role is Role.BATTERY:
        yield battery_divider(circuit, cause)
        return
    if cause.lead.role in (Role.COLLECTOR, Role.EMITTER):
        yield on_lower_rail(circuit, cause.device, most)
        return
    limits = look.limits
    bare = circuit.bare_high(cause)
    if output is not None and bare is not None:
        pair = choose_divider(
            bare.usual,
            min(circuit.board.logic_v.value, limits.absolute_max_v.value),
            limits.absolute_max_v.value,
            limits.high_min_v.value,
            bare.high / bare.usual - 1.0,
        )
        if pair is not None and bare.usual > circuit.board.logic_v.value:
            yield divided(cause, pair)
        yield restrung(cause, without_resistors(cause), f"Take the resistors off {cause.name}.")
        return
    reference = circuit.reference
    yield on_lower_rail(circuit, cause.device, most)
    if bare is not None:
        full = min(
            limits.absolute_max_v.value, reference.volts.value if reference else float("inf")
        )
        pair = choose_divider(bare.high, full, full)
        if pair is not None:
            yield divided(cause, pair, f"{pair.nominal_v:.2f} V at most nominal")


def _to_logic(circuit: Circuit, thread: Thread) -> Repair | None:
    beads = tuple(
        replace(one, rail=circuit.board.logic_rail.name) if one.kind is BeadKind.PULL_UP else one
        for one in thread.beads
    )
    if beads == thread.beads:
        return None
    return restrung(
        thread, beads, f"Lift {thread.name} to {circuit.board.logic_rail.name} instead."
    )


def leads_bear(circuit: Circuit) -> Iterator[WiringFinding]:
    """Every input and bus lead of every device; the two lines of a bus are told at once."""
    told = set()
    for thread in circuit.threads:
        if thread.connection is None and thread.pin is None and thread.rail is None:
            continue
        found = _bearable(circuit, thread)
        if found is None:
            continue
        most, source = found
        point = circuit.solved.at(thread.place)
        highest = point.highest()
        if highest is None or not highest[1].high > most + 1e-9:
            continue
        state, high = highest[0], highest[1].high
        amps = _through_protection(point, state, most)
        is_bus = thread.lead.role in (Role.SDA, Role.SCL)
        if is_bus and _is_over_at_a_pin(circuit, thread):
            continue  # told of the pin already, by the same cause
        if is_bus and thread.device.key in told:
            continue
        told |= {thread.device.key} if is_bus else set()
        end = thread.connection.to if thread.connection else thread.place
        yield WiringFinding(
            "input-too-high",
            Happens.DESTROYS if amps > (1e-3 if is_bus else HARMLESS_A) else Happens.LUCK,
            thread.where,
            f"{end} gives {thread.name} up to {prefixed(high, 'V')}; it bears {most:g} V.",
            "Its input protection carries the rest into its own supply, until it does not.",
            source,
            (thread.spot,),
            (Number("worst case", high, "V"), Number("input bears", most, "V")),
            offered(*_spare_lead(circuit, thread, high, most)),
            SHIFTER,
        )


def _is_over_at_a_pin(circuit: Circuit, thread: Thread) -> bool:
    """Whether a pin a lead is on gets more than it bears."""
    return any(
        thread in look.threads and _top_v(look) > look.limits.absolute_max_v.value + 1e-9
        for look in circuit.pin_looks
    )


def _bearable(circuit: Circuit, thread: Thread) -> tuple[float, str] | None:
    """The most a lead bears, and what that rests on; None for a lead that is no input."""
    lead, supply = thread.lead, thread.device.family.supply
    if lead.input is not None:
        if lead.input.absolute_max_v is not None:
            return lead.input.absolute_max_v.value, lead.input.absolute_max_v.source
        if supply is not None and lead.input.current_a is None:
            feed = circuit.feed_volts(thread.device)
            most = max(feed.high if feed else 0.0, supply.max_v.value) + OVER_SUPPLY_V
            return most, "its supply and half a volt, from memory"
        return None
    bus = thread.device.family.i2c
    if lead.role in (Role.SDA, Role.SCL) and bus is not None:
        feed = circuit.feed_volts(thread.device)
        if bus.pulls_to_v is not None:
            return bus.pulls_to_v.value + OVER_SUPPLY_V, "the volts it lifts to and half a volt"
        if feed is not None:
            return feed.high + OVER_SUPPLY_V, "its supply and half a volt, from memory"
    return None


def _spare_lead(
    circuit: Circuit, thread: Thread, high: float, most: float
) -> Iterator[Repair | None]:
    if thread.lead.role in (Role.SDA, Role.SCL):
        for one in circuit.threads:
            if one.lead.role is thread.lead.role and one.pin is thread.pin:
                yield on_lower_rail(circuit, one.device, most)
                if any(bead.kind is BeadKind.PULL_UP for bead in one.beads):
                    yield _to_logic(circuit, one)
        return
    assert thread.lead.input is not None
    if thread.connection is not None and thread.rail is not None and thread.pin is None:
        for rail in circuit.board.rails:
            volts = circuit.rail_volts(rail) * (1 + circuit.rail_tolerance(rail))
            if thread.lead.input.high_min_v.value <= volts <= most:
                yield Repair(
                    f"Put {thread.name} on {rail.name}.",
                    (replace(thread.connection, to=rail.name, is_fixed=False),),
                )
        if thread.lead.is_optional:
            yield Repair(f"Take the wire off {thread.name}.", removed=(thread.end,))
        return
    logic, rail = circuit.board.logic_v.value, circuit.board.logic_rail
    if any(one.kind is BeadKind.PULL_UP for one in thread.beads):
        beads = without(thread, BeadKind.PULL_UP)
        yield restrung(thread, beads, f"Take the pull-up off {thread.name}.")
    pair = choose_divider(
        min(logic, high),
        most,
        most,
        thread.lead.input.high_min_v.value,
        circuit.rail_tolerance(rail),
    )
    if pair is not None:
        yield divided(thread, pair, from_pin=True)


def unpowered(circuit: Circuit) -> Iterator[WiringFinding]:
    """What flows into the board while it is off and others are not; told once for each device."""
    for off, solved in circuit.switched_off:
        if off != "board":
            continue
        by_device: dict[str, list[tuple[PinLook, float]]] = {}
        for look in circuit.pin_looks:
            amps = _into_dead_pin(solved, look.pin.name)
            if amps > OFF_A:
                cause = _cause(look)
                key = cause.device.key if cause else look.pin.name
                by_device.setdefault(key, []).append((look, amps))
        for looks in by_device.values():
            yield _fed_while_off(looks)


def _into_dead_pin(solved: Solved, pin: str) -> float:
    """What a pin's protection carries into the dead supply, A."""
    island = solved.at(pin).island
    found = [
        island.amps(piece, is_clamped=True)
        for piece in (island.clamping if island else ())
        if piece.owner.pin == pin and island is not None
    ]
    return max((one.high for one in found if one), default=0.0)


def _fed_while_off(looks: list[tuple[PinLook, float]]) -> WiringFinding:
    look, worst = max(looks, key=lambda one: one[1])
    causes = [one for each, _ in looks if (one := _cause(each)) is not None]
    bound = look.limits.absolute_a or look.limits.drive_a
    is_lasting = any(one.lead.role is Role.BATTERY for one in causes)
    kills = is_lasting and worst > (bound.value if bound else 0.02)
    name = names_of(causes) if causes else "what is on it"
    pins = " and ".join(each.pin.name for each, _ in looks)
    held = [one for one in (_held_back(cause) for cause in causes) if one is not None]
    return WiringFinding(
        "fed-while-off",
        Happens.DESTROYS if kills else Happens.LUCK,
        ", ".join(one.where for one in causes) or look.pin.name,
        f"With the board off, {name} drive{'s' if len(looks) == 1 else ''} up to "
        f"{prefixed(worst, 'A')} into {pins}.",
        "The current goes through the pin’s protection into the dead supply: the board half wakes, "
        "and the pin is harmed. Switch both on together, or put a resistor in the wire that keeps "
        "it under 1 mA.",
        "common practice: 1 mA through a pin’s protection at most",
        tuple(
            replace(one.spot, pin=each.pin.name) if one else Spot(pin=each.pin.name)
            for each, _ in looks
            for one in [_cause(each)]
        ),
        (Number("into the pin", worst, "A"), Number("harmless", OFF_A, "A")),
        offered(reduce(Repair.then, held) if held and len(held) == len(causes) else None),
    )


def _held_back(thread: Thread) -> Repair | None:
    if thread.connection is None or thread.series_ohm or thread.lead.output is None:
        return None
    return restrung(
        thread, (series(10_000.0), *thread.beads), f"Put 10 kΩ in the wire of {thread.name}."
    )
