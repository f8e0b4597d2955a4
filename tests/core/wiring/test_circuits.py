"""Circuits as they are on benches: what destroys or cannot work is told, what is sound is not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest
from tests.core.wiring.rigs import FIVE, THREE, device, found, ranger, wire, wiring

from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind, capacitor, pull_down, pull_up, series
from tickstone.core.wiring.finding import Happens
from tickstone.core.wiring.judging import check_wiring, fresh_among
from tickstone.core.wiring.netlist import MOST_PARTS, Wiring
from tickstone.core.wiring.power_supply import Chemistry, PowerSupply

KNOWN = {"source_": "source", "into": "in"}
LEGS = {
    *("a", "b", "anode", "cathode", "base", "collector", "emitter", "gate", "drain", "source_"),
    *("into", "out", "ground", "wiper"),
}


def part(key: str, kind: PartKind, **said: Any) -> Part:
    """``part("R1", PartKind.RESISTOR, a="D9", b="GND", ohm=220.0)``."""
    ends = {KNOWN.get(leg, leg): place for leg, place in said.items() if leg in LEGS}
    return Part(key, kind, ends, **{name: one for name, one in said.items() if name not in LEGS})


def resistor(key: str, a: str, b: str, ohm: float) -> Part:
    return part(key, PartKind.RESISTOR, a=a, b=b, ohm=ohm)


def lamps(*ends: tuple[str, str], board: str = FIVE, beads: tuple[Bead, ...] = ()) -> Wiring:
    """LEDs, each from where to where; parts on the first leg's wire."""
    wires = []
    for n, (anode, cathode) in enumerate(ends):
        wires += [wire(f"l{n}.A", anode, *beads), wire(f"l{n}.K", cathode)]
    rig = wiring(board, [device(f"l{n}", "indicator_led") for n in range(len(ends))], [])
    joints = {end for pair in ends for end in pair if len(end) == 1}
    return replace(rig, joints=tuple(sorted(joints)), connections=tuple(wires))


def hall(*beads: Bead, pin: str = "D2") -> Wiring:
    return wiring(
        FIVE,
        [device("hall", "hall_switch_unipolar", pulse_hz=2.0)],
        [
            wire("hall.VCC", "5V", capacitor(1e-7)),
            wire("hall.GND", "GND"),
            wire("hall.OUT", pin, *beads),
        ],
    )


def eye(load_to: str) -> Wiring:
    return wiring(
        THREE,
        [device("eye", "reflective_pair_collector_load")],
        [
            wire("eye.A", "5V", series(330.0)),
            wire("eye.K", "GND"),
            wire("eye.E", "GND"),
            wire("eye.C", "GP26", pull_up(4_700.0, load_to)),
        ],
    )


def on_bus(board: str, *families: str, sda: str = "A4", **said: Any) -> Wiring:
    """Modules on one bus. said: ``rail`` for their supply, ``beads`` on the first one's lines."""
    rail, beads = said.pop("rail", "5V"), said.pop("beads", ())
    scl = {"A4": "A5", "GP4": "GP5"}[sda]
    wires = []
    for n, _ in enumerate(families):
        own = beads if n == 0 else ()
        wires += [wire(f"u{n}.VCC", rail), wire(f"u{n}.GND", "GND")]
        wires += [wire(f"u{n}.SDA", sda, *own), wire(f"u{n}.SCL", scl, *own)]
    return wiring(board, [device(f"u{n}", one) for n, one in enumerate(families)], wires, **said)


def fed_by(one: Wiring, pack: PowerSupply, rail: str = "VIN") -> Wiring:
    """The same with a pack on a rail of the board."""
    joined = part("W1", PartKind.WIRE, a=pack.plus, b=rail)
    return replace(one, supplies=(pack,), parts=(*one.parts, joined))


def on(one: Wiring, pack: PowerSupply) -> Wiring:
    """The same with supply and ground on a pack instead of the board."""
    ends = {"5V": pack.plus, "GND": pack.minus}
    moved = tuple(replace(c, to=ends.get(c.to, c.to)) for c in one.connections)
    return replace(one, supplies=(pack,), connections=moved)


def white_lamp() -> Wiring:
    """An LED of 3.6 V on a 3.3 V pin."""
    rig = lamps(("GP6", "GND"), board=THREE, beads=(series(220.0),))
    lead = rig.devices[0].family.leads[0]
    assert lead.emitter is not None
    forward = replace(lead.emitter.forward_v, value=3.6)
    lead = replace(lead, emitter=replace(lead.emitter, forward_v=forward))
    family = replace(rig.devices[0].family, leads=(lead, rig.devices[0].family.leads[1]))
    return replace(rig, devices=(replace(rig.devices[0], family=family),))


def cells(*beads: Bead, full_v: float = 8.4) -> Wiring:
    return wiring(
        FIVE,
        [device("cells", "battery_divider", full_charge_v=full_v)],
        [wire("cells.BAT+", "A0", *beads), wire("cells.BAT-", "GND")],
    )


FIVE_V = PowerSupply("Pack", least_v=4.8, usual_v=5.0, greatest_v=5.2)
SMALL = PowerSupply("Pack", cells=4, chemistry=Chemistry.NICKEL)
APART = replace(FIVE_V, has_common_ground=False)


def one_lead_ranger(board: str, pin: str, *beads: Bead) -> Wiring:
    """A ranger that is triggered on the lead it answers on: held by nothing while both listen."""
    return wiring(
        board,
        [device("eye", "ultrasonic_ranger_3_lead")],
        [wire("eye.VCC", "5V"), wire("eye.GND", "GND"), wire("eye.SIG", pin, *beads)],
    )


TOLD: dict[str, tuple[Wiring, str, Happens]] = {
    "a lead that speaks and listens on a pin of lower volts": (
        one_lead_ranger(THREE, "GP10"), "output-too-high", Happens.DESTROYS,
    ),
    "a lamp nothing is on": (wiring(FIVE, [device("l", "indicator_led")], []), "unconnected",
                             Happens.FAILS),
    "one leg of a button in the air": (
        wiring(FIVE, [device("key", "push_button")],
               [wire("key.1", "D7", Bead(BeadKind.PIN_PULL_UP))]),
        "unconnected", Happens.FAILS,
    ),
    "a trigger that a divider leaves too low": (
        one_lead_ranger(FIVE, "D7", pull_down(1_000.0), series(3_300.0)),
        "input-too-low", Happens.FAILS,
    ),
    "a photo load to a higher supply than the pin bears": (
        eye("5V"), "analogue-too-high", Happens.DESTROYS,
    ),
    "an array fed more than the converter bears": (
        wiring(
            THREE,
            [device("strip", "reflective_array_3")],
            [
                *(wire(f"strip.{a}", b) for a, b in (("VCC", "5V"), ("GND", "GND"))),
                *(wire(f"strip.OUT{n}", f"GP{25 + n}") for n in (1, 2, 3)),
            ],
        ),
        "analogue-too-high", Happens.DESTROYS,
    ),
    "an input lead on a rail above its limit": (
        on_bus(FIVE, "six_axis").with_connections([wire("u0.AD0", "5V")]),
        "input-too-high", Happens.DESTROYS,
    ),
    "a pull-up to the wrong rail on a bus of mixed volts": (
        on_bus(THREE, "six_axis", sda="GP4", rail="3V3", beads=(pull_up(4_700.0, "5V"),)),
        "bus-too-high", Happens.DESTROYS,
    ),
    "modules of 5 and of 3.3 volts on one bus": (
        on_bus(FIVE, "six_axis", "laser_ranger"), "input-too-high", Happens.LUCK,
    ),
    "a series resistor that spoils the low": (
        hall(series(4_700.0), pull_up(4_700.0)), "low-too-high", Happens.FAILS,
    ),
    "a capacitor on an echo": (
        ranger(FIVE, capacitor(1e-7)), "capacitor-on-output", Happens.LUCK,
    ),
    "a capacitor on a lifted signal": (
        hall(pull_up(1e5), capacitor(1e-6)), "edge-slow", Happens.FAILS,
    ),
    "a capacitor on the bus": (
        on_bus(FIVE, "six_axis", beads=(capacitor(1e-8),)), "bus-capacitance", Happens.FAILS,
    ),
    "a resistor in a supply lead": (
        ranger(FIVE).with_connections([wire("ranger.VCC", "5V", series(100.0))]),
        "supply-range", Happens.FAILS,
    ),
    "a ranger fed from a pin": (ranger(FIVE, supply="D4"), "fed-from-pin", Happens.FAILS),
    "four cells into a linear regulator": (
        fed_by(ranger(FIVE), SMALL), "no-headroom", Happens.FAILS,
    ),
    "a regulator on the bench without headroom": (
        replace(
            ranger(FIVE),
            supplies=(SMALL,),
            joints=("O",),
            parts=(
                part("U1", PartKind.REGULATOR, into="Pack+", out="O", ground="GND", output_v=5.0),
            ),
        ),
        "no-headroom", Happens.FAILS,
    ),
    "the pull-up on the far side of a resistor in the bus": (
        on_bus(FIVE, "six_axis", beads=(series(4_700.0), pull_up(4_700.0))),
        "bus-low", Happens.FAILS,
    ),
    "a second supply without common ground": (
        on(ranger(FIVE), APART), "no-common-ground", Happens.FAILS,
    ),
    "leakage through megohms": (hall(pull_up(4.7e6)), "output-too-low", Happens.FAILS),
    "a battery divider of megohms": (
        cells(series(4.7e6), pull_down(4.7e6)), "divider-weak", Happens.LUCK,
    ),
    "an LED of more volts than there are": (white_lamp(), "led-dark", Happens.FAILS),
    "both legs of an LED on one pin": (
        lamps(("D9", "D9")), "both-on-one-net", Happens.FAILS,
    ),
    "a resistor across nothing": (
        replace(
            lamps(("D9", "GND"), beads=(series(330.0),)), parts=(resistor("R1", "D9", "D9", 1e3),)
        ),
        "both-on-one-net", Happens.FAILS,
    ),
    "an LED between supply and ground": (
        lamps(("5V", "GND")), "missing-led-resistor", Happens.DESTROYS,
    ),
    "an LED the wrong way round": (
        lamps(("GND", "D9"), beads=(series(330.0),)), "led-dark", Happens.FAILS,
    ),
    "two LEDs side by side on one resistor": (
        replace(lamps(("J", "GND"), ("J", "GND")), parts=(resistor("R1", "5V", "J", 220.0),)),
        "lamps-share-resistor", Happens.BETTER,
    ),
    "a supply joined to ground": (
        replace(
            ranger(FIVE),
            supplies=(FIVE_V,),
            parts=(part("W1", PartKind.WIRE, a="Pack+", b="GND"),),
        ),
        "shorted-source", Happens.DESTROYS,
    ),
    "a pack on the board's own 5 V": (
        fed_by(ranger(FIVE), PowerSupply("Pack", cells=2, chemistry=Chemistry.LITHIUM), "5V"),
        "two-sources", Happens.DESTROYS,
    ),
    "a fuse smaller than what runs through it": (
        replace(
            lamps(("F", "GND"), beads=(series(100.0),)),
            parts=(part("F1", PartKind.FUSE, a="5V", b="F", max_a=0.01),),
        ),
        "part-current", Happens.FAILS,
    ),
    "much current from twelve volts through the board's regulator": (
        wiring(
            FIVE,
            [device(f"s{n}", "hobby_servo") for n in range(1)],
            [wire("s0.V+", "5V"), wire("s0.GND", "GND"), wire("s0.SIG", "D4")],
            vin_v=12.0,
        ),
        "regulator-heat", Happens.FAILS,
    ),
    "a bare relay on a pin": (
        wiring(FIVE, [device("k", "relay_bare")], [wire("k.A1", "5V"), wire("k.A2", "D7")]),
        "pin-current", Happens.DESTROYS,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(TOLD))
def test_what_is_wrong_is_told_with_what_comes_of_it(name: str) -> None:
    rig, id_, happens = TOLD[name]
    findings = found(rig)
    assert id_ in findings, sorted(findings)
    assert findings[id_].happens is happens
    errors = {one.id for one in findings.values() if one.severity == "error"}
    consequences = errors - {id_, "pin-current", "address-as-wired", "led-resistor-small"}
    assert not consequences, "the cause is told, and once"


def shared_wire(family: str, lead: str, *beads: Bead) -> Wiring:
    """Two of a kind with one lead on one pin."""
    wires = []
    for n, key in enumerate("ab"):
        wires += [wire(f"{key}.VCC", "5V"), wire(f"{key}.GND", "GND")]
        wires += [wire(f"{key}.{lead}", "D7", *(beads if n == 0 else ()))]
    return wiring(FIVE, [device("a", family), device("b", family)], wires)


def lasers() -> Wiring:
    rig = on_bus(THREE, "laser_ranger", "laser_ranger", sda="GP4", rail="3V3")
    return rig.with_connections([wire("u0.XSHUT", "GP6"), wire("u1.XSHUT", "GP7")])


def shifted() -> Wiring:
    """A 5 V ranger on a 3.3 V board through a level shifter."""
    rig = ranger(THREE)
    devices = (*rig.devices, device("shift", "level_shifter"))
    wires = [
        *rig.connections[:2],
        *(wire(f"shift.{a}", b) for a, b in (("LV", "3V3"), ("HV", "5V"), ("GND", "GND"))),
        wire("ranger.TRIG", "shift.HV1"),
        wire("ranger.ECHO", "shift.HV2"),
        wire("shift.LV1", "GP2"),
        wire("shift.LV2", "GP3"),
    ]
    return replace(rig, devices=devices, connections=tuple(wires))


def by_transistor() -> Wiring:
    rig = replace(lamps(("5V", "C"), beads=(series(220.0),)), joints=("B", "C"))
    switch = part(
        "Q1", PartKind.TRANSISTOR, base="B", collector="C", emitter="GND", max_a=0.1, gain=100.0
    )
    return replace(rig, parts=(resistor("R1", "D7", "B", 1_000.0), switch))


SOUND: dict[str, Callable[[], Wiring]] = {
    "one lead to trigger and to answer, through a divider": lambda: one_lead_ranger(
        THREE, "GP10", series(1_800.0), pull_down(3_300.0)
    ),
    "an LED's resistor in its cathode wire": lambda: lamps(("D9", "GND")).with_connections(
        [wire("l0.K", "GND", series(330.0))]
    ),
    "an LED sunk by a pin": lambda: replace(
        lamps(("5V", "D9")),
        connections=(wire("l0.A", "5V"), wire("l0.K", "D9", series(330.0))),
    ),
    "three LEDs joined to one resistor": lambda: replace(
        lamps(("D7", "J"), ("D8", "J"), ("D9", "J")), parts=(resistor("R1", "J", "GND", 470.0),)
    ),
    "one pull-up for a shared one-wire lead": lambda: shared_wire(
        "thermometer", "DATA", pull_up(4_700.0)
    ),
    "a wired or of open drains": lambda: shared_wire("comparator_module", "DO"),
    "parts with a shutdown lead on one bus": lasers,
    "a servo on any pin": lambda: wiring(
        FIVE,
        [device("servo", "hobby_servo")],
        [wire("servo.V+", "VIN"), wire("servo.GND", "GND"), wire("servo.SIG", "D4")],
        vin_v=5.0,
    ),
    "a level shifter between board and module": shifted,
    "a lamp switched by a transistor": by_transistor,
    "a fused pack of its own": lambda: replace(
        on(ranger(FIVE, series(10_000.0)), FIVE_V),
        joints=("F",),
        parts=(part("F1", PartKind.FUSE, a="Pack+", b="F", max_a=0.5),),
    ).with_connections([wire("ranger.VCC", "F")]),
    "seven volts of cells into the regulator": lambda: fed_by(
        ranger(FIVE), PowerSupply("Pack", cells=2, chemistry=Chemistry.LITHIUM, least_v=6.6)
    ),
    "a push button on the pin's own pull-up": lambda: wiring(
        FIVE,
        [device("key", "push_button")],
        [wire("key.1", "D7", Bead(BeadKind.PIN_PULL_UP)), wire("key.2", "GND")],
    ),
    "a potentiometer across the supply": lambda: wiring(
        FIVE,
        [device("knob", "potentiometer")],
        [wire("knob.1", "5V"), wire("knob.W", "A0"), wire("knob.3", "GND")],
    ),
    "a lead left open on purpose": lambda: replace(
        ranger(FIVE).with_connections((), [("ranger", "ECHO")]), left_open=(("ranger", "ECHO"),)
    ),
}


@pytest.mark.parametrize("name", sorted(SOUND))
def test_what_is_sound_raises_no_alarm(name: str) -> None:
    alarms = {i: one.message for i, one in found(SOUND[name]()).items() if one.severity != "note"}
    assert alarms == {}


def test_margins_within_a_class_of_parts_say_so() -> None:
    """A divider that just reaches a high with parts of 1 %, and not with those of 5 %."""
    close = ranger(THREE, series(4_300.0), pull_down(3_300.0))
    finding = found(close)["output-too-low"]
    assert finding.happens is Happens.LUCK
    assert "1 % parts pass" in finding.message


def test_a_repair_mends_the_cause_and_starts_nothing_as_bad() -> None:
    for rig, _, _ in TOLD.values():
        before = check_wiring(rig)
        for finding in before:
            for repair in finding.repairs:
                after = check_wiring(repair.applied(rig))
                assert not any(one.is_same(finding) for one in after), (finding.id, repair.text)
                assert not fresh_among(before, after, finding.severity), (finding.id, repair.text)


def test_more_parts_than_a_rig_has_are_refused_with_how_many_there_may_be() -> None:
    parts = tuple(resistor(f"R{n}", "D2", "GND", 1e3) for n in range(10_000))
    with pytest.raises(ValueError, match="parts: a rig has 150 parts at most, not 10000"):
        replace(ranger(FIVE), parts=parts)


def test_a_part_or_a_wire_to_a_place_there_is_not_is_refused() -> None:
    with pytest.raises(ValueError, match="the b of R1 goes to “D99”"):
        replace(ranger(FIVE), parts=(resistor("R1", "D2", "D99", 1e3),))
    with pytest.raises(ValueError, match="“R1” stands there twice"):
        replace(ranger(FIVE), parts=(resistor("R1", "D2", "D3", 1e3),) * 2)
    with pytest.raises(ValueError, match="goes to itself"):
        ranger(FIVE).with_connections([wire("ranger.ECHO", "ranger.ECHO")])
    with pytest.raises(ValueError, match="left open on purpose, yet a wire is on it"):
        replace(ranger(FIVE), left_open=(("ranger", "ECHO"),))


def test_a_ring_of_supplies_is_told_and_nothing_hangs() -> None:
    packs = tuple(PowerSupply(f"P{n}", usual_v=3.0 + n) for n in range(5))
    ring = tuple(part(f"W{n}", PartKind.WIRE, a=f"P{n}+", b=f"P{(n + 1) % 5}+") for n in range(5))
    findings = found(replace(ranger(FIVE), supplies=packs, parts=ring))
    assert findings["two-sources"].happens is Happens.DESTROYS
    assert all(f"P{n}" in findings["two-sources"].message for n in range(5))


@pytest.mark.parametrize("said", [{"cells": 0}, {"cells": 4, "chemistry": None}, {"usual_v": 99.0}])
def test_a_supply_that_cannot_be_is_refused(said: dict[str, Any]) -> None:
    usual = {"chemistry": Chemistry.ALKALINE} if "usual_v" not in said else {}
    with pytest.raises(ValueError, match="Pack"):
        PowerSupply("Pack", **{**usual, **said})


def test_as_many_parts_as_may_be_between_two_nets_are_solved() -> None:
    parts = tuple(resistor(f"R{n}", "D2", "GND", 1e5 + n) for n in range(MOST_PARTS))
    findings = found(replace(ranger(FIVE), parts=parts))
    assert "not-worked-out" not in findings
