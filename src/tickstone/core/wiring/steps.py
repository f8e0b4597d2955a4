"""The wiring list: what to do in what order, and what to measure where before going on."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from tickstone.core.display import prefixed
from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import Role
from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.measuring import Expected, measuring_points
from tickstone.core.wiring.netlist import Wiring
from tickstone.core.wiring.thread import Thread


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
    def is_by_hand(self) -> bool:
        """Whether only a person at the bench can vouch for it, so that it is ticked on its own.

        Wires are on the drawing and can be taken as they stand there; that the power is off, that
        a part sits the right way round or that nothing smells stands nowhere.
        """
        wires = (Phase.GROUND, Phase.SUPPLY, Phase.SIGNAL)
        return self.phase not in wires and self.expected is None

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
        *_supplies(circuit),
        *_connect(circuit, Phase.SUPPLY),
        *_reference(circuit),
        *_parts(circuit),
        *_connect(circuit, Phase.SIGNAL),
        *_polarity(circuit),
        *_looks(circuit),
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
    if any(thread.beads for thread in circuit.threads) or circuit.wiring.parts:
        yield WiringStep(
            "solder",
            Phase.OFF,
            "Lay out the parts by the bill of materials and check each by its bands.",
            caution="If you solder: the iron is hot, draw the fume away, wash your hands after.",
        )


def _wire(circuit: Circuit, thread: Thread, colour: str) -> str:
    assert thread.connection is not None
    parts = [bead for bead in thread.beads if bead.kind is not BeadKind.PIN_PULL_UP]
    text = f"{thread.name} to {circuit.place_words(thread.connection.to)}, {colour}"
    if parts:
        text += f"; {', '.join(_part(bead, thread.connection.to) for bead in parts)}"
    if len(parts) < len(thread.beads):
        text += "; the program switches on the pin’s own pull-up"
    return f"{text}."


def _part(bead: Bead, end: str) -> str:
    """Between what a part is soldered: in the wire, or from the wire's end to a rail."""
    if bead.kind is BeadKind.SERIES:
        return bead.words
    value = prefixed(bead.farad, "F") if bead.farad is not None else prefixed(bead.ohm or 0.0, "Ω")
    where = (bead.rail or "the logic supply") if bead.kind is BeadKind.PULL_UP else "ground"
    return f"{value} from {end} to {where}"


def _connect(circuit: Circuit, phase: Phase) -> Iterator[WiringStep]:
    for thread in circuit.threads:
        if thread.connection is None or _phase(thread) is not phase:
            continue
        cautions = thread.device.family.cautions if phase is Phase.SUPPLY else ()
        yield WiringStep(
            f"wire:{thread.device.key}:{thread.lead.name}",
            phase,
            _wire(circuit, thread, circuit.colour(thread)),
            thread.device.key,
            thread.lead.name,
            " ".join(cautions),
            needs_second=True,
            colour=circuit.colour(thread),
        )


def _supplies(circuit: Circuit) -> Iterator[WiringStep]:
    """Supplies of the person's own, before anything hangs on them."""
    for supply in circuit.wiring.supplies:
        ground = (
            "its minus to the board’s ground, black"
            if supply.has_common_ground
            else "its minus stays apart from the board’s ground"
        )
        is_cells = supply.cells is not None
        yield WiringStep(
            f"supply:{supply.key}",
            Phase.SUPPLY,
            f"{supply.words}, {prefixed(supply.volts.usual, 'V')}, not switched on yet: {ground}; "
            "its plus where the next lines say, red.",
            caution="Never short, pierce or charge a cell unattended; a fuse belongs in its plus."
            if is_cells
            else "",
            needs_second=True,
        )


def _parts(circuit: Circuit) -> Iterator[WiringStep]:
    """Parts that stand by themselves, each with what its legs go to."""
    for part in circuit.wiring.parts:
        ends = ", ".join(
            f"{leg} to {circuit.place_words(place)}" for leg, place in part.ends.items()
        )
        first, *rest = (circuit.place_words(place) for place in part.ends.values())
        plain = part.kind in (PartKind.WIRE, PartKind.RESISTOR, PartKind.CAPACITOR, PartKind.FUSE)
        name = "a wire" if part.kind is PartKind.WIRE else f"{part.key}, {part.words},"
        text = f"{name} between {first} and {rest[0]}" if plain else f"{name} with {ends}"
        yield WiringStep(
            f"part:{part.key}",
            Phase.SIGNAL,
            f"{text[0].upper()}{text[1:]}.",
            caution=""
            if plain or len(part.ends) < 3
            else "Look up which leg is which; makes differ.",
            needs_second=True,
        )


def _reference(circuit: Circuit) -> Iterator[WiringStep]:
    """The wire from a rail to the board's reference pin, when the reference in use wants one."""
    reference = circuit.wired_reference
    if reference is None:
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
        elif (role := thread.lead.role) is Role.SUPPLY:
            ground = next(
                (one for one in device.family.leads if one.role is Role.GROUND), thread.lead
            )
            is_first = thread is next(one for one in circuit.of(device) if one.lead.role is role)
            yield WiringStep(
                f"polarity:{device.key}" + ("" if is_first else f":{thread.lead.name}"),
                Phase.POLARITY,
                f"{device.name}: follow the wire at the pin marked {thread.lead.name} to "
                f"{thread.connection.to}, and the one marked {ground.name} to ground.",
                device.key,
                thread.lead.name,
                "Supply the wrong way round destroys it within a second.",
                needs_second=True,
            )


def _looks(circuit: Circuit) -> Iterator[WiringStep]:
    yield WiringStep(
        "look:shorts",
        Phase.LOOK,
        f"With the meter on ohms: {_rails_in_use(circuit)} connected to ground, whichever way the "
        "tips are; a beep or a few ohms is a short.",
        needs_second=True,
    )
    for thread in circuit.threads:
        halves = [
            bead.ohm
            for bead in thread.beads
            if bead.ohm is not None and bead.kind in (BeadKind.SERIES, BeadKind.PULL_DOWN)
        ]
        divides = any(bead.kind is BeadKind.PULL_DOWN for bead in thread.beads)
        if not divides or len(halves) < 2 or thread.pin is None or thread.connection is None:
            continue
        # Where one half is missing or bridged, the pin gets all the volts there are.
        below = next(b.ohm for b in thread.beads if b.kind is BeadKind.PULL_DOWN and b.ohm)
        above = sum(halves) - below
        yield WiringStep(
            f"ohms:{thread.device.key}:{thread.lead.name}",
            Phase.LOOK,
            f"With the meter on ohms, nothing powered: {prefixed(above, 'Ω')} from {thread.name} "
            f"to {thread.connection.to}, and {prefixed(below, 'Ω')} from {thread.connection.to} to "
            "ground, each within a tenth or a little less.",
            thread.device.key,
            thread.lead.name,
            needs_second=True,
        )
    for part in circuit.wiring.parts:
        if part.kind is PartKind.RESISTOR and part.ohm is not None and _guards(circuit, part):
            one, other = (circuit.place_words(place) for place in part.ends.values())
            yield WiringStep(
                f"ohms:part:{part.key}",
                Phase.LOOK,
                f"With the meter on ohms, nothing powered: {prefixed(part.ohm, 'Ω')} across "
                f"{part.key}, from {one} to {other}, within a tenth or a little less.",
                needs_second=True,
            )
    yield WiringStep(
        "look:loose",
        Phase.LOOK,
        "Pull gently at every wire; nothing bare touches anything, no wire lies near a wheel.",
        caution="Fibreglass dust and flux residue: extract or wipe, do not breathe, wash hands.",
        needs_second=True,
    )


def _rails_in_use(circuit: Circuit) -> str:
    """What may be shorted to ground, in words: rails something is on, and supplies."""
    used = {thread.rail.name for thread in circuit.threads if thread.rail is not None}
    names = [
        rail.name
        for rail in circuit.board.rails
        if rail.kind is not RailKind.GROUND and rail.name in used
    ]
    names += [f"the plus of {supply.words}" for supply in circuit.wiring.supplies]
    if not names:
        return "no supply rail is"
    return f"neither {' nor '.join(names)} is" if len(names) > 1 else f"{names[0]} is not"


def _guards(circuit: Circuit, resistor: Part) -> bool:
    """Whether a resistor holds off what its short or its open would let through: the current of a
    lamp or a base, or the volts a divider takes down."""
    nets = {circuit.nets.of(place) for place in resistor.ends.values()}
    loose = {net for net in nets if net not in circuit.solved.model.origins}
    loose -= {circuit.solved.model.ground}
    for part in circuit.wiring.parts:
        kinds = (PartKind.LED, PartKind.TRANSISTOR, PartKind.RESISTOR)
        ends = {circuit.nets.of(place) for place in part.ends.values()}
        if part is not resistor and part.kind in kinds and ends & loose:
            return True
    lamps = [one for one in circuit.threads if one.lead.role in (Role.ANODE, Role.CATHODE)]
    return any(circuit.nets.of(one.place) in loose for one in lamps)


def _power(circuit: Circuit) -> Iterator[WiringStep]:
    yield WiringStep(
        "power:on",
        Phase.POWER,
        "Plug in, watch and smell for five seconds, a hand on the plug.",
        caution="Wheels off the floor, a reachable stop, eye protection near anything that spins. "
        "This is not a safety device; on a road or near people local rules and a competent person "
        "decide.",
    )
    for point in measuring_points(circuit):
        yield WiringStep(
            f"measure:{point.expected.point}",
            Phase.POWER,
            point.text,
            point.device,
            point.lead,
            expected=point.expected,
        )
