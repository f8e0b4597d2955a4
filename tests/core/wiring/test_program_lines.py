"""What a program has to know of a wiring."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given, settings
from tests.core.wiring.rigs import FIVE, THREE, device, ranger, wire, wiring
from tests.core.wiring.strategies import wirings

from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind, pull_down, series
from tickstone.core.wiring.bill import bill_of_materials
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Wiring
from tickstone.core.wiring.power_supply import Chemistry, PowerSupply
from tickstone.core.wiring.program_lines import program_lines
from tickstone.core.wiring.steps import wiring_steps


def test_a_ranger_is_two_names_and_one_thing_to_keep_off() -> None:
    lines = program_lines(Circuit(ranger(FIVE)))
    assert lines.names == (("ranger", "TRIG = 7, ECHO = 8"),)
    assert lines.cautions == ("Never make an output of D8: devices drive them.",)


def test_a_ranger_that_answers_on_the_lead_it_is_worked_by_needs_the_pin_to_let_go() -> None:
    rig = wiring(
        FIVE,
        [device("eye", "ultrasonic_ranger_3_lead")],
        [wire("eye.VCC", "5V"), wire("eye.GND", "GND"), wire("eye.SIG", "D7")],
    )
    (caution,) = program_lines(Circuit(rig)).cautions
    assert caution.startswith("Make D7 an input again right after the pulse for eye SIG")


def test_pull_ups_addresses_and_shutdown_leads_are_switched_on() -> None:
    rig = wiring(
        THREE,
        [device("key", "push_button"), device("eye", "laser_ranger")],
        [
            wire("key.1", "GP10", Bead(BeadKind.PIN_PULL_UP)),
            wire("key.2", "GND"),
            *(wire(f"eye.{a}", b) for a, b in (("VCC", "3V3"), ("GND", "GND"))),
            *(wire(f"eye.{a}", b) for a, b in (("SDA", "GP4"), ("SCL", "GP5"))),
            wire("eye.XSHUT", "GP6"),
        ],
    )
    switches = program_lines(Circuit(rig)).switches
    assert switches[0] == "Switch on the pull-up of GP10, for key 1."
    assert switches[1] == "Call eye by the address 0x29."
    assert switches[2].startswith("Hold eye XSHUT low on GP6")


@settings(max_examples=40)
@given(wirings(3))
def test_every_signal_on_a_pin_has_a_name_a_program_can_use(one: Wiring) -> None:
    circuit = Circuit(one)
    words = " ".join(line for _, line in program_lines(circuit).names)
    for name in words.replace(",", " ").split()[::3]:
        assert name.isidentifier(), name
    named = sum(
        t.pin is not None and t.lead.role.value not in ("sda", "scl") for t in circuit.threads
    )
    assert words.count(" = ") == named


def bench() -> Wiring:
    """A divider on an echo, a pack, a transistor and a joint."""
    rig = ranger(THREE, series(1_800.0), pull_down(3_300.0))
    return replace(
        rig,
        supplies=(PowerSupply("Pack", cells=4, chemistry=Chemistry.NICKEL),),
        joints=("J1",),
        parts=(
            Part("R1", PartKind.RESISTOR, {"a": "GP10", "b": "J1"}, ohm=1_000.0),
            Part("T1", PartKind.TRANSISTOR, {"base": "J1", "collector": "GP11", "emitter": "GND"}),
            Part("W1", PartKind.WIRE, {"a": "Pack+", "b": "ranger.VCC"}),
        ),
    )


def test_supplies_and_parts_are_in_the_list_and_in_the_bill() -> None:
    steps = {step.key: step for step in wiring_steps(bench())}
    assert steps["part:R1"].text == "R1, 1 kΩ, between GP10 and joint J1."
    assert "collector to GP11" in steps["part:T1"].text
    assert steps["part:W1"].text == "A wire between Pack + and ranger VCC."
    assert "its minus to the board’s ground" in steps["supply:Pack"].text
    bill = [(line.what, line.count) for line in bill_of_materials(bench())]
    assert ("Pack", 1) in bill
    assert ("resistor 1 kΩ", 1) in bill
    assert ("NPN transistor", 1) in bill


def test_before_power_the_halves_of_a_divider_are_asked_for_in_ohms() -> None:
    (step,) = [one for one in wiring_steps(bench()) if one.key.startswith("ohms:ranger")]
    assert "1.8 kΩ from ranger ECHO to GP3" in step.text
    assert "3.3 kΩ from GP3 to ground" in step.text
    keys = [one.key for one in wiring_steps(bench())]
    assert keys.index(step.key) < keys.index("power:on")


def test_before_power_what_holds_off_a_base_is_measured_and_every_rail_named() -> None:
    steps = {step.key: step.text for step in wiring_steps(bench())}
    assert "1 kΩ across R1, from GP10 to joint J1" in steps["ohms:part:R1"]
    assert "neither 5V nor the plus of Pack is connected to ground" in steps["look:shorts"]


def test_a_resistor_between_a_pin_and_a_rail_alone_guards_nothing() -> None:
    rig = ranger(FIVE)
    lone = Part("R1", PartKind.RESISTOR, {"a": "D8", "b": "GND"}, ohm=10_000.0)
    keys = [step.key for step in wiring_steps(replace(rig, parts=(lone,)))]
    assert not [key for key in keys if key.startswith("ohms:")]


def test_parts_of_one_value_are_one_line_of_the_bill_wherever_they_stand() -> None:
    rig = ranger(THREE, series(1_000.0), pull_down(3_300.0))
    loose = Part("R1", PartKind.RESISTOR, {"a": "GP10", "b": "GND"}, ohm=1_000.0, tolerance=0.05)
    lines = {line.what: line for line in bill_of_materials(replace(rig, parts=(loose,)))}
    assert lines["resistor 1 kΩ"].count == 2
    assert lines["resistor 1 kΩ"].bands[:3] == ("brown", "black", "red")
