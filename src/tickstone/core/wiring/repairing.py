"""The small changes repairs are made of."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.divider import DividerPair, choose_divider
from tickstone.core.electric.pull_up import RISE_10_90, Window, choose_pull_up
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.assignment import free_pin, pulse_hz
from tickstone.core.wiring.bead import Bead, BeadKind, pull_down, pull_up, series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Repair
from tickstone.core.wiring.modelling.parts import WIRE_F_PER_M
from tickstone.core.wiring.modelling.pins import PIN_F
from tickstone.core.wiring.netlist import Connection, Device
from tickstone.core.wiring.rails import feeds_well
from tickstone.core.wiring.thread import Thread

_RESISTORS = (BeadKind.SERIES, BeadKind.PULL_UP, BeadKind.PULL_DOWN, BeadKind.PIN_PULL_UP)
RISE_SHARE = 0.1
"""A rise may take a tenth of the shortest half of a pulse (common practice)."""
BATTERY_TOTAL_OHM = 30_000.0
"""Stiff enough for a converter, and so much that an unpowered pin takes less than 1 mA of it."""


def moved(circuit: Circuit, thread: Thread) -> Repair | None:
    """Another pin for a lead; None when no free one will do."""
    pin = free_pin(circuit, thread)
    if pin is None:
        return None
    old = thread.connection or Connection(*thread.end, pin)
    return Repair(f"Move {thread.name} to {pin}.", (replace(old, to=pin, is_fixed=False),))


def restrung(thread: Thread, beads: Iterable[Bead], text: str) -> Repair | None:
    """Other parts on a wire that has an end; None when they are those that are there."""
    new = tuple(beads)
    if thread.connection is None or new == thread.connection.beads:
        return None
    return Repair(text, (replace(thread.connection, beads=new),))


def without_resistors(thread: Thread) -> tuple[Bead, ...]:
    """What is on a wire but for its resistors."""
    return tuple(bead for bead in thread.beads if bead.kind not in _RESISTORS)


def without(thread: Thread, *kinds: BeadKind) -> tuple[Bead, ...]:
    """What is on a wire but for some kinds of part."""
    return tuple(bead for bead in thread.beads if bead.kind not in kinds)


def divided(
    thread: Thread, pair: DividerPair, gives: str = "", from_pin: bool = False
) -> Repair | None:
    """A divider on a wire in place of the resistors there. from_pin: the pin is what gives."""
    parts = [series(pair.top_ohm), pull_down(pair.bottom_ohm)]
    if from_pin:
        parts.reverse()
    gives = gives or (
        f"{pair.nominal_v:.2f} V, and {pair.low_v:.2f} to {pair.high_v:.2f} V with both resistors’ "
        "tolerances against you"
    )
    return restrung(
        thread,
        (*without_resistors(thread), *parts),
        f"Put {prefixed(pair.top_ohm, 'Ω')} over {prefixed(pair.bottom_ohm, 'Ω')} on "
        f"{thread.name}: {gives}.",
    )


def on_lower_rail(circuit: Circuit, device: Device, most_v: float) -> Repair | None:
    """Feed a device from a rail of so many volts at most, where it bears being fed so little."""
    for thread in circuit.of(device):
        if thread.lead.role is not Role.SUPPLY or thread.connection is None:
            continue
        wants = device.family.supply_of(thread.lead)
        for rail in circuit.board.rails:
            volts = circuit.rail_volts(rail) * (1 + circuit.rail_tolerance(rail))
            if rail is thread.rail or wants is None or volts > most_v:
                continue
            if feeds_well(circuit, rail, wants):
                return Repair(
                    f"Feed {device.name} from {rail.name} instead.",
                    (replace(thread.connection, to=rail.name, is_fixed=False),),
                )
    return None


def pulled(circuit: Circuit, thread: Thread) -> Repair | None:
    """One pull-up within the window, to the logic rail, in place of those on the wire."""
    output, rail = thread.lead.output, circuit.board.logic_rail
    if output is None:
        return None
    sink = output.sink_a.value if output.sink_a else 0.004
    rate = pulse_hz(thread)
    rise = RISE_SHARE * 0.5 / rate if rate else 1e-4
    farad = circuit.settings.wire_m * WIRE_F_PER_M + PIN_F
    least = (circuit.rail_volts(rail) - output.low_v.value) / sink
    span = Window(least * 1.1, rise / (RISE_10_90 * farad) / 1.1)
    liked = output.good_pull_up_ohm.value if output.good_pull_up_ohm else None
    ohm = choose_pull_up(span, liked)
    if ohm is None:
        return None
    beads = without(thread, BeadKind.PULL_UP, BeadKind.PIN_PULL_UP, BeadKind.PULL_DOWN)
    return restrung(
        thread,
        (*beads, pull_up(ohm)),
        f"Put {prefixed(ohm, 'Ω')} from {thread.name} up to {rail.name}.",
    )


def battery_divider(circuit: Circuit, thread: Thread) -> Repair | None:
    """Two resistors that bring a full battery under the reference; never the battery bare."""
    full, reference = thread.device.full_charge_v, circuit.reference
    if full is None or reference is None or thread.pin is None:
        return None
    most = circuit.board.class_of(thread.pin).absolute_max_v.value
    limit = min(reference.volts.value, most)
    pair = choose_divider(max(full, limit), limit, limit, total_ohm=BATTERY_TOTAL_OHM)
    if pair is None:
        return None
    share = pair.bottom_ohm / (pair.top_ohm + pair.bottom_ohm)
    return divided(
        thread,
        pair,
        f"{full * share:.2f} V at full charge, {pair.high_v:.2f} V at most",
    )
