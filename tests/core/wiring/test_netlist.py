"""What cannot be a wiring is refused by name; what can be turned into steps and a bill is."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.wiring.rigs import DEVICES, FIVE, THREE, device, ranger, wire, wiring

from tickstone.core.families.recognising import recognise, split_labels
from tickstone.core.wiring.bead import Bead, BeadKind, pull_down, pull_up, series
from tickstone.core.wiring.bill import bill_of_materials
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import Connection, Device
from tickstone.core.wiring.proposal import propose
from tickstone.core.wiring.steps import Phase, wiring_steps


@pytest.mark.parametrize(
    ("wires", "words"),
    [
        ([wire("nobody.VCC", "5V")], "there is no “nobody” on this rig"),
        ([wire("ranger.OUT", "5V")], "ranger has no lead “OUT”; it has VCC, TRIG, ECHO, GND"),
        ([wire("ranger.VCC", "12V")], "ranger VCC goes to “12V”"),
        ([wire("ranger.VCC", "5V"), wire("ranger.VCC", "3V3")], "ranger VCC goes to two places"),
        ([wire("ranger.ECHO", "D8", pull_up(1e4, "9V"))], "a part of ranger ECHO goes to “9V”"),
        ([wire("ranger.ECHO", "D8", *[series(10.0)] * 7)], "ranger ECHO has 7 parts"),
        ([Connection("ranger", "ECHO", "D8", colour="plaid")], "ranger ECHO is “plaid”"),
    ],
)
def test_a_wrong_connection_is_refused_by_name(wires: list[Connection], words: str) -> None:
    with pytest.raises(ValueError, match=words.replace("[", r"\[")):
        wiring(FIVE, [device("ranger", "ultrasonic_ranger")], wires)


@pytest.mark.parametrize(
    ("fields", "word"),
    [
        ({"kind": BeadKind.SERIES}, "ohm"),
        ({"kind": BeadKind.SERIES, "ohm": -1.0}, "ohm"),
        ({"kind": BeadKind.SERIES, "ohm": float("nan")}, "ohm"),
        ({"kind": BeadKind.CAPACITOR, "ohm": 1.0, "farad": 1e-7}, "ohm"),
        ({"kind": BeadKind.CAPACITOR, "farad": 4.0}, "farad"),
        ({"kind": BeadKind.PULL_DOWN, "ohm": 1.0, "rail": "5V"}, "rail"),
        ({"kind": BeadKind.PULL_UP, "ohm": 1.0, "tolerance": 2.0}, "tolerance"),
    ],
)
def test_a_part_that_cannot_be_is_refused(fields: dict, word: str) -> None:
    with pytest.raises(ValueError, match=f"^{word}"):
        Bead(**fields)


def test_an_address_the_part_does_not_have() -> None:
    with pytest.raises(ValueError, match="unit can be 0x68, 0x69, not 0x42"):
        wiring(FIVE, [device("unit", "six_axis", address=0x42)], [])


@pytest.mark.parametrize(
    ("devices", "settings", "words"),
    [
        ([device("a", "buzzer"), device("a", "buzzer")], {}, "“a” stands there twice"),
        ([device(f"d{n}", "buzzer") for n in range(61)], {}, "60 devices at most, not 61"),
        ([device("", "buzzer")], {}, "needs 1 to 120 characters"),
        ([device("a", "buzzer", address=0x20)], {}, "a is not on an I²C bus"),
        ([device("a", "hall_switch_latching", pulse_hz=-1.0)], {}, "pulse_hz: -1 of a"),
        ([device("a", "battery_divider", full_charge_v=900.0)], {}, "full_charge_v: 900 of a"),
        ([device("a", "ultrasonic_ranger", facing_rad=float("nan"))], {}, "facing_rad: nan of a"),
        ([], {"bus_hz": 5.0}, "bus_hz: 5 is outside"),
        ([], {"wire_m": float("inf")}, "wire_m: inf is outside"),
        ([], {"loop_s": 0.0}, "loop_s: 0 is outside"),
        ([], {"reference": "the moon"}, "“the moon” is not this board’s"),
    ],
)
def test_what_cannot_be_is_refused_by_name(
    devices: list[Device], settings: dict, words: str
) -> None:
    with pytest.raises(ValueError, match=words):
        wiring(FIVE, devices, [], **settings)


def test_the_list_goes_from_power_off_to_power() -> None:
    steps = wiring_steps(propose(ranger(FIVE)).wiring)
    order = [step.phase for step in steps]
    assert order == sorted(order, key=list(Phase).index)
    assert order[0] is Phase.OFF
    assert order[-1] is Phase.POWER
    keys = [step.key for step in steps]
    assert len(keys) == len(set(keys))
    second = {step.phase for step in steps if step.needs_second}
    assert second == {Phase.GROUND, Phase.SUPPLY, Phase.SIGNAL, Phase.POLARITY, Phase.LOOK}


def test_a_changed_wire_changes_its_own_step_only() -> None:
    before = {one.key: one.fingerprint for one in wiring_steps(ranger(FIVE))}
    moved = ranger(FIVE).with_connections([wire("ranger.ECHO", "D9")])
    after = {one.key: one.fingerprint for one in wiring_steps(moved)}
    assert {key for key in before if before[key] != after[key]} == {"wire:ranger:ECHO"}


def test_test_points_are_what_a_meter_should_show() -> None:
    cells = wiring(
        FIVE,
        [device("cells", "battery_divider", full_charge_v=8.4)],
        [
            wire("cells.BAT+", "A0", series(10_000.0), pull_down(10_000.0)),
            wire("cells.BAT-", "GND"),
        ],
    )
    (expected,) = [one.expected for one in wiring_steps(cells) if one.expected]
    assert expected.passes(4.2)
    assert expected.passes(3.7)
    assert not expected.passes(0.0)
    assert not expected.passes(8.4)


def test_a_bare_pair_is_measured_where_a_swap_would_show() -> None:
    pair = propose(wiring(FIVE, [device("eye", "reflective_pair_collector_load")], [])).wiring
    points = {one.expected.point: one.expected for one in wiring_steps(pair) if one.expected}
    assert {"eye.A", "eye.C"} <= set(points)
    swapped = replace(pair, measured={"eye.A": 4.9, "eye.C": 1.2})
    assert not any(points[name].passes(volts) for name, volts in swapped.measured.items())
    assert "emitter-swapped" in {one.id for one in check_wiring(swapped)}


def test_the_bill_counts_parts_and_draws_their_bands() -> None:
    lines = {
        line.what: line
        for line in bill_of_materials(ranger(THREE, series(1_800.0), pull_down(3_300.0)))
    }
    assert lines["resistor 1.8 kΩ"].bands == ("brown", "grey", "red", "gold")
    assert lines["resistor 3.3 kΩ"].used_at == ("ranger ECHO",)
    assert lines["wire, red"].count == 1
    assert lines["ultrasonic ranger, 4 leads"].count == 1


@pytest.mark.parametrize(
    ("labels", "family"),
    [
        ("VCC TRIG ECHO GND", "ultrasonic_ranger"),
        ("gnd echo trig vcc", "ultrasonic_ranger"),
        ("VCC GND XOUT YOUT ZOUT", "accelerometer_analogue_regulated"),
        ("VDD GND X Y Z", "accelerometer_analogue_bare"),
        ("GND VCC SCL SDA AD0", "six_axis"),
        ("VCC GND IN1 IN2 ENA", "motor_driver"),
    ],
)
def test_labels_name_the_family(labels: str, family: str) -> None:
    best = recognise(split_labels(labels), DEVICES.values())[0]
    assert best.family.name == family
    assert best.is_exact


@given(st.sampled_from(sorted(name for name, family in DEVICES.items() if family.is_wired)))
def test_every_family_is_recognised_by_its_own_labels(name: str) -> None:
    labels = [lead.labels[0] for lead in DEVICES[name].leads]
    exact = {match.family.name for match in recognise(labels, DEVICES.values()) if match.is_exact}
    assert name in exact


@given(st.text(max_size=60))
def test_any_text_is_labels_or_a_clear_refusal(text: str) -> None:
    try:
        labels = split_labels(text)
    except ValueError as error:
        assert "label" in str(error)  # noqa: PT017
    else:
        recognise(labels, DEVICES.values())


def test_a_rail_on_the_reference_pin_is_a_wire_of_the_list_and_the_bill() -> None:
    leads = [wire("eye.VCC", "3V3"), wire("eye.GND", "GND"), wire("eye.OUT", "A0")]
    eye = [device("eye", "hall_analogue")]
    own = wiring(FIVE, eye, leads, reference="3V3 on the reference pin")
    (step,) = [one for one in wiring_steps(own) if one.key == "reference"]
    assert step.text == "3V3 to the board’s reference pin, red."
    assert "external reference first" in step.caution
    counts = {line.what: line.count for line in bill_of_materials(own)}
    assert counts["wire, red"] == 2
    usual = wiring(FIVE, eye, leads)
    assert "reference" not in {one.key for one in wiring_steps(usual)}
    unread = wiring(FIVE, eye, leads[:2], reference="3V3 on the reference pin")
    assert "reference" not in {one.key for one in wiring_steps(unread)}
