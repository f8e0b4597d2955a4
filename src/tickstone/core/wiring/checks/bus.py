"""The I²C bus: addresses, pull-ups, capacitance and rise time at the chosen speed (UM10204)."""

from __future__ import annotations

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
from tickstone.core.families.device_family import Role
from tickstone.core.reading_units import typed_length
from tickstone.core.wiring.bead import BeadKind, pull_up
from tickstone.core.wiring.bus_lines import BusLine, bus_lines, line_of
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.netlist import Connection
from tickstone.core.wiring.repairing import restrung, without

SOURCE = "UM10204 rev. 7, §7.1 and tables 10 and 11"


def address_clash(circuit: Circuit) -> Iterator[WiringFinding]:
    """Two devices that answer to one address."""
    by_place: dict[tuple[str, int], list[Thread]] = defaultdict(list)
    for line in bus_lines(circuit):
        for thread in line.threads:
            bus = thread.device.family.i2c
            if thread.lead.role is Role.SDA and bus is not None and thread.pin is not None:
                address = thread.device.address or bus.addresses[0]
                by_place[thread.pin.name, address].append(thread)
    for (pin, address), threads in by_place.items():
        if len(threads) < 2:
            continue
        names = " and ".join(thread.device.name for thread in threads)
        yield WiringFinding(
            "address-clash",
            "error",
            f"{names} on {pin}",
            f"{names} answer to the same address, {address:#04x}.",
            "Both talk at once and the bits of one are those of both. Another address is set by a "
            "solder bridge or an address lead; without one they need a bus switch or two buses.",
            "UM10204 rev. 7, §3.1.10",
            tuple(thread.spot for thread in threads),
            (Number("address", float(address), ""),),
            _other_address(circuit, threads, {place[1] for place in by_place}),
        )


def _other_address(circuit: Circuit, threads: list[Thread], taken: set[int]) -> Repair | None:
    for thread in reversed(threads):
        bus = thread.device.family.i2c
        assert bus is not None
        for address in bus.addresses:
            if address not in taken:
                return Repair(
                    f"Set {thread.device.name} to address {address:#04x}.",
                    addresses=((thread.device.key, address),),
                )
    return None


def bus_pull_up(circuit: Circuit) -> Iterator[WiringFinding]:
    """Nothing lifts the bus, or too much does, or too slowly for its speed."""
    mode = mode_for(circuit.settings.bus_hz)
    for line in bus_lines(circuit):
        if mode is None:
            continue
        span = window(line.volts, I2C_LOW_V, mode.sink_a, mode.rise_s, line.capacitance_f)
        spots = tuple(thread.spot for thread in line.threads)
        first = line.threads[0]
        assert first.pin is not None
        rise = RISE_30_70 * line.ohm * line.capacitance_f
        numbers = (
            Number("together", line.ohm, "Ω"),
            Number("least", span.least_ohm, "Ω"),
            Number("most", span.most_ohm, "Ω"),
            Number("capacitance", line.capacitance_f, "F"),
            Number("rise", rise, "s"),
            Number("rise allowed", mode.rise_s, "s"),
        )
        where = f"{first.lead.role.words} on {first.pin.name}"
        if not line.own_ohm and not line.added_ohm:
            yield WiringFinding(
                "bus-pull-up-missing",
                "error",
                where,
                f"Nothing lifts {first.lead.role.words} on {first.pin.name}.",
                "Every device on the bus only pulls down; without resistors up it stays down.",
                SOURCE,
                spots,
                numbers[1:4],
                _lift(circuit, line, span),
            )
        elif line.ohm < span.least_ohm:
            yield WiringFinding(
                "bus-pull-up-strong",
                "error",
                where,
                f"{len(line.own_ohm) + len(line.added_ohm)} pull-ups on {first.pin.name} make "
                f"{prefixed(line.ohm, 'Ω')}; under {prefixed(span.least_ohm, 'Ω')} a device cannot "
                "pull the bus down.",
                f"A device has to sink no more than {prefixed(mode.sink_a, 'A')}. Modules with "
                "their own resistors add up in parallel; take some off.",
                SOURCE,
                spots,
                numbers,
                _lift(circuit, line, span) if line.added_ohm else None,
            )
        elif line.ohm > span.most_ohm:
            yield WiringFinding(
                "bus-rise-time",
                "error",
                where,
                f"{first.pin.name} rises in {prefixed(rise, 's')}; at "
                f"{prefixed(circuit.settings.bus_hz, 'Hz')} it has {prefixed(mode.rise_s, 's')}.",
                f"{prefixed(line.ohm, 'Ω')} charge {prefixed(line.capacitance_f, 'F')} of wire and "
                "devices too slowly; bits get lost, more so when the wires move.",
                SOURCE,
                spots,
                numbers,
                _lift(circuit, line, span) or _slow_down(circuit, line),
            )


def bus_capacitance(circuit: Circuit) -> Iterator[WiringFinding]:
    """More wire and devices than the bus may hang on."""
    mode = mode_for(circuit.settings.bus_hz)
    for line in bus_lines(circuit):
        if mode is None or line.capacitance_f <= mode.capacitance_f:
            continue
        first = line.threads[0]
        assert first.pin is not None
        short = replace(circuit.settings, wire_m=0.2)
        helps = line_of(Circuit(replace(circuit.wiring, settings=short)), list(line.threads))
        yield WiringFinding(
            "bus-capacitance",
            "error",
            f"{first.lead.role.words} on {first.pin.name}",
            f"{len(line.threads)} devices on {typed_length(circuit.settings.wire_m)} of wire each "
            f"make {prefixed(line.capacitance_f, 'F')}; most is "
            f"{prefixed(mode.capacitance_f, 'F')}.",
            "I²C is made for a board, not for a cable.",
            SOURCE,
            tuple(thread.spot for thread in line.threads),
            (
                Number("capacitance", line.capacitance_f, "F"),
                Number("limit", mode.capacitance_f, "F"),
            ),
            Repair("Use wires of 0.2 m.", settings=short)
            if helps.capacitance_f <= mode.capacitance_f and circuit.settings.wire_m > 0.2
            else None,
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
        "error",
        slowest.device.name,
        f"The bus runs at {prefixed(circuit.settings.bus_hz, 'Hz')}; {slowest.device.name} goes to "
        f"{prefixed(most, 'Hz')}.",
        "The slowest device sets the speed of all.",
        SOURCE,
        (slowest.spot,),
        (Number("bus", circuit.settings.bus_hz, "Hz"), Number("slowest device", most, "Hz")),
        Repair(
            f"Run the bus at {prefixed(most, 'Hz')}.",
            settings=replace(circuit.settings, bus_hz=most),
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
    thread = line.threads[0]
    rest = [one for one in line.threads[1:] if any(b.kind is BeadKind.PULL_UP for b in one.beads)]
    if own < span.least_ohm:
        return None
    changed: list[Connection] = []
    if least <= own <= span.most_ohm and line.added_ohm:
        text = f"Take the added pull-ups off {thread.pin.name if thread.pin else 'the bus'}."
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
