"""A battery through a divider: under the reference at full charge, and stiff enough."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.electric.divider import choose_divider
from tickstone.core.electric.ladder import Source, along, corners
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import pull_down, series
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.repairing import restrung, without_resistors

BATTERY_TOTAL_OHM = 20_000.0


def source_stiffness(circuit: Circuit) -> Iterator[WiringFinding]:
    """A divider too weak to charge the converter's input in time."""
    converter = circuit.board.converter
    for thread in circuit.threads:
        if converter is None or thread.pin is None or thread.lead.role is not Role.BATTERY:
            continue
        behind = along(Source(0.0, 0.0), circuit.rungs(thread)).ohm
        if behind <= converter.source_ohm.value:
            continue
        yield WiringFinding(
            "divider-weak",
            "note",
            thread.where,
            f"{thread.name} comes through {prefixed(behind, 'Ω')}; the converter wants "
            f"{prefixed(converter.source_ohm.value, 'Ω')} at most.",
            "Its sampling capacitor is not charged in time, and the reading leans towards the "
            "channel before.",
            converter.source_ohm.source,
            (thread.spot,),
            (
                Number("behind the pin", behind, "Ω"),
                Number("wanted", converter.source_ohm.value, "Ω"),
            ),
            _battery_divider(circuit, thread),
        )


def battery_divider(circuit: Circuit) -> Iterator[WiringFinding]:
    """The battery at full charge against the reference and what the pin bears."""
    reference = circuit.reference
    for thread in circuit.threads:
        if thread.lead.role is not Role.BATTERY or thread.pin is None or reference is None:
            continue
        full = thread.device.full_charge_v
        if full is None:
            yield WiringFinding(
                "battery-unstated",
                "warning",
                thread.where,
                f"Nobody has said how many volts {thread.device.name} has at full charge.",
                "Cells × volts at full charge: 4.2 V for lithium, about 1.6 V for alkaline, 1.45 V "
                "for nickel-metal hydride (from memory).",
                "common practice",
                (thread.spot,),
            )
            continue
        rungs = circuit.rungs(thread)
        nominal = along(Source(full, 0.0), rungs).volts
        _, high = corners(Source(full, 0.0), rungs)
        most = circuit.board.class_of(thread.pin).absolute_max_v
        if high <= reference.volts.value * (1 + 1e-9):
            continue
        kills = high > most.value
        yield WiringFinding(
            "battery-over-reference",
            "error" if kills else "warning",
            thread.where,
            f"At full charge {thread.device.name} puts {nominal:.2f} V on {thread.pin.name}, up to "
            f"{high:.2f} V with tolerances; "
            + (
                f"the pin bears {most.value:g} V."
                if kills
                else f"over {reference.volts.value:g} V nothing more is seen."
            ),
            "A battery just charged is when the reading matters and when it is highest.",
            most.source if kills else "ideal converter",
            (thread.spot,),
            (
                Number("full charge", full, "V"),
                Number("at the pin", nominal, "V"),
                Number("worst case", high, "V"),
                Number("reference", reference.volts.value, "V"),
                Number("pin bears", most.value, "V"),
            ),
            _battery_divider(circuit, thread),
        )


def _battery_divider(circuit: Circuit, thread: Thread) -> Repair | None:
    full, reference = thread.device.full_charge_v, circuit.reference
    if full is None or reference is None:
        return None
    limit = reference.volts.value
    if full <= limit:
        return restrung(thread, without_resistors(thread), f"Take the resistors off {thread.name}.")
    pair = choose_divider(full, limit, limit, total_ohm=BATTERY_TOTAL_OHM)
    if pair is None:
        return None
    beads = (*without_resistors(thread), series(pair.top_ohm), pull_down(pair.bottom_ohm))
    return restrung(
        thread,
        beads,
        f"Put {prefixed(pair.top_ohm, 'Ω')} over {prefixed(pair.bottom_ohm, 'Ω')} on "
        f"{thread.name}: {pair.nominal_v:.2f} V at full charge, {pair.high_v:.2f} V at most.",
    )
