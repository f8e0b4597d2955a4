"""A battery that is measured: its volts said, under the reference, and stiff enough."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, WiringFinding, offered
from tickstone.core.wiring.modelling.pins import LEAK_A
from tickstone.core.wiring.repairing import battery_divider

LEAK_SHARE = 0.02
"""Leakage that moves a reading by more of its span spoils it (our choice)."""


def source_stiffness(circuit: Circuit) -> Iterator[WiringFinding]:
    """What the converter reads through more resistance than it wants."""
    converter = circuit.board.converter
    for look in circuit.pin_looks:
        thread = next((one for one in look.threads if one.lead.wants is Ability.ANALOGUE), None)
        if converter is None or thread is None or look.point.island is None:
            continue
        if thread.lead.role in (Role.COLLECTOR, Role.EMITTER):
            continue  # its load is chosen for its light, on the bench of that
        behind = max(look.point.behind_ohm(state) for state in look.states)
        leak = look.limits.leak_a.value if look.limits.leak_a else LEAK_A
        held = circuit.solved.capacitor_f(look.point)
        full = circuit.reference.volts.value if circuit.reference else circuit.board.logic_v.value
        is_leaky = leak * behind > LEAK_SHARE * full
        is_weak = behind > converter.source_ohm.value * (1 + 1e-6) and held < 1e-8
        if look.point.is_floating or not (is_weak or is_leaky):
            continue
        yield WiringFinding(
            "divider-weak",
            Happens.LUCK if is_leaky else Happens.BETTER,
            thread.where,
            f"{thread.name} comes through {prefixed(behind, 'Ω')}; the converter wants "
            f"{prefixed(converter.source_ohm.value, 'Ω')} at most."
            + (f" What the pin leaks moves it by up to {prefixed(leak * behind, 'V')}." * is_leaky),
            "Its sampling capacitor is not charged in time, and the reading leans towards the "
            "channel before. 100 nF from the pin to ground help where the signal is slow.",
            converter.source_ohm.source,
            (thread.spot,),
            (
                Number("behind the pin", behind, "Ω"),
                Number("by leakage", leak * behind, "V"),
                Number("wanted", converter.source_ohm.value, "Ω"),
            ),
            offered(battery_divider(circuit, thread)) if thread.lead.role is Role.BATTERY else (),
        )


def battery_range(circuit: Circuit) -> Iterator[WiringFinding]:
    """The battery at full charge against the reference; what the pin bears is looked at there."""
    reference = circuit.reference
    for thread in circuit.threads:
        if thread.lead.role is not Role.BATTERY or thread.pin is None or reference is None:
            continue
        full = thread.device.full_charge_v
        if full is None:
            yield WiringFinding(
                "battery-unstated",
                Happens.LUCK,
                thread.where,
                f"Nobody has said how many volts {thread.device.name} has at full charge.",
                "Cells × volts at full charge: 4.2 V for lithium, about 1.6 V for alkaline, 1.45 V "
                "for nickel-metal hydride (from memory).",
                "common practice",
                (thread.spot,),
            )
            continue
        look = next(one for one in circuit.pin_looks if one.pin is thread.pin)
        highest = look.point.highest()
        if highest is None:
            continue  # nothing measures it yet; that is told as such
        volts = highest[1]
        most = look.limits.absolute_max_v.value
        if volts.high <= reference.volts.value * (1 + 1e-9) or volts.high > most + 1e-9:
            continue
        yield WiringFinding(
            "battery-over-reference",
            Happens.LUCK,
            thread.where,
            f"At full charge {thread.device.name} puts {volts.usual:.2f} V on {thread.pin.name}, "
            f"up to {volts.high:.2f} V with tolerances; over {reference.volts.value:g} V nothing "
            "more is seen.",
            "A battery just charged is when the reading matters and when it is highest.",
            "ideal converter",
            (thread.spot,),
            (
                Number("full charge", full, "V"),
                Number("at the pin", volts.usual, "V"),
                Number("worst case", volts.high, "V"),
                Number("reference", reference.volts.value, "V"),
                Number("pin bears", most, "V"),
            ),
            offered(battery_divider(circuit, thread)),
        )
