"""Analogue leads against the converter: range, reference, stiffness, and the battery divider."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import grouped, prefixed
from tickstone.core.electric.divider import choose_divider
from tickstone.core.electric.ladder import Rung, Source, along, corners
from tickstone.core.families.board_family import Reference
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import pull_down, series
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.repairing import restrung, without_resistors

LEAST_SHARE = 0.45
"""A signal that spans less of the reference is told so; under half the codes (our choice)."""
BATTERY_TOTAL_OHM = 20_000.0


def analogue_span(circuit: Circuit, thread: Thread) -> tuple[float, float] | None:
    """Lowest and highest volts an analogue lead puts on its pin, nominal; None when unknown."""
    analogue = thread.lead.analogue
    if analogue is None or thread.pin is None:
        return None
    scale = 1.0
    if analogue.ratiometric:
        supply = circuit.supply(thread.device)
        if supply is None:
            return None
        scale = supply.volts / analogue.at_supply_v
    rungs = circuit.rungs(thread)
    low, high = (
        along(Source(volts.value * scale, 0.0), rungs).volts
        for volts in (analogue.low_v, analogue.high_v)
    )
    return low, high


def analogue_range(circuit: Circuit) -> Iterator[WiringFinding]:
    """A signal beyond what the pin bears or the reference reaches, or far under it."""
    reference = circuit.reference
    for thread in circuit.threads:
        span = analogue_span(circuit, thread)
        if span is None or reference is None or thread.pin is None:
            continue
        converter = circuit.board.converter
        assert converter is not None
        full, most = reference.volts.value, circuit.board.class_of(thread.pin).absolute_max_v
        codes = 2**converter.bits
        used = max(0.0, min(span[1], full) - min(span[0], full)) / full
        numbers = (
            Number("signal low", span[0], "V"),
            Number("signal high", span[1], "V"),
            Number("reference", full, "V"),
            Number("codes used", round(used * codes), ""),
            Number("codes", float(codes), ""),
        )
        if span[1] > most.value:
            supply = thread.device.family.supply
            yield WiringFinding(
                "analogue-too-high",
                "error",
                thread.where,
                f"{thread.name} reaches {prefixed(span[1], 'V')}; {thread.pin.name} bears "
                f"{most.value:g} V.",
                "A divider, or a lower supply where the part allows one, brings it down.",
                most.source,
                (thread.spot,),
                numbers,
                _divide(thread, span[1], full, most.value) if supply is not None else None,
            )
        elif span[1] > full * 1.02:
            yield WiringFinding(
                "analogue-beyond",
                "warning",
                thread.where,
                f"{thread.name} reaches {prefixed(span[1], 'V')}, beyond the reference of "
                f"{full:g} V: the top reads as one and the same.",
                f"Everything over the reference is code {codes - 1}.",
                "ideal converter: code = volts ÷ reference × 2ⁿ",
                (thread.spot,),
                numbers,
                _other_reference(circuit) or _divide(thread, span[1], full, most.value),
            )
        elif used < LEAST_SHARE:
            yield WiringFinding(
                "analogue-small",
                "note",
                thread.where,
                f"{thread.name} uses {grouped(used * codes, 0)} of {grouped(codes, 0)} codes: "
                f"{prefixed(span[0], 'V')} to {prefixed(span[1], 'V')} of {full:g} V.",
                "The rest of the resolution goes unused. A lower reference helps when every "
                "analogue lead stays under it.",
                "ideal converter: code = volts ÷ reference × 2ⁿ",
                (thread.spot,),
                numbers,
                _other_reference(circuit),
            )


def ratiometric(circuit: Circuit) -> Iterator[WiringFinding]:
    """A part whose output scales with its supply, read against another reference."""
    reference, converter = circuit.reference, circuit.board.converter
    for thread in circuit.threads:
        analogue, rail = thread.lead.analogue, circuit.supply_rail(thread.device)
        if analogue is None or not analogue.ratiometric or thread.pin is None or rail is None:
            continue
        if reference is None or converter is None:
            continue
        same = reference.follows_supply and rail.name == circuit.board.logic_rail.name
        if same or _is_rail(reference, circuit, rail.name):
            continue
        tolerance = circuit.rail_tolerance(rail) + circuit.rail_tolerance(circuit.board.logic_rail)
        span = analogue_span(circuit, thread)
        if span is None:
            continue
        codes = 2**converter.bits
        drift = tolerance * span[1] / reference.volts.value * codes
        lost = codes * (1.0 - min(1.0, circuit.rail_volts(rail) / reference.volts.value))
        yield WiringFinding(
            "ratiometric-reference",
            "warning",
            thread.where,
            f"{thread.name} scales with {rail.name}, but is read against {reference.name}: "
            f"up to {grouped(drift, 0)} codes of drift"
            + (
                f", and {grouped(lost, 0)} of {grouped(codes, 0)} codes never used."
                if lost >= 1
                else "."
            ),
            "A ratiometric part wants the converter’s reference to be its own supply; then both "
            "drift together and it cancels.",
            "common practice",
            (thread.spot,),
            (
                Number("supply", circuit.rail_volts(rail), "V"),
                Number("reference", reference.volts.value, "V"),
                Number("codes of drift", round(drift), ""),
                Number("codes never used", round(lost), ""),
            ),
            _matching_reference(circuit, rail.name),
        )


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


def _divide(thread: Thread, volts: float, full: float, most: float) -> Repair | None:
    pair = choose_divider(volts, min(full, most), min(full, most))
    if pair is None:
        return None
    return restrung(
        thread,
        (*without_resistors(thread), series(pair.top_ohm), pull_down(pair.bottom_ohm)),
        f"Put {prefixed(pair.top_ohm, 'Ω')} over {prefixed(pair.bottom_ohm, 'Ω')} on "
        f"{thread.name}: {pair.nominal_v:.2f} V at most nominal.",
    )


def _is_rail(reference: Reference, circuit: Circuit, rail: str) -> bool:
    """Whether a reference is the rail itself, brought to the reference pin."""
    return reference.name.startswith(f"{rail} on ")


def _matching_reference(circuit: Circuit, rail: str) -> Repair | None:
    """The reference that is the part's own supply, when all analogue leads stay under it."""
    converter = circuit.board.converter
    assert converter is not None
    for reference in converter.references:
        follows = reference.follows_supply and rail == circuit.board.logic_rail.name
        if (follows or _is_rail(reference, circuit, rail)) and _all_under(circuit, reference):
            return _use(circuit, reference)
    return None


def _other_reference(circuit: Circuit) -> Repair | None:
    """The lowest reference every analogue lead stays under, when that is not the one in use."""
    converter = circuit.board.converter
    assert converter is not None
    fitting = [one for one in converter.references if _all_under(circuit, one)]
    best = min(fitting, key=lambda one: one.volts.value, default=None)
    if best is None or best is circuit.reference:
        return None
    return _use(circuit, best)


def _use(circuit: Circuit, reference: Reference) -> Repair:
    return Repair(
        f"Use the reference “{reference.name}”.",
        settings=replace(circuit.settings, reference=reference.name),
    )


def _all_under(circuit: Circuit, reference: Reference) -> bool:
    """Whether no analogue lead goes over a reference, and ratiometric ones still match theirs."""
    for thread in circuit.threads:
        if thread.lead.role is Role.BATTERY and thread.pin is not None:
            full = thread.device.full_charge_v
            if full is None:
                return False
            volts: list[Rung] = circuit.rungs(thread)
            if corners(Source(full, 0.0), volts)[1] > reference.volts.value:
                return False
        bare = thread.lead.role in (Role.COLLECTOR, Role.EMITTER) and thread.pin is not None
        if bare and reference.volts.value < circuit.board.logic_v.value * 0.98:
            return False
        span = analogue_span(circuit, thread)
        if span is None:
            continue
        if span[1] > reference.volts.value * 1.02:
            return False
        analogue, rail = thread.lead.analogue, circuit.supply_rail(thread.device)
        if analogue is not None and analogue.ratiometric and rail is not None:
            follows = reference.follows_supply and rail.name == circuit.board.logic_rail.name
            if not (follows or _is_rail(reference, circuit, rail.name)):
                return False
    return True
