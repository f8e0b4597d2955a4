"""Wirings as people make them: proposed, then with some mistakes; each from its own seed."""

from __future__ import annotations

from dataclasses import replace
from random import Random

from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind, capacitor, pull_down, pull_up, series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Connection, Device, Settings, Wiring, place_of
from tickstone.core.wiring.power_supply import Chemistry, PowerSupply
from tickstone.core.wiring.proposal import propose
from tickstone.formats.family_file import shipped_boards, shipped_devices

BOARDS, DEVICES = shipped_boards(), shipped_devices()
OHMS = (47.0, 220.0, 470.0, 1_000.0, 2_200.0, 4_700.0, 10_000.0, 47_000.0, 1e5, 1e6)


def random_wiring(seed: int) -> Wiring:
    """One to four devices on a board, wired as proposed, with up to three things changed."""
    chance = Random(seed)
    board = BOARDS[chance.choice(sorted(BOARDS))]
    names = [name for name, one in sorted(DEVICES.items()) if one.is_wired]
    devices = tuple(
        Device(
            f"d{n}",
            f"device {n}",
            (family := DEVICES[chance.choice(names)]),
            full_charge_v=8.4 if family.name == "battery_divider" else None,
            facing_rad=0.5 * n if family.beam_rad else None,
        )
        for n in range(chance.randint(1, 4))
    )
    rig = Wiring(board, devices, settings=Settings(fires_in_turn=True, wire_m=0.2))
    rig = propose(rig).wiring
    for _ in range(chance.randint(0, 3)):
        rig = chance.choice(CHANGES)(rig, chance)
    return rig


def _one(rig: Wiring, chance: Random) -> Connection | None:
    return chance.choice(rig.connections) if rig.connections else None


def _moved(rig: Wiring, chance: Random) -> Wiring:
    one = _one(rig, chance)
    places = [pin.name for pin in rig.board.pins] + [rail.name for rail in rig.board.rails] * 3
    return rig.with_connections([replace(one, to=chance.choice(places))]) if one else rig


def _strung(rig: Wiring, chance: Random) -> Wiring:
    one = _one(rig, chance)
    if one is None or len(one.beads) >= 5:
        return rig
    rails = [rail.name for rail in rig.board.rails if rail.volts.value > 0.0]
    ohm = chance.choice(OHMS)
    bead = chance.choice(
        [
            series(ohm),
            pull_down(ohm),
            pull_up(ohm, chance.choice(rails)),
            capacitor(1e-8),
            Bead(BeadKind.PIN_PULL_UP),
        ]
    )
    beads = list(one.beads)
    beads.insert(chance.randint(0, len(beads)), bead)
    return rig.with_connections([replace(one, beads=tuple(beads))])


def _bared(rig: Wiring, chance: Random) -> Wiring:
    one = _one(rig, chance)
    return rig.with_connections([replace(one, beads=())]) if one else rig


def _taken_off(rig: Wiring, chance: Random) -> Wiring:
    one = _one(rig, chance)
    return rig.with_connections((), [one.end]) if one else rig


def _packed(rig: Wiring, chance: Random) -> Wiring:
    """One device on a pack of its own."""
    if rig.supplies or not rig.devices:
        return rig
    pack = PowerSupply(
        "Pack",
        cells=chance.randint(2, 6),
        chemistry=chance.choice(list(Chemistry)),
        has_common_ground=chance.random() < 0.7,
    )
    key = chance.choice(rig.devices).key
    ends = {rail.name: pack.plus for rail in rig.board.rails if rail.volts.value > 0.0}
    ends[rig.board.ground.name] = pack.minus
    moved = [replace(c, to=ends.get(c.to, c.to)) for c in rig.connections if c.device == key]
    return replace(rig, supplies=(pack,)).with_connections(moved)


def _bridged(rig: Wiring, chance: Random) -> Wiring:
    """A part between two leads, a lead and a rail, or two rails."""
    leads = [place_of(one.key, lead.name) for one in rig.devices for lead in one.family.leads]
    places = leads + [rail.name for rail in rig.board.rails]
    one, other = chance.choice(leads), chance.choice(places)
    key = f"P{len(rig.parts)}"
    kind = chance.choice([PartKind.RESISTOR, PartKind.DIODE, PartKind.LED, PartKind.WIRE])
    if kind is PartKind.RESISTOR:
        part = Part(key, kind, {"a": one, "b": other}, ohm=chance.choice(OHMS))
    elif kind is PartKind.WIRE:
        part = Part(key, kind, {"a": one, "b": other})
    else:
        volts = 2.0 if kind is PartKind.LED else None
        ends = {"anode": one, "cathode": other}
        part = Part(key, kind, ends, forward_v=volts, max_a=0.02)
    return replace(rig, parts=(*rig.parts, part))


def _switched(rig: Wiring, chance: Random) -> Wiring:
    """A transistor between a pin and a lead."""
    circuit = Circuit(rig)
    free = [pin.name for pin in rig.board.pins if pin.name not in circuit.used_pins]
    leads = [place_of(one.key, lead.name) for one in rig.devices for lead in one.family.leads]
    key = f"P{len(rig.parts)}"
    if not free or f"{key} base" in rig.joints:
        return rig
    ends = {"base": f"{key} base", "collector": chance.choice(leads), "emitter": "GND"}
    base = {"a": chance.choice(free), "b": f"{key} base"}
    return replace(
        rig,
        joints=(*rig.joints, f"{key} base"),
        parts=(
            *rig.parts,
            Part(f"{key} r", PartKind.RESISTOR, base, ohm=chance.choice(OHMS)),
            Part(key, PartKind.TRANSISTOR, ends),
        ),
    )


CHANGES = (_moved, _strung, _strung, _bared, _taken_off, _packed, _bridged, _switched)
