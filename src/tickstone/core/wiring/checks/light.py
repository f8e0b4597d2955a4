"""LEDs, what limits their current, and the bare phototransistors that look at them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.electric.led_resistor import body_for, chosen_ohm
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import Bead, BeadKind, pull_down, pull_up
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, WiringFinding, offered
from tickstone.core.wiring.lamps import Lamp, lamps_of
from tickstone.core.wiring.repairing import restrung, without
from tickstone.core.wiring.solved import FLOATING_OHM

COMMON_LOAD_OHM = 4_700.0
"""A load people use with a bare phototransistor (common practice); the light bench finds better."""
DARK_SHARE = 0.03
"""An LED that gets less of its usual current is dark (our choice)."""


def led_current(circuit: Circuit) -> Iterator[WiringFinding]:
    """No resistor, too small a one, or too few volts to light at all."""
    for lamp in lamps_of(circuit):
        if lamp.is_shorted or not lamp.is_wired:
            continue
        if lamp.amps.high > lamp.max_a and not lamp.has_resistor:
            yield WiringFinding(
                "missing-led-resistor",
                Happens.DESTROYS,
                lamp.where,
                f"{lamp.name} has no resistor: from {prefixed(lamp.feed_v, 'V')} nothing limits "
                "its current.",
                "An LED is not a resistor; above its forward volts the current rises until "
                "something gives.",
                "R = (V_s − V_f)/I",
                lamp.spots,
                (Number("supply", lamp.feed_v, "V"), Number("forward", lamp.forward_v, "V")),
                offered(_resistor(circuit, lamp)),
            )
        elif lamp.amps.high > lamp.max_a:
            yield WiringFinding(
                "led-resistor-small",
                Happens.DESTROYS if lamp.amps.usual > lamp.max_a else Happens.LUCK,
                lamp.where,
                f"{lamp.name} gets {prefixed(lamp.amps.usual, 'A')}, up to "
                f"{prefixed(lamp.amps.high, 'A')}; it bears {prefixed(lamp.max_a, 'A')}.",
                "It ages fast, drifts while it warms, and floods its detector.",
                lamp.source,
                lamp.spots,
                (Number("current", lamp.amps.high, "A"), Number("bears", lamp.max_a, "A")),
                offered(_resistor(circuit, lamp)),
            )
        elif lamp.amps.usual < DARK_SHARE * lamp.good_a or lamp.feed_v <= lamp.forward_v:
            is_dark = lamp.amps.usual < 5.0 * DARK_SHARE * lamp.good_a
            yield WiringFinding(
                "led-dark",
                Happens.FAILS if is_dark else Happens.LUCK,
                lamp.where,
                f"{lamp.name} {'stays dark' if is_dark else 'is dim'}: it gets "
                f"{prefixed(lamp.amps.usual, 'A')} at most.",
                f"It wants about {lamp.forward_v:g} V across it before it lights, the right way "
                f"round, and there are {prefixed(lamp.feed_v, 'V')} to share.",
                lamp.source,
                lamp.spots,
                (
                    Number("current", lamp.amps.usual, "A"),
                    Number("wanted", lamp.good_a, "A"),
                    Number("forward", lamp.forward_v, "V"),
                ),
                offered(_resistor(circuit, lamp)),
                "an LED of fewer volts, or a transistor that switches it from a higher supply",
            )


def _resistor(circuit: Circuit, lamp: Lamp) -> Repair | None:
    """One resistor for one LED, for its good current, whichever of its legs has the wire."""
    thread = lamp.thread
    if thread is None or lamp.feed_v <= lamp.forward_v:
        return None
    current = lamp.good_a
    drive = circuit.drive_a
    if lamp.is_on_pin and drive:
        current = min(current, drive)
    ohm = chosen_ohm(lamp.feed_v, lamp.forward_v, current)
    power = (lamp.feed_v - lamp.forward_v) ** 2 / ohm
    bead = Bead(BeadKind.SERIES, ohm=ohm, power_w=max(0.25, body_for(power) or 5.0))
    other = lamp.other_thread
    beads = (bead, *without(thread, BeadKind.SERIES))
    repair = restrung(
        thread,
        beads,
        f"Put {prefixed(ohm, 'Ω')} before {thread.name}: "
        f"{prefixed((lamp.feed_v - lamp.forward_v) / ohm, 'A')}.",
    )
    if repair is None or other is None:
        return repair
    cleared = restrung(other, without(other, BeadKind.SERIES), repair.text)
    if cleared is None:
        return repair
    return Repair(repair.text, (*repair.connections, *cleared.connections))


def shared_resistor(circuit: Circuit) -> Iterator[WiringFinding]:
    """LEDs side by side on one resistor."""
    by_nets: dict[tuple[str, str], list[Lamp]] = defaultdict(list)
    for lamp in lamps_of(circuit):
        if lamp.is_wired and not lamp.is_shorted:
            by_nets[lamp.nets].append(lamp)
    for lamps in by_nets.values():
        if len(lamps) < 2:
            continue
        names = ", ".join(one.name for one in lamps)
        yield WiringFinding(
            "lamps-share-resistor",
            Happens.BETTER,
            names,
            f"{names} lie side by side on one resistor and share its current unevenly.",
            "The one with the lowest forward volts takes most of it, and more the warmer it gets. "
            "Give each its own.",
            "common practice",
            tuple(spot for one in lamps for spot in one.spots[:1]),
        )


def photo_load(circuit: Circuit) -> Iterator[WiringFinding]:
    """A bare phototransistor without the resistor that turns its current into volts."""
    for thread in circuit.threads:
        role = thread.lead.role
        if role not in (Role.COLLECTOR, Role.EMITTER) or thread.lead.wants is None:
            continue
        point = circuit.solved.at(thread.place)
        if point.island is None or thread.connection is None:
            continue
        if point.behind_ohm(point.island.rest_state) < FLOATING_OHM:
            continue
        up = role is Role.COLLECTOR
        bead = pull_up(COMMON_LOAD_OHM) if up else pull_down(COMMON_LOAD_OHM)
        yield WiringFinding(
            "missing-photo-load",
            Happens.FAILS,
            thread.where,
            f"{thread.name} has no load resistor to {'the supply' if up else 'ground'}.",
            "A phototransistor passes a current; without a resistor there is no voltage to read.",
            "common practice: 4.7 kΩ to start with",
            (thread.spot,),
            repairs=offered(
                restrung(thread, (*thread.beads, bead), f"Put {bead.words} on {thread.name}.")
            ),
        )


def emitter_swapped(circuit: Circuit) -> Iterator[WiringFinding]:
    """Measured volts that only an emitter and a detector in each other's place give."""
    measured = circuit.wiring.measured
    for device in circuit.wiring.devices:
        threads = {thread.lead.role: thread for thread in circuit.of(device)}
        anode, collector = threads.get(Role.ANODE), threads.get(Role.COLLECTOR)
        if anode is None or collector is None or anode.lead.emitter is None:
            continue
        lamp = next((one for one in lamps_of(circuit) if one.thread is anode), None)
        at_anode = measured.get(f"{device.key}.{anode.lead.name}")
        at_collector = measured.get(f"{device.key}.{collector.lead.name}")
        if lamp is None or at_anode is None or at_collector is None:
            continue
        forward = anode.lead.emitter.forward_v.value
        no_drop = at_anode > max(0.8 * lamp.feed_v, forward + 0.5)
        clamped = abs(at_collector - forward) < 0.35
        if not (no_drop and clamped):
            continue
        yield WiringFinding(
            "emitter-swapped",
            Happens.FAILS,
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
