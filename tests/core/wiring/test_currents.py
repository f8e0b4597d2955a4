"""Who draws how much: the sums of rails and pins, counted another way."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.wiring.rigs import BOARDS, DEVICES, FIVE, THREE, device, found, wire, wiring
from tests.core.wiring.strategies import wirings

from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.currents import led_current, pin_current, rail_budgets
from tickstone.core.wiring.netlist import Wiring

FED = [name for name, one in DEVICES.items() if any(x.role is Role.SUPPLY for x in one.leads)]


def supply_lead(family: str) -> str:
    return next(one.name for one in DEVICES[family].leads if one.role is Role.SUPPLY)


def fed(families: list[str], rail: str, board: str = FIVE) -> Wiring:
    devices = [device(f"d{n}", family) for n, family in enumerate(families)]
    return wiring(
        board,
        devices,
        [wire(f"d{n}.{supply_lead(one)}", rail) for n, one in enumerate(families)],
    )


@given(st.lists(st.sampled_from(sorted(FED)), max_size=8))
def test_a_rail_gives_what_its_devices_take_and_one_of_them_at_its_peak(kinds: list[str]) -> None:
    budgets = {one.name: one for one in rail_budgets(Circuit(fed(kinds, "5V")))}
    supplies = [DEVICES[kind].supply for kind in kinds]
    usual = math.fsum(one.typical_a.value for one in supplies if one)
    steps = [one.peak_a.value - one.typical_a.value for one in supplies if one and one.peak_a]
    assert budgets["5V"].usual_a == pytest.approx(usual)
    assert budgets["5V"].peak_a == pytest.approx(usual + max([*steps, 0.0]))
    assert budgets["3V3"].usual_a == 0.0


def test_what_the_lower_regulator_gives_comes_from_the_higher() -> None:
    circuit = Circuit(fed(["accelerometer_analogue_bare", "laser_ranger"], "3V3"))
    budgets = {one.name: one for one in rail_budgets(circuit)}
    assert budgets["3V3"].usual_a > 0.0
    assert budgets["5V"].usual_a == pytest.approx(budgets["3V3"].usual_a)
    assert [draw.name for draw in budgets["5V"].draws] == ["what 3V3 feeds"]


@given(wirings())
def test_every_rail_but_ground_has_a_budget_and_no_draw_is_below_nothing(one: Wiring) -> None:
    circuit = Circuit(one)
    names = [budget.name for budget in rail_budgets(circuit)]
    assert names == [r.name for r in one.board.rails if r.kind is not RailKind.GROUND]
    for budget in rail_budgets(circuit):
        assert all(draw.usual_a >= 0.0 <= draw.peak_a for draw in budget.draws)


@pytest.mark.parametrize(("board", "pin"), [(FIVE, "D7"), (THREE, "GP6")])
def test_a_lamp_on_a_pin_takes_what_its_resistor_lets_through(board: str, pin: str) -> None:
    lamp = wiring(
        board,
        [device("lamp", "indicator_led")],
        [wire("lamp.A", pin, series(1_000.0)), wire("lamp.K", "GND")],
    )
    circuit = Circuit(lamp)
    thread = next(one for one in circuit.threads if one.lead.role is Role.ANODE)
    assert thread.lead.emitter is not None
    across = BOARDS[board].logic_v.value - thread.lead.emitter.forward_v.value
    assert led_current(circuit, thread) == pytest.approx(across / 1_000.0)
    assert pin_current(circuit, thread) == led_current(circuit, thread)
    by_name = {one.name: one for one in rail_budgets(circuit)}
    assert by_name[BOARDS[board].logic_rail.name].usual_a == pytest.approx(across / 1_000.0)


def test_an_overloaded_rail_is_told_at_the_greatest_consumer() -> None:
    servos = fed(["hobby_servo"] * 4 + ["ultrasonic_ranger"], "5V")
    overload = found(servos)["rail-current"]
    assert overload.severity == "error", "600 mA in work from a port of 500 mA"
    (spot,) = overload.spots
    assert (spot.device[:1], spot.lead) == ("d", "V+")
    numbers = {one.name: one.value for one in overload.numbers}
    assert numbers["in work"] == pytest.approx(4 * 0.15 + 0.015)
    assert numbers["for a moment"] == pytest.approx(numbers["in work"] + 0.55)
