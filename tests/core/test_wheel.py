"""What a turn rolls: a tyre's size, a gear counted by hand, a tape; for all that turns."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.gear import GearKind, likely_teeth
from tickstone.core.calibration.kind import Span
from tickstone.core.calibration.roll_out import RollOutKind
from tickstone.core.chains.pulses import EDGE, PulseParameters, Pulses
from tickstone.core.chains.quadrature import Quadrature, QuadratureParameters
from tickstone.core.signal import Signal
from tickstone.core.stages.code_steps import QUADRATURE
from tickstone.core.surroundings import Surroundings
from tickstone.core.tyres import tyre_size
from tickstone.core.uncertainty import expanded

HERE = Surroundings(AirConditions(20.0))
FORMS = {"pulses": "edges"}


def edges(count: int, gap_s: float = 0.1) -> Signal:
    return Signal.of(gap_s * np.arange(count), np.ones(count), EDGE)


@pytest.mark.parametrize(
    ("printed", "table_m"),
    [
        ("47-305", 1.272),
        ("47-406", 1.590),
        ("50-559", 2.089),
        ("37-622", 2.205),
        ("28-622", 2.149),
        ("23-622", 2.097),
    ],
)
def test_sizes_lie_within_their_doubt_of_what_is_rolled(printed: str, table_m: float) -> None:
    """Roll-outs as tables for bicycle computers give them, from memory; sizes of ISO 5775."""
    chain = Pulses().build(PulseParameters(tyre=printed), HERE, forms=FORMS)
    step = chain.explain(edges(9), 4, "speed")[-1]
    around = step.value / 10.0
    assert around == pytest.approx(tyre_size(printed).roll_out_m)
    part = next(one for one in step.components if one.name == "tyre size")
    assert abs(around - table_m) < expanded(part.contribution / 10.0)


@pytest.mark.parametrize("typed", ["26 inch", "622-47", "47-", "5-622", "47-900"])
def test_what_is_no_size_is_refused_with_what_one_looks_like(typed: str) -> None:
    with pytest.raises(ValueError, match=r"^tyre: "):
        PulseParameters(tyre=typed)


@given(st.integers(1, 40), st.integers(1, 40), st.integers(1, 8), st.integers(8, 30))
def test_a_gear_counted_by_hand_is_the_gear(
    front: int, rear: int, per_turn: int, wheel_turns: int
) -> None:
    """So many whole pulses as those turns give, one more or less by chance."""
    gear = front / rear
    parameters = PulseParameters(per_turn=per_turn)
    pulses = max(2, math.floor(wheel_turns / gear * per_turn))
    chain = Pulses().build(parameters, HERE, forms=FORMS)
    signal = chain.apply(edges(pulses), "frequency")  # none of it is bounce
    assert signal.ok.sum() >= pulses - 1
    counted = chain.run(chain.begin(), {"pulses": edges(pulses)})[0]["missed"]
    fit = GearKind().fit([Span("by hand", counted, float(wheel_turns), 0.05)], parameters)
    GearKind().check(fit)
    found, u = fit.parameters["gear"], math.sqrt(fit.covariance[0, 0])
    # One pulse at most is lost to the floor: within what ± 1 allows.
    assert abs(found - gear) <= gear * 1.01 / (wheel_turns / gear * per_turn) + expanded(u)


def test_teeth_are_named_only_when_few_do() -> None:
    assert likely_teeth(14 / 42, 0.001) is not None
    assert likely_teeth(math.pi / 3, 1e-7) is None


def test_a_counted_gear_and_a_roll_out_go_into_the_speed() -> None:
    parameters = PulseParameters(gear=7.0)
    kind = Pulses()
    counted = chain_edges(kind, parameters)
    gear = GearKind().fit([Span("by hand", counted, 10.0, 0.05)], parameters)
    stages = {"gear": GearKind().stage(gear, False, "gear")}
    settled = kind.settled(parameters, stages)
    tape = RollOutKind().fit([Span("tape", counted, 4.0, 0.005)], settled)
    # Ten turns of the wheel rolled four metres, whatever was typed as the gear.
    assert tape.parameters["roll_out"] == pytest.approx(0.4)
    stages |= {"roll-out": RollOutKind().stage(tape, False, "tape")}
    chain = kind.build(parameters, HERE, stages, forms=FORMS)
    speed, way = chain.apply(edges(31), "speed"), chain.apply(edges(31), "distance")
    assert speed.value[5] == pytest.approx(10.0 * 10.0 / 31 * 0.4)
    assert way.value[-1] == pytest.approx(4.0)
    names = {one.name for one in chain.explain(edges(31), 5, "speed")[-1].components}
    assert {"gear", "roll-out"} <= names


def chain_edges(kind: Pulses, parameters: PulseParameters) -> Signal:
    chain = kind.build(parameters, HERE, forms=FORMS)
    return chain.run(chain.begin(), {"pulses": edges(31)})[0]["missed"]


@pytest.mark.parametrize("way", [1, -1])
def test_a_tape_does_for_two_channels_either_way(way: int) -> None:
    parameters = QuadratureParameters(lines=5)
    kind = Quadrature()
    codes = np.array([QUADRATURE[n % 4] for n in way * np.arange(201)])
    levels = Signal.of(
        0.01 * np.arange(201), [codes & 1, codes >> 1], kind.roles[0].forms[1].quantity
    )
    forms = {"channels": "changes"}
    chain, node = kind.compared_with(RollOutKind(), parameters, HERE, {}, forms)
    counted = chain.fold({"channels": levels}, node).results[node]
    fit = RollOutKind().fit([Span("tape", counted, 3.0, 0.005)], parameters)
    assert fit.parameters["roll_out"] == pytest.approx(0.3)
    stage = RollOutKind().stage(fit, False, "tape")
    done = kind.build(parameters, HERE, {"roll-out": stage}, forms=forms)
    assert done.apply(levels, "distance").value[-1] == pytest.approx(way * 3.0)


def test_where_no_pulses_are_left_there_is_nothing_to_count() -> None:
    with pytest.raises(ValueError, match="no pulses left"):
        Pulses().compared_with(RollOutKind(), PulseParameters(), HERE, {}, {"pulses": "turn-rate"})
