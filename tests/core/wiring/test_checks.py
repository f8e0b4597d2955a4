"""Each check: a wiring that has just that fault, what is said, and that its repair clears it."""

from __future__ import annotations

import ast
from dataclasses import replace
from pathlib import Path

import pytest
from tests.core.wiring.faults import (
    EYE,
    FAULTS,
    bare_pull_ups,
    battery,
    laser,
    pair,
    tilt,
    two_rangers,
)
from tests.core.wiring.rigs import (
    BOARDS,
    DEVICES,
    FIVE,
    THREE,
    WIRELESS,
    device,
    found,
    ranger,
    wire,
    wiring,
)

from tickstone.core.wiring import checks
from tickstone.core.wiring.bead import BeadKind, pull_down, series
from tickstone.core.wiring.bus_lines import bus_lines
from tickstone.core.wiring.checks import found_in
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import Wiring
from tickstone.demo.wirings import DEMO_WIRINGS, wiring_text
from tickstone.formats.wiring_file import read_wiring


@pytest.mark.parametrize("fault", sorted(FAULTS))
def test_the_fault_is_found_and_its_repair_clears_it(fault: str) -> None:
    broken = FAULTS[fault]
    finding = found(broken)[fault]
    assert finding.message.endswith((".", "!"))
    assert finding.why
    assert finding.source
    assert finding.repair is not None, "every one of these can be mended with a wire or a setting"
    mended = finding.repair.applied(broken)
    assert finding.key not in {one.key for one in check_wiring(mended)}
    worst = {one.id for one in check_wiring(mended) if one.severity == "error"}
    assert worst <= {one.id for one in check_wiring(broken) if one.severity == "error"}


def ids_in_the_code() -> set[str]:
    """Every id a check can give, read from the source of the checks."""
    found = set()
    for file in Path(checks.__file__).parent.glob("*.py"):
        for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "WiringFinding":
                said = [
                    one.value for one in ast.walk(node.args[0]) if isinstance(one, ast.Constant)
                ]
                found |= {*said} or {f"{file.name}: computed"}
    return found


COMPUTED = {
    "pins.py: computed": {"serial-pin", "boot-pin", "lamp-pin"},
    "current.py: computed": {"port-current", "board-current"},
    "bears.py: computed": {
        *("output-too-high", "bus-too-high", "analogue-too-high", "battery-over-reference"),
        "pin-too-high",
    },
}
WITHOUT_A_REPAIR = {"battery-unstated", "emitter-swapped", "worked-out-in-part"}
ELSEWHERE = {"bus-too-high", "rail-current", "pin-too-high", "not-worked-out"}
CIRCUITS = {
    *("shorted-source", "two-sources", "no-headroom", "regulator-heat", "part-current"),
    *("led-dark", "lamps-share-resistor", "both-on-one-net"),
}


def test_no_check_goes_untried() -> None:
    ids = ids_in_the_code()
    for computed, meant in COMPUTED.items():
        ids.remove(computed)
        ids |= meant
    assert ids == {*FAULTS} | WITHOUT_A_REPAIR | ELSEWHERE | CIRCUITS


def test_a_repair_keeps_the_colour_somebody_chose() -> None:
    blue = replace(wire("ranger.VCC", "3V3"), colour="blue")
    repair = found(ranger(FIVE).with_connections([blue]))["supply-range"].repair
    assert repair is not None
    assert (repair.connections[0].to, repair.connections[0].colour) == ("5V", "blue")


def test_a_sound_ranger_has_no_finding() -> None:
    assert found(ranger(FIVE)) == {}
    assert found(ranger(THREE, series(1_800.0), pull_down(3_300.0))) == {}


def test_the_echo_divider_for_a_three_volt_board() -> None:
    repair = found(ranger(THREE))["output-too-high"].repair
    assert repair is not None
    assert repair.text == (
        "Put 1.8 kΩ over 3.3 kΩ on ranger ECHO: 3.24 V, and 3.12 to 3.35 V with both resistors’ "
        "tolerances against you."
    )
    beads = repair.connections[0].beads
    assert [(bead.kind, bead.ohm) for bead in beads] == [
        (BeadKind.SERIES, 1_800.0),
        (BeadKind.PULL_DOWN, 3_300.0),
    ]


def test_ten_and_four_point_seven_do_not_make_about_half_either_way() -> None:
    """Common practice check: 1.60 V one way, 3.40 V the other; neither is right at 3.3 V."""
    low = found(ranger(THREE, series(10_000.0), pull_down(4_700.0)))["output-too-low"]
    assert {n.name: round(n.value, 2) for n in low.numbers}["nominal"] == 1.60
    high = found(ranger(THREE, series(4_700.0), pull_down(10_000.0)))["output-too-high"]
    assert {n.name: round(n.value, 2) for n in high.numbers}["nominal"] == 3.40


def test_a_ratiometric_part_on_its_own_reference_is_silent() -> None:
    assert found(tilt("3V3", THREE)) == {}
    assert "ratiometric-reference" in found(tilt("3V3"))
    assert "ratiometric-reference" not in found(tilt("3V3", reference="3V3 on the reference pin"))


def test_leads_of_one_part_are_told_at_once() -> None:
    findings = [one for one in check_wiring(tilt("3V3")) if one.id == "ratiometric-reference"]
    (finding,) = findings
    assert "tilt XOUT, YOUT and ZOUT scale with 3V3" in finding.message
    assert [spot.lead for spot in finding.spots] == ["XOUT", "YOUT", "ZOUT"]


def test_drift_counts_each_tolerance_once() -> None:
    """2.64 V of 5 V, both rails ± 5 %: a tenth of 541 codes; inside reference: a twentieth."""

    def codes(board: str, pins: tuple[str, ...]) -> float:
        one = tilt("3V3")
        moved = [replace(c, to=pin) for c, pin in zip(one.connections[2:], pins, strict=True)]
        on = Wiring(BOARDS[board], one.devices, (*one.connections[:2], *moved))
        numbers = {n.name: n.value for n in found(on)["ratiometric-reference"].numbers}
        return numbers["codes of drift"]

    assert codes(FIVE, ("A0", "A1", "A2")) == pytest.approx(0.10 * 2.64 / 5.0 * 1024, abs=0.5)
    wireless = codes(WIRELESS, ("IO32", "IO33", "IO34"))
    assert wireless == pytest.approx(0.05 * 2.64 / 3.3 * 4096, abs=0.5)


def test_a_board_without_the_parts_own_reference_only_notes_it() -> None:
    pins = zip(tilt("3V3").connections[2:], ("IO32", "IO33", "IO34"), strict=True)
    on = Wiring(
        BOARDS[WIRELESS],
        tilt("3V3").devices,
        (*tilt("3V3").connections[:2], *(replace(c, to=pin) for c, pin in pins)),
    )
    finding = found(on)["ratiometric-reference"]
    assert (finding.severity, finding.repair) == ("note", None)


@pytest.mark.parametrize(("apart", "hears"), [(0, True), (44, True), (46, False), (180, False)])
def test_rangers_hear_each_other_within_their_beams(apart: float, hears: bool) -> None:
    assert ("ranger-cross-talk" in found(two_rangers(apart))) == hears


def test_emitter_and_detector_in_each_others_place() -> None:
    sound = pair(*EYE, wire("eye.A", "5V", series(330.0)))
    assert "emitter-swapped" not in found(replace(sound, measured={"eye.A": 1.2, "eye.C": 4.4}))
    swapped = found(replace(sound, measured={"eye.A": 4.9, "eye.C": 1.15}))
    assert "1.15 V" in swapped["emitter-swapped"].message


def test_a_battery_whose_volts_nobody_said() -> None:
    one = battery(8.4, series(10_000.0), pull_down(10_000.0))
    silent = replace(one, devices=(replace(one.devices[0], full_charge_v=None),))
    assert set(found(silent)) == {"battery-unstated"}


def test_a_five_volt_bus_on_a_three_volt_board() -> None:
    one = laser()
    finding = found(one)["bus-too-high"]
    assert finding.repair is not None
    assert found(finding.repair.applied(one)) == {}


def test_a_servo_overloads_the_usb_port_for_a_moment() -> None:
    servo = wiring(
        FIVE,
        [device("servo", "hobby_servo")],
        [wire("servo.V+", "5V"), wire("servo.GND", "GND"), wire("servo.SIG", "D3")],
    )
    assert found(servo)["rail-current"].severity == "warning"
    fed = replace(servo, settings=replace(servo.settings, vin_v=5.0))
    repair = found(fed)["rail-current"].repair
    assert repair is not None
    assert found(repair.applied(fed)) == {}


EXPECTED = {
    "bramble": {("missing-pull-up", "error")},
    "pipit": {("output-too-high", "error"), ("missing-decoupling", "note")},
}


@pytest.mark.parametrize("name", DEMO_WIRINGS)
def test_the_demo_rigs_have_the_faults_put_there_and_no_other(name: str) -> None:
    findings = check_wiring(read_wiring(wiring_text(name), BOARDS, DEVICES))
    assert {(one.id, one.severity) for one in findings} == EXPECTED[name]
    assert len(findings) == len(EXPECTED[name])


@pytest.mark.parametrize(("bus_hz", "rise_s"), [(100e3, 1000e-9), (400e3, 300e-9)])
def test_a_bus_is_told_of_just_where_um10204_has_its_limit(bus_hz: float, rise_s: float) -> None:
    """UM10204 rev. 7, §7.1, eq. 1: R_p(max) = t_r/(0.8473·C_b), C_b as the bus is drawn."""
    line = bus_lines(Circuit(bare_pull_ups(4_700.0, bus_hz=bus_hz)))[0]
    most = rise_s / (0.8473 * line.capacitance_f)
    for share, is_slow in ((1.02, True), (0.98, False)):
        assert ("bus-rise-time" in found(bare_pull_ups(most * share, bus_hz=bus_hz))) == is_slow


def test_where_too_many_meet_for_every_two_to_be_looked_at_it_is_said() -> None:
    eyes = range(28)
    crowd = wiring(
        FIVE,
        [device(f"eye{n}", "ultrasonic_ranger_3_lead") for n in eyes],
        [wire(f"eye{n}.{a}", b) for n in eyes for a, b in (("VCC", "5V"), ("GND", "GND"))]
        + [wire(f"eye{n}.SIG", "D7") for n in eyes],
    )
    said = {one.id: one for one in found_in(Circuit(crowd))}["worked-out-in-part"]
    assert "29 outputs and pins meet" in said.message
    few = replace(crowd, devices=crowd.devices[:3], connections=())
    assert "worked-out-in-part" not in {one.id for one in found_in(Circuit(few))}
