"""Who draws how much: the sums of rails and pins, counted another way."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.wiring.rigs import BOARDS, DEVICES, FIVE, THREE, device, found, wire, wiring
from tests.core.wiring.strategies import wirings

from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import Role, Supply
from tickstone.core.wiring.bead import series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.currents import pin_amps, rail_budgets
from tickstone.core.wiring.lamps import lamps_of
from tickstone.core.wiring.modelling.pins import pin_ohms
from tickstone.core.wiring.netlist import Wiring

FED = [name for name, one in DEVICES.items() if [x.role for x in one.leads].count(Role.SUPPLY) == 1]


def supply_lead(family: str) -> str:
    return next(one.name for one in DEVICES[family].leads if one.role is Role.SUPPLY)


def supply_of_lead(family: str) -> Supply | None:
    one = DEVICES[family]
    return one.supply_of(next(lead for lead in one.leads if lead.role is Role.SUPPLY))


def fed(families: list[str], rail: str, board: str = FIVE) -> Wiring:
    devices = [device(f"d{n}", family) for n, family in enumerate(families)]
    return wiring(
        board,
        devices,
        [wire(f"d{n}.{supply_lead(one)}", rail) for n, one in enumerate(families)],
    )


def own_draw(board: str) -> float:
    figure = BOARDS[board].draw_a
    return figure.value if figure else 0.0


@given(st.lists(st.sampled_from(sorted(FED)), max_size=8))
def test_a_rail_gives_what_its_devices_and_the_board_take_and_all_their_peaks(
    kinds: list[str],
) -> None:
    budgets = {one.name: one for one in rail_budgets(Circuit(fed(kinds, "5V")))}
    supplies = [supply_of_lead(kind) for kind in kinds]
    usual = math.fsum(one.typical_a.value for one in supplies if one)
    peaks = math.fsum((one.peak_a or one.typical_a).value for one in supplies if one)
    assert budgets["5V"].usual_a == pytest.approx(usual + own_draw(FIVE))
    assert budgets["5V"].peak_a == pytest.approx(peaks + own_draw(FIVE))
    assert budgets["3V3"].usual_a == 0.0


def test_what_the_lower_regulator_gives_comes_from_the_higher() -> None:
    circuit = Circuit(fed(["accelerometer_analogue_bare", "laser_ranger"], "3V3"))
    budgets = {one.name: one for one in rail_budgets(circuit)}
    assert budgets["3V3"].usual_a > 0.0
    assert budgets["5V"].usual_a == pytest.approx(budgets["3V3"].usual_a + own_draw(FIVE))
    assert "what 3V3 feeds" in [draw.name for draw in budgets["5V"].draws]


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
    (one,) = lamps_of(circuit)
    family = BOARDS[board]
    limits = family.class_of(family.pin(pin))
    down, up = pin_ohms(limits, family.logic_v.value)
    forward = lamp.devices[0].family.leads[0].emitter.forward_v.value
    # At a milliampere or two an LED has somewhat less than its stated volts across it.
    low = (family.logic_v.value - forward) / (1_000.0 + up.usual)
    assert low <= one.amps.usual <= 1.35 * low
    (look,) = circuit.pin_looks
    assert pin_amps(circuit, look).usual == pytest.approx(one.amps.usual, rel=1e-6)
    by_name = {found.name: found for found in rail_budgets(circuit)}
    drawn = by_name[family.logic_rail.name].usual_a - own_draw(board)
    assert drawn == pytest.approx(one.amps.usual, rel=1e-6)
    assert down.low < down.usual < down.high


def test_an_overloaded_rail_is_told_at_the_greatest_consumer() -> None:
    servos = fed(["hobby_servo"] * 4 + ["ultrasonic_ranger"], "5V")
    overload = found(servos)["rail-current"]
    assert overload.severity == "error", "600 mA in work from a port of 500 mA"
    (spot, rail) = overload.spots
    assert (spot.device[:1], spot.lead, rail.part) == ("d", "V+", "5V")
    numbers = {one.name: one.value for one in overload.numbers}
    assert numbers["in work"] == pytest.approx(4 * 0.15 + 0.015 + own_draw(FIVE))
    assert numbers["for a moment"] == pytest.approx(numbers["in work"] + 4 * 0.55)
