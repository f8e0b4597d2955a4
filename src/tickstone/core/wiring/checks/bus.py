"""The I²C bus: addresses, pull-ups, capacitance and rise time at the chosen speed (UM10204)."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.pull_up import (
    I2C_LOW_V,
    RISE_30_70,
    Mode,
    Window,
    choose_pull_up,
    mode_for,
    parallel,
    window,
)
from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Role
from tickstone.core.reading_units import typed_length
from tickstone.core.wiring.assignment import assign
from tickstone.core.wiring.bead import BeadKind, pull_up
from tickstone.core.wiring.bus_lines import BusLine, address_of, bus_lines
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.controllers import BUS_ROLES, controllers_of, line_pins, shared_out
from tickstone.core.wiring.finding import Happens, Number, Repair, WiringFinding, offered
from tickstone.core.wiring.modelling.parts import WIRE_F_PER_M
from tickstone.core.wiring.netlist import Connection
from tickstone.core.wiring.repairing import moved, restrung, without
from tickstone.core.wiring.thread import Thread

SOURCE = "UM10204 rev. 7, §7.1 and tables 10 and 11"


def lines_apart(circuit: Circuit) -> Iterator[WiringFinding]:
    """Data and clock on pins that no controller drives together, or none that is left."""
    found = controllers_of(circuit)
    for device in circuit.wiring.devices:
        pins = line_pins(circuit, device)
        able = [circuit.board.pin(pin) for pin in pins.values()]
        if len(pins) < 2 or device.key in found:
            continue
        if not all(pin and line in pin.abilities for line, pin in zip(pins, able, strict=True)):
            continue  # told of as a pin that cannot do it
        threads = [one for one in circuit.of(device) if one.lead.role in BUS_ROLES]
        names = " and ".join(bus.name for bus in circuit.board.controllers)
        yield WiringFinding(
            "bus-lines-apart",
            Happens.FAILS,
            device.name,
            f"{device.name} has its data on {pins[Ability.SDA]} and its clock on "
            f"{pins[Ability.SCL]}: no controller of the board drives those two.",
            "Data and clock of a bus come from one controller, and a controller is led to one pair "
            f"of pins at a time; this board has {names}.",
            "common practice; the board family’s buses",
            tuple(thread.spot for thread in threads),
            repairs=offered(_led_together(circuit, threads)),
        )


def _led_together(circuit: Circuit, threads: list[Thread]) -> Repair | None:
    """Both lines onto pins of one controller that are free, or its already."""
    mine = {thread.spot for thread in threads}
    taken = {one.pin.name for one in circuit.threads if one.pin and one.spot not in mine}
    found = assign(circuit, threads, taken)
    pins = [pin for pin in found.pins if pin is not None]
    if len(pins) < len(threads):
        return None
    pairs = list(zip(threads, pins, strict=True))
    text = " and ".join(f"{thread.lead.name} on {pin}" for thread, pin in pairs)
    wires = tuple(
        replace(thread.connection, to=pin) for thread, pin in pairs if thread.connection is not None
    )
    return Repair(f"Put {threads[0].device.name} {text}.", wires)


def address_clash(circuit: Circuit) -> Iterator[WiringFinding]:
    """Two devices that answer to one address, as wired."""
    by_place: dict[tuple[str, int], list[Thread]] = defaultdict(list)
    for line in bus_lines(circuit):
        for thread in line.threads:
            if thread.lead.role is Role.SDA:
                address, _ = address_of(circuit, thread)
                by_place[line.look.pin.name, address].append(thread)
    for (pin, address), threads in by_place.items():
        always_on = [one for one in threads if not _can_be_held_off(circuit, one)]
        if len(threads) < 2 or len(always_on) < 2:
            continue
        names = " and ".join(thread.device.name for thread in threads)
        yield WiringFinding(
            "address-clash",
            Happens.FAILS,
            f"{names} on {pin}",
            f"{names} answer to the same address, {address:#04x}.",
            "Both talk at once and the bits of one are those of both. Another address is set by a "
            "solder bridge or an address lead, or given by the program after each was held off in "
            "turn; without any of them they need a bus switch or two buses.",
            "UM10204 rev. 7, §3.1.10",
            tuple(thread.spot for thread in threads),
            (Number("address", float(address), ""),),
            offered(
                *_other_address(circuit, threads, {place[1] for place in by_place}),
                _other_bus(circuit, threads[-1]),
            ),
            "a bus switch, or modules with another address",
        )


def _other_bus(circuit: Circuit, thread: Thread) -> Repair | None:
    """The device on another controller of the board, where its address is free."""
    threads = [one for one in circuit.of(thread.device) if one.lead.role in BUS_ROLES]
    here = controllers_of(circuit).get(thread.device.key)
    there = shared_out(circuit, threads).get(thread.device.key)
    if here is None or there is None or there.name == here.name or len(threads) < 2:
        return None
    return _led_together(circuit, threads)


def _can_be_held_off(circuit: Circuit, thread: Thread) -> bool:
    """Whether a pin holds the device off its bus, so that it can be given an address of its own."""
    return any(
        one.lead.is_shutdown and one.pin is not None and len(circuit.on(one.pin.name)) == 1
        for one in circuit.of(thread.device)
    )


def _other_address(
    circuit: Circuit, threads: list[Thread], taken: set[int]
) -> Iterator[Repair | None]:
    for thread in reversed(threads):
        bus = thread.device.family.i2c
        assert bus is not None
        for place, address in enumerate(bus.addresses):
            if address in taken:
                continue
            wires: tuple[Connection, ...] = ()
            text = f"Set {thread.device.name} to address {address:#04x}."
            rail = _address_rail(circuit, thread, place)
            if bus.address_lead and rail is not None:
                wires = (Connection(thread.device.key, bus.address_lead, rail),)
                text = (
                    f"Set {thread.device.name} to address {address:#04x}: {bus.address_lead} to "
                    f"{rail}."
                )
            yield Repair(text, wires, addresses=((thread.device.key, address),))
    for thread in reversed(threads):
        for one in circuit.of(thread.device):
            if one.lead.is_shutdown and one.connection is None:
                pin = moved(circuit, one)
                if pin is not None:
                    yield replace(
                        pin, text=f"Put {one.name} on a pin, to hold it off at the start."
                    )


def _address_rail(circuit: Circuit, thread: Thread, place: int) -> str | None:
    """The rail that makes an address lead choose an address."""
    bus = thread.device.family.i2c
    assert bus is not None
    lead = thread.device.family.lead(bus.address_lead) if bus.address_lead else None
    if lead is None:
        return None
    if place == 0:
        return circuit.board.ground.name
    bears = lead.input.absolute_max_v.value if lead.input and lead.input.absolute_max_v else 60.0
    needs = lead.input.high_min_v.value if lead.input else 0.0
    for rail in circuit.board.rails:
        volts = circuit.rail_volts(rail)
        spread = circuit.rail_tolerance(rail)
        if volts * (1 - spread) >= needs and volts * (1 + spread) <= bears:
            return rail.name
    return None


def address_as_wired(circuit: Circuit) -> Iterator[WiringFinding]:
    """An address somebody typed that the address lead does not choose."""
    for device in circuit.wiring.devices:
        bus = device.family.i2c
        if bus is None or not bus.address_lead or device.address is None:
            continue
        thread = next((one for one in circuit.of(device) if one.lead.role is Role.SDA), None)
        if thread is None or thread.pin is None:
            continue
        address, is_wired = address_of(circuit, thread)
        if not is_wired or address == device.address:
            continue
        lead = next(one for one in circuit.of(device) if one.lead.name == bus.address_lead)
        yield WiringFinding(
            "address-as-wired",
            Happens.FAILS,
            lead.where,
            f"{device.name} is said to answer to {device.address:#04x}; as {lead.name} is wired it "
            f"answers to {address:#04x}.",
            "The lead decides when the device wakes; the program has to call it by that address.",
            "UM10204 rev. 7, §3.1.10; the family’s address lead",
            (lead.spot,),
            (Number("address", float(address), ""),),
            offered(
                Repair(f"Call {device.name} by {address:#04x}.", addresses=((device.key, address),))
            ),
        )


def bus_pull_up(circuit: Circuit) -> Iterator[WiringFinding]:
    """Nothing lifts the bus, or too much does, or too slowly for its speed."""
    mode = mode_for(circuit.settings.bus_hz)
    for line in bus_lines(circuit):
        if mode is None:
            continue
        span = window(line.volts, I2C_LOW_V, mode.sink_a, mode.rise_s, line.capacitance_f)
        spots = tuple(thread.spot for thread in line.threads)
        first, pin = line.threads[0], line.look.pin.name
        rise = RISE_30_70 * line.ohm * line.capacitance_f
        numbers = (
            Number("together", line.ohm, "Ω"),
            Number("least", span.least_ohm, "Ω"),
            Number("most", span.most_ohm, "Ω"),
            Number("capacitance", line.capacitance_f, "F"),
            Number("rise", rise, "s"),
            Number("rise allowed", mode.rise_s, "s"),
        )
        where = f"{first.lead.role.words} on {pin}"
        if not line.own_ohm and not line.added_ohm:
            yield WiringFinding(
                "bus-pull-up-missing",
                Happens.FAILS,
                where,
                f"Nothing lifts {first.lead.role.words} on {pin}.",
                "Every device on the bus only pulls down; without resistors up it stays down.",
                SOURCE,
                spots,
                numbers[1:4],
                offered(_lift(circuit, line, span)),
            )
        elif line.ohm < span.least_ohm:
            yield WiringFinding(
                "bus-pull-up-strong",
                Happens.FAILS,
                where,
                f"{len(line.own_ohm) + len(line.added_ohm)} pull-ups on {pin} make "
                f"{prefixed(line.ohm, 'Ω')}; under {prefixed(span.least_ohm, 'Ω')} a device cannot "
                "pull the bus down.",
                f"A device has to sink no more than {prefixed(mode.sink_a, 'A')}. Modules with "
                "their own resistors add up in parallel; take some off.",
                SOURCE,
                spots,
                numbers,
                offered(_lift(circuit, line, span) if line.added_ohm else None),
                "" if line.added_ohm else "a knife: the resistors on a module can be taken off it",
            )
        elif line.ohm > span.most_ohm and line.capacitance_f <= mode.capacitance_f:
            yield WiringFinding(
                "bus-rise-time",
                Happens.FAILS,
                where,
                f"{pin} rises in {prefixed(rise, 's')}; at "
                f"{prefixed(circuit.settings.bus_hz, 'Hz')} it has {prefixed(mode.rise_s, 's')}.",
                f"{prefixed(line.ohm, 'Ω')} charge {prefixed(line.capacitance_f, 'F')} of wire and "
                "devices too slowly; bits get lost, more so when the wires move.",
                SOURCE,
                spots,
                numbers,
                offered(_lift(circuit, line, span), _slow_down(circuit, line)),
            )


def bus_capacitance(circuit: Circuit) -> Iterator[WiringFinding]:
    """More wire, devices and capacitors than the bus may hang on."""
    mode = mode_for(circuit.settings.bus_hz)
    for line in bus_lines(circuit):
        if mode is None or line.capacitance_f <= mode.capacitance_f:
            continue
        first, pin = line.threads[0], line.look.pin.name
        short = replace(circuit.settings, wire_m=0.2)
        held = [one for one in line.threads if any(b.farad is not None for b in one.beads)]
        saved = len(line.threads) * (circuit.settings.wire_m - 0.2) * WIRE_F_PER_M
        wires = (
            f"{len(line.threads)} devices on {typed_length(circuit.settings.wire_m)} of wire each"
        )
        parts = f"The capacitor on {held[0].name}" if held else ""
        yield WiringFinding(
            "bus-capacitance",
            Happens.FAILS,
            f"{first.lead.role.words} on {pin}",
            f"{parts or wires} make{'s' if parts else ''} {prefixed(line.capacitance_f, 'F')} on "
            f"{pin}; most is {prefixed(mode.capacitance_f, 'F')}.",
            "I²C is made for a board, not for a cable, and it bears no capacitor.",
            SOURCE,
            tuple(thread.spot for thread in held or line.threads),
            (
                Number("capacitance", line.capacitance_f, "F"),
                Number("limit", mode.capacitance_f, "F"),
            ),
            offered(
                restrung(
                    held[0],
                    without(held[0], BeadKind.CAPACITOR),
                    f"Take the capacitor off {held[0].name}.",
                )
                if held
                else None,
                Repair("Use wires of 0.2 m.", settings=short)
                if circuit.settings.wire_m > 0.2
                and line.capacitance_f - saved <= mode.capacitance_f
                else None,
            ),
        )


def bus_speed(circuit: Circuit) -> Iterator[WiringFinding]:
    """A bus faster than a device on it, or than any mode there is."""
    lines = bus_lines(circuit)
    if not lines:
        return
    slowest = min(
        (thread for line in lines for thread in line.threads),
        key=lambda thread: _most_hz(thread),
    )
    most = min(_most_hz(slowest), 1e6)
    if circuit.settings.bus_hz <= most * (1 + 1e-9):
        return
    yield WiringFinding(
        "bus-speed",
        Happens.FAILS,
        slowest.device.name,
        f"The bus runs at {prefixed(circuit.settings.bus_hz, 'Hz')}; {slowest.device.name} goes to "
        f"{prefixed(most, 'Hz')}.",
        "The slowest device sets the speed of all.",
        SOURCE,
        (slowest.spot,),
        (Number("bus", circuit.settings.bus_hz, "Hz"), Number("slowest device", most, "Hz")),
        (
            Repair(
                f"Run the bus at {prefixed(most, 'Hz')}.",
                settings=replace(circuit.settings, bus_hz=most),
            ),
        ),
    )


def _most_hz(thread: Thread) -> float:
    assert thread.device.family.i2c is not None
    return thread.device.family.i2c.max_hz.value


def _lift(circuit: Circuit, line: BusLine, span: Window) -> Repair | None:
    """One pull-up beside what the modules bring; None when no preferred value gets there."""
    own = parallel(line.own_ohm)
    # 1/R_total = 1/own + 1/added: what is left for the added one, with room for tolerance.
    least = _left_over(span.least_ohm * 1.1, own)
    most = _left_over(span.most_ohm / 1.1, own)
    if math.isinf(span.most_ohm) or not line.threads:
        return None
    thread = line.threads[0]
    rest = [one for one in line.threads[1:] if any(b.kind is BeadKind.PULL_UP for b in one.beads)]
    if own < span.least_ohm:
        return None
    changed: list[Connection] = []
    if least <= own <= span.most_ohm and line.added_ohm:
        text = f"Take the added pull-ups off {line.look.pin.name}."
        beads = without(thread, BeadKind.PULL_UP)
    else:
        ohm = choose_pull_up(Window(least, most), 4_700.0)
        if ohm is None:
            return None
        beads = (*without(thread, BeadKind.PULL_UP), pull_up(ohm))
        text = f"Put {prefixed(ohm, 'Ω')} from {thread.name} up to {circuit.board.logic_rail.name}."
    for one, parts in [(thread, beads), *((r, without(r, BeadKind.PULL_UP)) for r in rest)]:
        repair = restrung(one, parts, text)
        if repair is not None:
            changed += repair.connections
    return Repair(text, tuple(changed))


def _left_over(total: float, own: float) -> float:
    """The resistor that makes `total` beside `own`; infinite when own alone is less."""
    rest = 1.0 / total - 1.0 / own
    return 1.0 / rest if rest > 0.0 else float("inf")


def _slow_down(circuit: Circuit, line: BusLine) -> Repair | None:
    standard: Mode | None = mode_for(100e3)
    assert standard is not None
    span = window(line.volts, I2C_LOW_V, standard.sink_a, standard.rise_s, line.capacitance_f)
    if circuit.settings.bus_hz <= 100e3 or not span.least_ohm <= line.ohm <= span.most_ohm:
        return None
    return Repair("Run the bus at 100 kHz.", settings=replace(circuit.settings, bus_hz=100e3))
