"""Wires, the parts strung on them, and parts with legs, on the bench or inside a device."""

from __future__ import annotations

from tickstone.core.electric.network import Junction, Span, exact, within
from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.modelling.model import Model
from tickstone.core.wiring.netlist import Connection
from tickstone.core.wiring.nets import strung
from tickstone.core.wiring.pieces import LED_EMISSION_V, Capacitance, Driver, Owner, Piece

WIRE_F_PER_M = 60e-12
"""Capacitance of hook-up wire beside others, F/m (from memory: 50 to 100 pF/m)."""
CLOSED_OHM, FUSE_OHM, WIPER_OHM = 0.05, 0.05, 1.0
"""A closed contact, a small fuse, and what is left at the end of a track (from memory)."""
BIPOLAR_A, REVERSE_GAIN, USUAL_GAIN = 1e-14, 4.0, 100.0
"""A small-signal transistor: saturation current, reverse and least forward gain (from memory)."""
MOSFET_STEEPNESS, USUAL_THRESHOLD_V = 0.5, 2.0
"""A small logic-level MOSFET: about 2 Ω with 2 V over its threshold (from memory)."""


def add_wire(model: Model, one: Connection) -> None:
    """The parts strung on it, and its capacitance beside others."""
    for place, (bead, start, end) in enumerate(strung(one)):
        owner = Owner("bead", one.device, one.lead, key=str(place))
        _add_bead(model, bead, model.nets.of(start), model.nets.of(end) if end else "", owner, one)
    farad = model.wiring.settings.wire_m * WIRE_F_PER_M
    owner = Owner("wire", one.device, one.lead)
    net = model.nets.of(one.to)
    model.capacitances.append(Capacitance((net, model.ground), farad, owner))


def add_part(model: Model, part: Part, at: dict[str, str], owner: Owner) -> None:
    """A part whose legs are on these nets; a regulator and a bare wire add nothing."""
    match part.kind:
        case PartKind.RESISTOR if part.ohm is not None:
            model.resistor(at["a"], at["b"], within(part.ohm, part.tolerance), owner)
        case PartKind.FUSE:
            model.resistor(at["a"], at["b"], exact(FUSE_OHM), owner)
        case PartKind.CAPACITOR if part.farad is not None:
            farad = part.farad * (1.0 + part.tolerance)
            model.capacitances.append(Capacitance((at["a"], at["b"]), farad, owner, is_part=True))
        case PartKind.DIODE:
            forward = part.forward_v or 0.7
            model.diode(
                Junction(forward, 0.01, forward / LED_EMISSION_V, 0.5, 0.1),
                at["anode"],
                at["cathode"],
                owner,
            )
        case PartKind.LED if part.forward_v and part.max_a:
            model.diode(
                lamp_junction(part.forward_v, part.max_a / 2), at["anode"], at["cathode"], owner
            )
        case PartKind.TRANSISTOR:
            gain = part.gain or USUAL_GAIN
            nets = (at["base"], at["collector"], at["emitter"])
            model.pieces.append(
                Piece(
                    "bipolars",
                    nets,
                    Span(gain, 2.0 * gain, 4.0 * gain),
                    owner,
                    (BIPOLAR_A, REVERSE_GAIN),
                )
            )
        case PartKind.MOSFET:
            opens = part.threshold_v or USUAL_THRESHOLD_V
            nets = (at["gate"], at["drain"], at["source"])
            span = Span(0.6 * opens, 0.8 * opens, opens)
            model.pieces.append(Piece("mosfets", nets, span, owner, (MOSFET_STEEPNESS,)))
            body = Owner("body", owner.device, owner.lead, owner.pin, owner.key)
            model.diode(Junction(0.7, 0.1, 1.0, 0.5), at["source"], at["drain"], body)
        case PartKind.SWITCH:
            closed = model.drive(Driver(owner, ("open", "closed")))
            model.resistor(at["a"], at["b"], exact(CLOSED_OHM), owner, driver=closed, position=1)
        case PartKind.POTENTIOMETER if part.ohm is not None:
            _add_track(model, part.ohm, part.tolerance, at, owner)
        case PartKind.VARYING if part.least_ohm and part.most_ohm:
            moved = model.drive(Driver(owner, ("least", "most")))
            for position, ohm in enumerate((part.least_ohm, part.most_ohm)):
                span = within(ohm, part.tolerance)
                model.resistor(at["a"], at["b"], span, owner, driver=moved, position=position)
        case _:  # a regulator holds its output's net; a wire has made one net of two
            return


def _add_bead(
    model: Model, bead: Bead, net: str, onward: str, owner: Owner, one: Connection
) -> None:
    if bead.kind is BeadKind.SERIES and bead.ohm is not None:
        model.resistor(net, onward, within(bead.ohm, bead.tolerance), owner)
    elif bead.kind is BeadKind.PULL_DOWN and bead.ohm is not None:
        model.resistor(net, model.ground, within(bead.ohm, bead.tolerance), owner)
    elif bead.kind is BeadKind.PULL_UP and bead.ohm is not None:
        rail = model.nets.of(bead.rail) if bead.rail else model.logic()
        model.resistor(net, rail, within(bead.ohm, bead.tolerance), owner)
    elif bead.kind is BeadKind.CAPACITOR and bead.farad is not None:
        farad = bead.farad * (1.0 + bead.tolerance)
        model.capacitances.append(Capacitance((net, model.ground), farad, owner, is_part=True))
    elif bead.kind is BeadKind.PIN_PULL_UP and not model.is_board_off:
        pin = model.wiring.board.pin(one.to)
        own = model.wiring.board.class_of(pin).pull_up_ohm if pin else None
        if own is not None:
            model.resistor(net, model.logic(), within(own.value, 0.5), owner)


def _add_track(
    model: Model, ohm: float, tolerance: float, at: dict[str, str], owner: Owner
) -> None:
    """A potentiometer with its wiper at one end, in the middle, and at the other."""
    moved = model.drive(Driver(owner, ("at a", "in the middle", "at b")))
    for position, share in enumerate((0.0, 0.5, 1.0)):
        for leg, part in (("a", share), ("b", 1.0 - share)):
            span = within(max(ohm * part, WIPER_OHM), tolerance)
            model.resistor(at[leg], at["wiper"], span, owner, driver=moved, position=position)


def lamp_junction(forward_v: float, at_a: float) -> Junction:
    """An LED from its forward volts, ± 10 % (common practice)."""
    return Junction(forward_v, at_a, forward_v / LED_EMISSION_V, 2.0, 0.1)
