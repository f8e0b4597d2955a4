"""The proposal: sound wiring for any set of devices, or a true reason why not."""

from __future__ import annotations

import re
from dataclasses import replace
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.wiring.rigs import BOARDS, DEVICES, FIVE, device, found, wire, wiring

from tickstone.core.families.board_family import Ability, PinUse
from tickstone.core.wiring.assignment import assign, can_serve
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.colours import COLOURS
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import Device, Wiring
from tickstone.core.wiring.proposal import propose

NEEDS_MORE_THAN_WIRE = {
    "pin-current",  # a buzzer on a 3.3 V pin wants a transistor
    "port-current",
    "board-current",
    "rail-current",  # servos want a supply of their own
    "address-clash",  # two parts that know one address only
    "bus-pull-up-strong",  # many modules with their own resistors
    "bus-rise-time",
}
SAID = {"battery_divider": {"full_charge_v": 8.4}}


def rig_of(board: str, families: list[str]) -> Wiring:
    devices = [
        Device(f"d{n}", f"d{n}", DEVICES[family], facing_rad=None, **SAID.get(family, {}))
        for n, family in enumerate(families)
    ]
    return wiring(board, devices, [], fires_in_turn=True)


boards = st.sampled_from(sorted(BOARDS))
families = st.lists(st.sampled_from(sorted(DEVICES)), min_size=1, max_size=6)


@settings(max_examples=60)
@given(boards, families)
def test_a_proposal_has_no_error_or_says_why_it_is_impossible(board: str, kinds: list[str]) -> None:
    proposal = propose(rig_of(board, kinds))
    errors = {one.id for one in check_wiring(proposal.wiring) if one.severity == "error"}
    if proposal.impossible:
        assert "unconnected" in errors
        errors -= {"unconnected"}
    assert errors <= NEEDS_MORE_THAN_WIRE


@settings(max_examples=60)
@given(boards, families)
def test_a_reason_names_fewer_pins_than_leads(board: str, kinds: list[str]) -> None:
    """Hall's condition, counted anew from the board's own pin table."""
    rig = rig_of(board, kinds)
    why = propose(rig).impossible
    if not why:
        return
    circuit = Circuit(rig)
    named = {t for t in circuit.threads if re.search(rf"\b{re.escape(t.name)}(?![\w+-])", why)}
    able = {
        pin.name
        for pin in circuit.board.pins
        for thread in named
        if can_serve(circuit, thread, pin)
    }
    assert len(named) > len(able)


@settings(max_examples=40)
@given(boards, families)
def test_pins_fit_and_are_not_shared_but_for_a_bus(board: str, kinds: list[str]) -> None:
    proposal = propose(rig_of(board, kinds))
    circuit = Circuit(proposal.wiring)
    for pin in circuit.board.pins:
        threads = circuit.on(pin.name)
        assert len({thread.lead.role for thread in threads}) <= 1
        if len(threads) > 1:
            assert threads[0].lead.wants in (Ability.SDA, Ability.SCL)
        for thread in threads:
            assert can_serve(circuit, thread, pin)


def test_what_the_person_fixed_stays() -> None:
    rig = rig_of(FIVE, ["ultrasonic_ranger", "hall_switch_unipolar"])
    fixed = replace(wire("d0.ECHO", "D9"), is_fixed=True)
    loose = wire("d1.OUT", "D3")
    first = propose(rig.with_connections([fixed, loose])).wiring
    assert first.at("d0", "ECHO") == fixed
    assert first.at("d1", "OUT").to == "D3"
    again = propose(first.with_connections([wire("d0.TRIG", "D13")]), again=True).wiring
    assert again.at("d0", "ECHO").to == "D9"
    assert again.at("d0", "TRIG").to != "D13"


@settings(max_examples=30)
@given(boards, families, st.randoms(use_true_random=False))
def test_proposing_anew_keeps_the_colours_people_chose(
    board: str, kinds: list[str], chance: Random
) -> None:
    first = propose(rig_of(board, kinds)).wiring
    painted = first.with_connections(
        [replace(one, colour=chance.choice(sorted(COLOURS))) for one in first.connections]
    )
    anew = propose(painted, again=True).wiring
    for one in anew.connections:
        before = painted.at(*one.end)
        assert before is None or one.colour == before.colour


def test_special_pins_stay_free_while_others_will_do() -> None:
    proposal = propose(rig_of(FIVE, ["ultrasonic_ranger"] * 3))
    circuit = Circuit(proposal.wiring)
    used = [pin for pin in circuit.board.pins if pin.name in circuit.used_pins]
    assert all(pin.use is PinUse.NONE for pin in used)
    assert not {"D2", "D3", "A4", "A5"} & circuit.used_pins


def test_a_scarce_board_still_gives_up_its_special_pins() -> None:
    proposal = propose(rig_of(FIVE, ["ultrasonic_ranger"] * 9))
    assert not proposal.impossible
    assert "serial-pin" not in found(proposal.wiring)


def test_leads_of_an_array_lie_in_order() -> None:
    proposal = propose(rig_of("five_volt_8bit_small", ["reflective_array_5"]))
    pins = [proposal.wiring.at("d0", f"OUT{n}").to for n in range(1, 6)]
    assert pins == sorted(pins)


def test_a_second_bus_device_joins_the_first_where_it_is() -> None:
    rig = wiring("three_volt_dual_core", [device("a", "six_axis"), device("b", "laser_ranger")], [])
    rig = rig.with_connections([wire("a.SDA", "GP8"), wire("a.SCL", "GP9")])
    new = propose(rig).wiring
    assert (new.at("b", "SDA").to, new.at("b", "SCL").to) == ("GP8", "GP9")


@pytest.mark.parametrize("count", [1, 6])
def test_assigning_nothing_needs_nothing(count: int) -> None:
    circuit = Circuit(rig_of(FIVE, ["buzzer"] * count))
    assert assign(circuit, []).pins == ()


def pin_of(proposed: Wiring, key: str, lead: str) -> str:
    connection = proposed.at(key, lead)
    assert connection is not None
    return connection.to


def test_what_can_be_placed_is_placed_and_the_rest_named() -> None:
    proposal = propose(rig_of(FIVE, ["reflective_array_8", "ultrasonic_ranger"]))
    assert "d0.OUT" in proposal.impossible.replace("d0 OUT", "d0.OUT")
    placed = [one.lead for one in proposal.wiring.connections if one.device == "d0"]
    assert sum(lead.startswith("OUT") for lead in placed) == 6, "as many as it has analogue pins"
    assert pin_of(proposal.wiring, "d1", "ECHO")


def test_two_of_one_address_get_a_bus_each_where_the_board_has_two() -> None:
    proposed = propose(rig_of("three_volt_dual_core", ["laser_ranger", "laser_ranger"])).wiring
    data, clock = ({pin_of(proposed, key, lead) for key in ("d0", "d1")} for lead in ("SDA", "SCL"))
    assert len(data) == len(clock) == 2
    assert not {"address-clash", "bus-lines-apart"} & set(found(proposed))
    one_bus = propose(rig_of(FIVE, ["laser_ranger", "laser_ranger"])).wiring
    assert pin_of(one_bus, "d0", "SDA") == pin_of(one_bus, "d1", "SDA")


def test_one_bus_will_do_where_the_addresses_differ() -> None:
    proposed = propose(rig_of("three_volt_dual_core", ["laser_ranger", "six_axis"])).wiring
    assert pin_of(proposed, "d0", "SDA") == pin_of(proposed, "d1", "SDA") == "GP4"


def test_a_lone_clock_joins_the_controller_its_data_is_on() -> None:
    rig = rig_of("three_volt_dual_core", ["six_axis"]).with_connections([wire("d0.SDA", "GP6")])
    assert pin_of(propose(rig).wiring, "d0", "SCL") == "GP7"


def test_a_servo_takes_the_timer_and_a_motor_gets_its_pwm_elsewhere() -> None:
    bare = propose(rig_of(FIVE, ["motor_driver"]))
    with_servo = propose(rig_of(FIVE, ["hobby_servo", "hobby_servo", *["motor_driver"] * 3]))
    assert not bare.impossible
    assert not with_servo.impossible
    pins = {pin_of(with_servo.wiring, f"d{n}", "EN") for n in (2, 3, 4)}
    assert not pins & {"D9", "D10"}
    tones = propose(rig_of(FIVE, ["buzzer_passive", "hobby_servo", *["motor_driver"] * 3]))
    assert "PWM output" in tones.impossible, "D5 and D6 are left for three"


def test_what_moves_hangs_on_no_pin_the_board_works_at_start() -> None:
    proposed = propose(rig_of("three_volt_wireless", ["relay_module", "hobby_servo", "buzzer"]))
    circuit = Circuit(proposed.wiring)
    for thread in circuit.threads:
        assert thread.pin is None or thread.pin.use is PinUse.NONE, thread.name


def test_a_contact_is_on_a_pin_that_can_hold_it() -> None:
    proposed = propose(rig_of("three_volt_wireless", ["push_button"])).wiring
    circuit = Circuit(proposed)
    pins = [one.pin for one in circuit.threads if one.pin is not None]
    assert pins
    assert all(circuit.board.class_of(pin).pull_up_ohm for pin in pins)


def test_where_interrupts_run_out_the_rest_is_counted_by_pin_change() -> None:
    proposal = propose(rig_of(FIVE, ["hall_switch_unipolar"] * 3))
    assert not proposal.impossible
    assert {"D2", "D3"} <= {pin_of(proposal.wiring, f"d{n}", "OUT") for n in range(3)}
    assert set(found(proposal.wiring)) <= {"pin-change-cost"}
