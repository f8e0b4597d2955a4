"""LEDs, their resistors, and the bare phototransistors that look at them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.led_resistor import body_for, chosen_ohm
from tickstone.core.families.device_family import Emitter, Role
from tickstone.core.wiring.bead import Bead, BeadKind, pull_down, pull_up
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.currents import led_current, led_volts
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.repairing import restrung, without

COMMON_LOAD_OHM = 4_700.0
"""A load people use with a bare phototransistor (common practice); the light bench finds better."""


def led_resistor(circuit: Circuit) -> Iterator[WiringFinding]:
    """No resistor, or one that lets too much through."""
    for thread in circuit.threads:
        emitter, volts = thread.lead.emitter, led_volts(circuit, thread)
        if emitter is None or volts is None or volts <= emitter.forward_v.value:
            continue
        current = led_current(circuit, thread)
        if current is None:
            yield WiringFinding(
                "missing-led-resistor",
                "error",
                thread.where,
                f"{thread.name} has no resistor: from {volts:g} V nothing limits its current.",
                "An LED is not a resistor; above its forward volts the current rises until "
                "something gives.",
                "R = (V_s − V_f)/I",
                (thread.spot,),
                (Number("supply", volts, "V"), Number("forward", emitter.forward_v.value, "V")),
                _resistor(circuit, thread, emitter, volts),
            )
        elif current > emitter.max_a.value:
            yield WiringFinding(
                "led-resistor-small",
                "error",
                thread.where,
                f"{prefixed(thread.series_ohm, 'Ω')} gives {thread.name} {prefixed(current, 'A')}; "
                f"it bears {prefixed(emitter.max_a.value, 'A')}.",
                "It ages fast, drifts while it warms, and floods its detector.",
                emitter.max_a.source,
                (thread.spot,),
                (Number("current", current, "A"), Number("bears", emitter.max_a.value, "A")),
                _resistor(circuit, thread, emitter, volts),
            )


def resistor_power(circuit: Circuit) -> Iterator[WiringFinding]:
    """A resistor that gets hotter than its body bears, before an LED or across a supply."""
    for thread in circuit.threads:
        current = led_current(circuit, thread)
        heat = [
            _power(circuit, thread, bead, current) or 0.0 if bead.ohm is not None else 0.0
            for bead in thread.beads
        ]
        hot = [place for place, bead in enumerate(thread.beads) if heat[place] > bead.power_w]
        if not hot:
            continue
        worst = max(hot, key=lambda place: heat[place])
        bead, power = thread.beads[worst], heat[worst]
        yield WiringFinding(
            "resistor-power",
            "error",
            thread.where,
            f"{bead.words} on {thread.name} turns {prefixed(power, 'W')} into heat; its body "
            f"bears {bead.power_w:g} W.",
            "It scorches, drifts and takes the board with it. Bodies differ in size; a larger one "
            "may not lie flat.",
            "P = I²·R",
            (thread.spot,),
            (Number("heat", power, "W"), Number("body", bead.power_w, "W")),
            _larger_bodies(thread, heat, hot),
        )


def _larger_bodies(thread: Thread, heat: list[float], hot: list[int]) -> Repair | None:
    """Bodies that bear it, for all that are too hot; None when there is none so large."""
    beads = list(thread.beads)
    for place in hot:
        body = body_for(heat[place])
        if body is None:
            return None
        beads[place] = replace(beads[place], power_w=body)
    names = " and ".join(f"{beads[place].power_w:g} W for {beads[place].words}" for place in hot)
    return restrung(thread, beads, f"Use a larger body on {thread.name}: {names}.")


def photo_load(circuit: Circuit) -> Iterator[WiringFinding]:
    """A bare phototransistor without the resistor that turns its current into volts."""
    for thread in circuit.threads:
        role = thread.lead.role
        if thread.pin is None or role not in (Role.COLLECTOR, Role.EMITTER):
            continue
        kinds = (BeadKind.PULL_UP,) if role is Role.COLLECTOR else (BeadKind.PULL_DOWN,)
        if any(bead.kind in kinds for bead in thread.beads):
            continue
        up = role is Role.COLLECTOR
        bead = pull_up(COMMON_LOAD_OHM) if up else pull_down(COMMON_LOAD_OHM)
        yield WiringFinding(
            "missing-photo-load",
            "error",
            thread.where,
            f"{thread.name} has no load resistor to {'the supply' if up else 'ground'}.",
            "A phototransistor passes a current; without a resistor there is no voltage to read.",
            "common practice: 4.7 kΩ to start with",
            (thread.spot,),
            repair=restrung(thread, (*thread.beads, bead), f"Put {bead.words} on {thread.name}."),
        )


def emitter_swapped(circuit: Circuit) -> Iterator[WiringFinding]:
    """Measured volts that only an emitter and a detector in each other's place give."""
    measured = circuit.wiring.measured
    for device in circuit.wiring.devices:
        threads = {thread.lead.role: thread for thread in circuit.of(device)}
        anode, collector = threads.get(Role.ANODE), threads.get(Role.COLLECTOR)
        if anode is None or collector is None or anode.lead.emitter is None:
            continue
        feed = led_volts(circuit, anode)
        at_anode = measured.get(f"{device.key}.{anode.lead.name}")
        at_collector = measured.get(f"{device.key}.{collector.lead.name}")
        if feed is None or at_anode is None or at_collector is None:
            continue
        forward = anode.lead.emitter.forward_v.value
        no_drop = at_anode > max(0.8 * feed, forward + 0.5)
        clamped = abs(at_collector - forward) < 0.35
        if not (no_drop and clamped):
            continue
        yield WiringFinding(
            "emitter-swapped",
            "error",
            f"{device.name} {anode.lead.name}, {collector.lead.name}",
            f"{device.name}: emitter and detector look swapped. The emitter’s place shows "
            f"{at_anode:.2f} V, the detector’s {at_collector:.2f} V.",
            f"A lit emitter holds its leg near {forward:g} V. Here the detector’s place does, as "
            "an emitter fed through the load would, and where the emitter should be nothing draws.",
            "common practice; look through a camera that sees near infrared: the emitter glows",
            (anode.spot, collector.spot),
            (
                Number("emitter’s place", at_anode, "V"),
                Number("detector’s place", at_collector, "V"),
            ),
        )


def _resistor(circuit: Circuit, thread: Thread, emitter: Emitter, volts: float) -> Repair | None:
    current = emitter.good_a.value
    if thread.pin is not None:
        drive = circuit.board.class_of(thread.pin).drive_a
        current = min(current, drive.value) if drive else current
    ohm = chosen_ohm(volts, emitter.forward_v.value, current)
    power = (volts - emitter.forward_v.value) ** 2 / ohm
    body = max(0.25, body_for(power) or 5.0)
    bead = Bead(BeadKind.SERIES, ohm=ohm, power_w=body)
    return restrung(
        thread,
        (bead, *without(thread, BeadKind.SERIES)),
        f"Put {prefixed(ohm, 'Ω')} before {thread.name}: "
        f"{prefixed((volts - emitter.forward_v.value) / ohm, 'A')}.",
    )


def _power(circuit: Circuit, thread: Thread, bead: Bead, current: float | None) -> float | None:
    """Heat of one resistor, W; for one to a rail, when its wire is at the other end."""
    assert bead.ohm is not None
    if bead.kind is BeadKind.SERIES:
        return None if current is None else current**2 * bead.ohm
    volts = max(
        (circuit.rail_volts(rail) for rail in circuit.board.rails if rail.name == bead.rail),
        default=circuit.board.logic_v.value,
    )
    if bead.kind is BeadKind.PULL_DOWN:
        full = thread.device.full_charge_v if thread.lead.role is Role.BATTERY else None
        supply = circuit.supply(thread.device)
        volts = full or (supply.volts if supply else volts)
        total = thread.series_ohm + bead.ohm
        return (volts / total) ** 2 * bead.ohm
    return volts**2 / bead.ohm
