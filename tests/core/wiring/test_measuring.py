"""Where to hold the meter: what is right there, and what a fault would show."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.wiring.rigs import FIVE, THREE, device, wire, wiring
from tests.core.wiring.strategies import wirings

from tickstone.core.families.device_family import Drive
from tickstone.core.wiring.bead import pull_down, pull_up, series
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.measuring import Expected, measuring_points
from tickstone.core.wiring.netlist import Wiring


def points(one: Wiring) -> dict[str, Expected]:
    return {point.expected.point: point.expected for point in measuring_points(Circuit(one))}


def hall(*beads: object, pin: str = "D2", supply: str = "5V", board: str = FIVE) -> Wiring:
    return wiring(
        board,
        [device("hall", "hall_switch_unipolar")],
        [
            wire("hall.VCC", supply),
            wire("hall.GND", "GND"),
            wire("hall.OUT", pin, *beads),  # type: ignore[arg-type]
        ],
    )


@settings(max_examples=80, suppress_health_check=[HealthCheck.too_slow])
@given(wirings())
def test_every_point_is_its_own_and_has_a_span(one: Wiring) -> None:
    found = list(measuring_points(Circuit(one)))
    names = [point.expected.point for point in found]
    assert len(set(names)) == len(names)
    for point in found:
        assert point.expected.low_v < point.expected.high_v
        assert point.text.endswith(".")
        assert (point.device == "") == (point.lead == "")
        assert not point.expected.passes(point.expected.high_v + 0.01)
        assert not point.expected.passes(point.expected.low_v - 0.01)


@settings(max_examples=80, suppress_health_check=[HealthCheck.too_slow])
@given(wirings())
def test_the_volts_worked_out_pass_at_every_lifted_lead(one: Wiring) -> None:
    circuit = Circuit(one)
    expected = points(one)
    for thread in circuit.threads:
        output = thread.lead.output
        if thread.pin is None or output is None or output.drive is not Drive.OPEN_DRAIN:
            continue
        point = circuit.solved.at(thread.pin.name)
        if thread.place in expected:
            assert point.island is not None
            assert expected[thread.place].passes(point.volts(point.island.rest_state).usual)
        else:
            assert point.is_held or point.behind_ohm(0) > 1e7


def test_a_pull_up_to_the_wrong_rail_does_not_pass() -> None:
    right, wrong = hall(pull_up(10_000.0)), hall(pull_up(10_000.0, "3V3"))
    assert points(right)["hall.OUT"].passes(5.0)
    assert not points(right)["hall.OUT"].passes(3.3)
    assert points(wrong)["hall.OUT"].passes(3.3)


def test_without_a_pull_up_there_is_nothing_to_measure() -> None:
    assert "hall.OUT" not in points(hall())


@given(st.floats(0.95, 1.05), st.floats(0.95, 1.05), st.floats(0.7, 1.0))
def test_a_divider_of_parts_within_their_tolerance_passes(
    top: float, bottom: float, charge: float
) -> None:
    cells = wiring(
        THREE,
        [device("cells", "battery_divider", full_charge_v=8.4)],
        [
            wire("cells.BAT+", "GP26", series(18_000.0), pull_down(10_000.0)),
            wire("cells.BAT-", "GND"),
        ],
    )
    upper, lower = 18_000.0 * top, 10_000.0 * bottom
    shown = 8.4 * charge * lower / (upper + lower)
    assert points(cells)["cells.BAT+"].passes(shown)
    swapped = 8.4 * charge * upper / (upper + lower)
    assert not points(cells)["cells.BAT+"].passes(swapped)


@pytest.mark.parametrize(("said", "right", "wrong"), [(None, 9.0, 5.0), (6.0, 6.0, 9.0)])
def test_a_rail_one_feeds_is_what_one_said(said: float | None, right: float, wrong: float) -> None:
    fed = wiring(FIVE, [device("servo", "hobby_servo")], [wire("servo.V+", "VIN")])
    fed = replace(fed, settings=replace(fed.settings, vin_v=said))
    assert points(fed)["VIN"].passes(right)
    assert not points(fed)["VIN"].passes(wrong)


def test_only_rails_in_use_are_measured() -> None:
    assert set(points(hall(pull_up(10_000.0)))) == {"5V", "hall.OUT"}
