"""A wiring for each fault, with just that fault, by the id of what is found."""

from __future__ import annotations

import math
from dataclasses import replace

from tests.core.wiring.rigs import (
    BOARDS,
    FIVE,
    THREE,
    WIRELESS,
    device,
    ranger,
    wire,
    wiring,
)

from tickstone.core.wiring.bead import Bead, BeadKind, capacitor, pull_down, pull_up, series
from tickstone.core.wiring.netlist import Connection, Wiring
from tickstone.core.wiring.power_supply import PowerSupply

HALL = [wire("hall.VCC", "5V", capacitor(1e-7)), wire("hall.GND", "GND")]


def hall(*wires: Connection, **said: float) -> Wiring:
    return wiring(FIVE, [device("hall", "hall_switch_unipolar", **said)], [*HALL, *wires])


def pair(*wires: Connection) -> Wiring:
    return wiring(FIVE, [device("eye", "reflective_pair_collector_load")], list(wires))


EYE = [wire("eye.K", "GND"), wire("eye.E", "GND"), wire("eye.C", "A0", pull_up(4_700.0))]


def lamps(count: int, ohm: float, board: str = FIVE) -> Wiring:
    pins = [f"D{number}" for number in range(2, 2 + count)]
    return wiring(
        board,
        [device(f"lamp{n}", "indicator_led") for n in range(count)],
        [wire(f"lamp{n}.A", pin, series(ohm)) for n, pin in enumerate(pins)]
        + [wire(f"lamp{n}.K", "GND") for n in range(count)],
    )


def bus(*addresses: int | None, family: str = "six_axis", **settings: float) -> Wiring:
    devices = [device(f"unit{n}", family, address=one) for n, one in enumerate(addresses)]
    wires = []
    for one in devices:
        wires += [wire(f"{one.key}.VCC", "5V"), wire(f"{one.key}.GND", "GND")]
        wires += [wire(f"{one.key}.SDA", "A4"), wire(f"{one.key}.SCL", "A5")]
    return wiring(FIVE, devices, wires, **settings)


def battery(full_v: float, *beads: Bead, board: str = FIVE, pin: str = "A0") -> Wiring:
    return wiring(
        board,
        [device("cells", "battery_divider", full_charge_v=full_v)],
        [wire("cells.BAT+", pin, *beads), wire("cells.BAT-", "GND")],
    )


def bare_pull_ups(ohm: float, **settings: float) -> Wiring:
    """A bus whose module brings no resistors of its own."""
    one = bus(None, **settings)
    unit = one.devices[0]
    assert unit.family.i2c is not None
    family = replace(unit.family, i2c=replace(unit.family.i2c, own_pull_up_ohm=None))
    lifted = [
        replace(c, beads=(pull_up(ohm, "5V"),)) if ohm and c.to in ("A4", "A5") else c
        for c in one.connections
    ]
    return replace(one, devices=(replace(unit, family=family),), connections=tuple(lifted))


def two_rangers(apart_deg: float) -> Wiring:
    devices = [
        device("a", "ultrasonic_ranger", facing_rad=0.0),
        device("b", "ultrasonic_ranger", facing_rad=math.radians(apart_deg)),
    ]
    wires = []
    for key, trig, echo in (("a", "D4", "D5"), ("b", "D7", "D8")):
        wires += [wire(f"{key}.VCC", "5V"), wire(f"{key}.GND", "GND")]
        wires += [wire(f"{key}.TRIG", trig), wire(f"{key}.ECHO", echo)]
    return wiring(FIVE, devices, wires)


def hall_analogue(board: str, pin: str, **settings: str) -> Wiring:
    return wiring(
        board,
        [device("eye", "hall_analogue")],
        [
            wire("eye.VCC", "5V", capacitor(1e-7)),
            wire("eye.GND", "GND"),
            wire("eye.OUT", pin),
        ],
        **settings,
    )


def motor_driver(*beads: Bead) -> Wiring:
    return wiring(
        FIVE,
        [device("motor", "motor_driver")],
        [
            wire("motor.VCC", "5V"),
            wire("motor.GND", "GND"),
            wire("motor.IN1", "D4", *beads),
            wire("motor.IN2", "D7"),
            wire("motor.EN", "D5"),
        ],
    )


def tilt(supply: str, board: str = FIVE, **settings: str) -> Wiring:
    pins = ("A0", "A1", "A2") if board == FIVE else ("GP26", "GP27", "GP28")
    return wiring(
        board,
        [device("tilt", "accelerometer_analogue_bare")],
        [
            wire("tilt.VDD", supply, capacitor(1e-7)),
            wire("tilt.GND", "GND"),
            *(wire(f"tilt.{axis}OUT", pin) for axis, pin in zip("XYZ", pins, strict=True)),
        ],
        **settings,
    )


PACK = PowerSupply("Pack", least_v=4.8, usual_v=5.0, greatest_v=5.2, has_common_ground=False)


def lone_lamp(**ends: str) -> Wiring:
    """An LED with its legs where one says."""
    wires = [wire(f"lamp.{leg}", place) for leg, place in ends.items()]
    return wiring(FIVE, [device("lamp", "indicator_led")], wires)


def on_pack(one: Wiring, pack: PowerSupply = PACK) -> Wiring:
    """The same with supply and ground on a pack of its own."""
    ends = {"5V": pack.plus, "GND": pack.minus}
    moved = tuple(replace(c, to=ends.get(c.to, c.to)) for c in one.connections)
    return replace(one, supplies=(pack,), connections=moved)


def swapped_bus() -> Wiring:
    """The pull-up on the far side of the resistor in the wire."""
    beads = (series(4_700.0), pull_up(4_700.0))
    lines = [wire("unit0.SDA", "A4", *beads), wire("unit0.SCL", "A5", *beads)]
    return bus(0x68).with_connections(lines)


def laser() -> Wiring:
    """A laser ranger on a board whose pins bear less than its bus is pulled up to."""
    return wiring(
        THREE,
        [device("laser", "laser_ranger")],
        [
            wire("laser.VCC", "5V"),
            wire("laser.GND", "GND"),
            wire("laser.SDA", "GP4"),
            wire("laser.SCL", "GP5"),
        ],
    )


def dipping() -> Wiring:
    """A laser ranger on a small cell of much inner resistance."""
    cell = PowerSupply("Cell", least_v=3.0, usual_v=3.2, greatest_v=3.3, inner_ohm=12.0)
    return on_pack(laser(), cell)


def wheels(*pins: str) -> Wiring:
    """Hall switches, each with its pull-up."""
    wires = []
    for n, pin in enumerate(pins):
        wires += [wire(f"w{n}.VCC", "5V", capacitor(1e-7)), wire(f"w{n}.GND", "GND")]
        wires += [wire(f"w{n}.OUT", pin, pull_up(10_000.0))]
    devices = [device(f"w{n}", "hall_switch_unipolar", pulse_hz=2.0) for n in range(len(pins))]
    return wiring(FIVE, devices, wires)


FAULTS: dict[str, Wiring] = {
    "missing-supply": wiring(
        FIVE, [device("ranger", "ultrasonic_ranger")], list(ranger(FIVE).connections[1:])
    ),
    "missing-ground": ranger(FIVE).with_connections((), [("ranger", "GND")]),
    "reversed-supply": ranger(FIVE, supply="GND"),
    "output-on-rail": ranger(FIVE, echo="5V"),
    "supply-range": ranger(FIVE, supply="3V3"),
    "unconnected": ranger(FIVE).with_connections((), [("ranger", "ECHO")]),
    "pin-twice": ranger(FIVE).with_connections([wire("ranger.TRIG", "D8")]),
    "two-outputs": wiring(
        FIVE,
        [
            device("a", "slotted_encoder", pulse_hz=1.0),
            device("b", "slotted_encoder", pulse_hz=1.0),
        ],
        [
            *(wire(f"{key}.VCC", "5V") for key in "ab"),
            *(wire(f"{key}.GND", "GND") for key in "ab"),
            *(wire(f"{key}.OUT", "D7") for key in "ab"),
        ],
    ),
    "pin-ability": wiring(
        FIVE,
        [device("eye", "hall_analogue")],
        [wire("eye.VCC", "5V", capacitor(1e-7)), wire("eye.GND", "GND"), wire("eye.OUT", "D7")],
    ),
    "serial-pin": ranger(FIVE, echo="D0"),
    "boot-pin": wiring(
        WIRELESS,
        [device("hall", "hall_switch_unipolar")],
        [
            wire("hall.VCC", "3V3", capacitor(1e-7)),
            wire("hall.GND", "GND"),
            wire("hall.OUT", "IO12", pull_up(10_000.0)),
        ],
    ),
    "pulse-interrupt": Wiring(
        BOARDS["five_volt_8bit_many_pins"],
        (device("hall", "hall_switch_unipolar"),),
        (*HALL, wire("hall.OUT", "D30", pull_up(10_000.0))),
    ),
    "pin-change-cost": hall(wire("hall.OUT", "D7", pull_up(10_000.0))),
    "output-too-high": ranger(THREE),
    "output-too-low": ranger(THREE, series(10_000.0), pull_down(4_700.0)),
    "missing-pull-up": hall(wire("hall.OUT", "D2")),
    "pull-up-strong": hall(wire("hall.OUT", "D2", pull_up(150.0))),
    "pull-up-weak": hall(wire("hall.OUT", "D2", pull_up(10e6)), pulse_hz=200.0),
    "missing-led-resistor": pair(*EYE, wire("eye.A", "5V")),
    "led-resistor-small": pair(*EYE, wire("eye.A", "5V", series(47.0))),
    "resistor-power": pair(
        *EYE, wire("eye.A", "5V", Bead(BeadKind.SERIES, ohm=82.0, power_w=0.125))
    ),
    "missing-photo-load": pair(*EYE[:2], wire("eye.C", "A0"), wire("eye.A", "5V", series(330.0))),
    "pin-current": lamps(1, 100.0),
    "port-current": lamps(6, 150.0),
    "address-clash": bus(0x68, 0x68),
    "bus-lines-apart": wiring(
        "three_volt_dual_core",
        [device("unit", "six_axis")],
        [
            wire("unit.VCC", "3V3"),
            wire("unit.GND", "GND"),
            wire("unit.SDA", "GP4", pull_up(4_700.0)),
            wire("unit.SCL", "GP7", pull_up(4_700.0)),
        ],
    ),
    "timer-taken": wiring(
        FIVE,
        [device("arm", "hobby_servo"), device("motor", "motor_driver")],
        [wire("arm.SIG", "D7"), wire("motor.EN", "D9")],
    ),
    "bus-pull-up-missing": bare_pull_ups(0.0),
    "bus-pull-up-strong": bare_pull_ups(470.0),
    "bus-rise-time": bare_pull_ups(47_000.0, bus_hz=400_000.0),
    "bus-capacitance": bus(0x68, 0x69, wire_m=3.5),
    "bus-speed": bus(0x68, bus_hz=1_000_000.0),
    "ratiometric-reference": tilt("3V3"),
    "analogue-small": tilt("3V3"),
    "battery-over-reference": battery(8.4),
    "divider-weak": battery(8.4, series(100_000.0), pull_down(100_000.0)),
    "ranger-cross-talk": two_rangers(20.0),
    "lamp-pin": ranger(FIVE, echo="D13"),
    "input-too-low": motor_driver(pull_down(10_000.0), series(22_000.0)),
    "input-too-high": bus(0x68).with_connections([wire("unit0.AD0", "D4")]),
    "analogue-too-high": hall_analogue(THREE, "GP26"),
    "analogue-beyond": hall_analogue(FIVE, "A0", reference="internal 1.1 V"),
    "ranger-facing": replace(
        two_rangers(0.0),
        devices=tuple(replace(one, facing_rad=None) for one in two_rangers(0.0).devices),
    ),
    "board-current": lamps(12, 150.0),
    "missing-decoupling": hall(wire("hall.OUT", "D2", pull_up(10_000.0))).with_connections(
        [wire("hall.VCC", "5V")]
    ),
    "low-too-high": hall(wire("hall.OUT", "D2", series(4_700.0), pull_up(4_700.0))),
    "input-low-too-high": motor_driver(pull_up(1_000.0), series(1_000.0)),
    "bus-low": swapped_bus(),
    "edge-slow": hall(wire("hall.OUT", "D2", pull_up(10_000.0), capacitor(1e-6)), pulse_hz=2.0),
    "capacitor-on-output": ranger(FIVE, capacitor(1e-7)),
    "fed-from-pin": ranger(FIVE, supply="D4"),
    "no-common-ground": on_pack(ranger(FIVE)),
    "fed-while-off": on_pack(ranger(FIVE), replace(PACK, has_common_ground=True)),
    "address-as-wired": bus(0x68).with_connections([wire("unit0.AD0", "3V3")]),
    "counted-together": wheels("D7", "D7"),
    "floating-pin": wiring(
        FIVE, [device("key", "push_button")], [wire("key.1", "D7"), wire("key.2", "GND")]
    ),
    "supply-dips": dipping(),
}
