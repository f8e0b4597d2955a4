"""The wiring list: what to do in what order, and what to measure where before going on."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from tickstone.core.display import prefixed
from tickstone.core.electric.ladder import Source, corners
from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.bus_lines import bus_lines
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.netlist import Wiring

METER_SHARE, METER_V = 0.01, 0.02
"""What a handheld meter may be off: 1 % and two counts of 10 mV (from memory)."""


class Phase(StrEnum):
    """The order of work (common practice)."""

    OFF = "off"
    GROUND = "ground"
    SUPPLY = "supply"
    SIGNAL = "signal"
    POLARITY = "polarity"
    LOOK = "look"
    POWER = "power"

    @property
    def heading(self) -> str:
        """As a heading."""
        return _TITLES[self]


_TITLES = {
    Phase.OFF: "Power off",
    Phase.GROUND: "Grounds",
    Phase.SUPPLY: "Supplies",
    Phase.SIGNAL: "Signals and their parts",
    Phase.POLARITY: "Which way round",
    Phase.LOOK: "A second pair of eyes",
    Phase.POWER: "Power and measure",
}


@dataclass(frozen=True, slots=True)
class Expected:
    """Volts to find between a test point and ground, meter's error included. point: its name."""

    point: str
    low_v: float
    high_v: float

    def passes(self, volts: float) -> bool:
        """Whether what was measured is what should be.

        >>> Expected("5V", 4.7, 5.3).passes(4.2)
        False
        """
        return self.low_v <= volts <= self.high_v


@dataclass(frozen=True, slots=True)
class WiringStep:
    """One line of the list. key: its own as long as it is about the same thing.

    fingerprint: changes when what is to be done changes; a tick holds only for its fingerprint.
    needs_second: a second person looks at it too. device: the key of the one it is about, if any.
    """

    key: str
    phase: Phase
    text: str
    device: str = ""
    lead: str = ""
    caution: str = ""
    needs_second: bool = False
    expected: Expected | None = None
    colour: str = ""

    @property
    def fingerprint(self) -> str:
        """Short, of everything that is said."""
        said = "\n".join((self.key, self.text, self.caution))
        return hashlib.sha256(said.encode()).hexdigest()[:16]


def wiring_steps(wiring: Wiring) -> tuple[WiringStep, ...]:
    """The whole list, in a safe order: nothing carries current before it was looked at twice."""
    circuit = Circuit(wiring)
    return (
        *_off(circuit),
        *_connect(circuit, Phase.GROUND),
        *_connect(circuit, Phase.SUPPLY),
        *_reference(circuit),
        *_connect(circuit, Phase.SIGNAL),
        *_polarity(circuit),
        *_looks(),
        *_power(circuit),
    )


def _off(circuit: Circuit) -> Iterator[WiringStep]:
    yield WiringStep(
        "off",
        Phase.OFF,
        f"Unplug the {circuit.board.label} and take the battery out.",
        caution="Never short, pierce or charge a lithium cell unattended; use the right charger."
        if any(device.full_charge_v for device in circuit.wiring.devices)
        else "",
    )
    if any(thread.beads for thread in circuit.threads):
        yield WiringStep(
            "solder",
            Phase.OFF,
            "Lay out the parts by the bill of materials and check each by its bands.",
            caution="If you solder: the iron is hot, draw the fume away, wash your hands after.",
        )


def _wire(thread: Thread, colour: str) -> str:
    assert thread.connection is not None
    parts = [bead for bead in thread.beads if bead.kind is not BeadKind.PIN_PULL_UP]
    text = f"{thread.name} to {thread.connection.to}, {colour}"
    if parts:
        text += f"; {', '.join(bead.words for bead in parts)}"
    if len(parts) < len(thread.beads):
        text += "; the program switches on the pin’s own pull-up"
    return f"{text}."


def _connect(circuit: Circuit, phase: Phase) -> Iterator[WiringStep]:
    for thread in circuit.threads:
        if thread.connection is None or _phase(thread) is not phase:
            continue
        cautions = thread.device.family.cautions if phase is Phase.SUPPLY else ()
        yield WiringStep(
            f"wire:{thread.device.key}:{thread.lead.name}",
            phase,
            _wire(thread, circuit.colour(thread)),
            thread.device.key,
            thread.lead.name,
            " ".join(cautions),
            needs_second=True,
            colour=circuit.colour(thread),
        )


def _reference(circuit: Circuit) -> Iterator[WiringStep]:
    """The wire from a rail to the board's reference pin, when the reference in use wants one."""
    reference = circuit.reference
    if reference is None or not reference.rail or not circuit.has_analogue:
        return
    yield WiringStep(
        "reference",
        Phase.SUPPLY,
        f"{reference.rail} to the board’s reference pin, red.",
        caution="Upload a program that chooses the external reference first: with an inside one "
        "chosen, the two fight over the pin.",
        needs_second=True,
        colour="red",
    )


def _phase(thread: Thread) -> Phase:
    if thread.rail is None:
        return Phase.SIGNAL
    return Phase.GROUND if thread.rail.kind is RailKind.GROUND else Phase.SUPPLY


def _polarity(circuit: Circuit) -> Iterator[WiringStep]:
    for thread in circuit.threads:
        device = thread.device
        if thread.connection is None:
            continue
        if thread.lead.role is Role.ANODE:
            infrared = thread.lead.emitter is not None and thread.lead.emitter.is_infrared
            yield WiringStep(
                f"polarity:{device.key}",
                Phase.POLARITY,
                f"{device.name}: the longer leg is {thread.lead.name}; the flat side of the rim is "
                "the cathode.",
                device.key,
                thread.lead.name,
                "Judge an infrared emitter by a camera that sees it, never by eye."
                if infrared
                else "",
                needs_second=True,
            )
        elif thread.lead.role is Role.SUPPLY:
            ground = next(
                (one for one in device.family.leads if one.role is Role.GROUND), thread.lead
            )
            yield WiringStep(
                f"polarity:{device.key}",
                Phase.POLARITY,
                f"{device.name}: follow the wire at the pin marked {thread.lead.name} to "
                f"{thread.connection.to}, and the one marked {ground.name} to ground.",
                device.key,
                thread.lead.name,
                "Supply the wrong way round destroys it within a second.",
                needs_second=True,
            )


def _looks() -> Iterator[WiringStep]:
    yield WiringStep(
        "look:shorts",
        Phase.LOOK,
        "With the meter on ohms: no supply rail is connected to ground.",
        needs_second=True,
    )
    yield WiringStep(
        "look:loose",
        Phase.LOOK,
        "Pull gently at every wire; nothing bare touches anything, no wire lies near a wheel.",
        caution="Fibreglass dust and flux residue: extract or wipe, do not breathe, wash hands.",
        needs_second=True,
    )


def _power(circuit: Circuit) -> Iterator[WiringStep]:
    yield WiringStep(
        "power:on",
        Phase.POWER,
        "Plug in, watch and smell for five seconds, a hand on the plug.",
        caution="Wheels off the floor, a reachable stop, eye protection near anything that spins. "
        "This is not a safety device; on a road or near people local rules and a competent person "
        "decide.",
    )
    for expected, text, device, lead in _test_points(circuit):
        yield WiringStep(
            f"measure:{expected.point}", Phase.POWER, text, device, lead, expected=expected
        )


def _test_points(circuit: Circuit) -> Iterator[tuple[Expected, str, str, str]]:
    """Volts that can be known beforehand: rails in use, lifted leads, dividers, lit emitters."""
    used = {one.rail.name for one in circuit.threads if one.rail is not None}
    for rail in circuit.board.rails:
        if rail.kind is RailKind.GROUND or rail.name not in used:
            continue
        volts, spread = circuit.rail_volts(rail), circuit.rail_tolerance(rail) or 0.05
        yield (
            _around(rail.name, volts * (1 - spread), volts * (1 + spread)),
            f"Between {rail.name} and ground, about {prefixed(volts, 'V')}.",
            "",
            "",
        )
    for thread in circuit.threads:
        point = f"{thread.device.key}.{thread.lead.name}"
        if thread.pin is None and thread.lead.role is not Role.ANODE:
            continue
        found = _resting(circuit, thread)
        if found is not None:
            (low, high), when = found
            where = thread.pin.name if thread.pin is not None else f"the {thread.lead.name} leg"
            yield (
                _around(point, low, high),
                f"{thread.name} at {where}, {when}: {prefixed((low + high) / 2, 'V')} or so.",
                thread.device.key,
                thread.lead.name,
            )


def _resting(circuit: Circuit, thread: Thread) -> tuple[tuple[float, float], str] | None:
    output = thread.lead.output
    if output is not None and output.drive is Drive.OPEN_DRAIN:
        high = circuit.high_source(thread)
        return (corners(*high), "at rest") if high is not None else None
    if thread.lead.role is Role.BATTERY and thread.device.full_charge_v is not None:
        full = thread.device.full_charge_v
        rungs = circuit.rungs(thread)
        low, _ = corners(Source(0.6 * full, 0.0), rungs)
        _, high_v = corners(Source(full, 0.0), rungs)
        return (low, high_v), "with a charged battery"
    if thread.lead.emitter is not None and thread.rail is not None and thread.series_ohm > 0.0:
        forward = thread.lead.emitter.forward_v.value
        return (0.75 * forward, 1.3 * forward), "lit, at the leg after its resistor"
    if thread.lead.role is Role.COLLECTOR and any(rung.to_volts for rung in circuit.rungs(thread)):
        volts = circuit.board.logic_v.value
        return (0.6 * volts, 1.05 * volts), "over something dark"
    if thread.lead.role in (Role.SDA, Role.SCL):
        for line in bus_lines(circuit):
            if thread.spot in [one.spot for one in line.threads[:1]] and line.ohm < 1e9:
                return (0.9 * line.volts, 1.06 * line.volts), "with the bus at rest"
    return None


def _around(point: str, low: float, high: float) -> Expected:
    return Expected(
        point,
        round(low * (1 - METER_SHARE) - METER_V, 3),
        round(high * (1 + METER_SHARE) + METER_V, 3),
    )
