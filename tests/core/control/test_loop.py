"""Loops in time: what they may never do, and what they have to do."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tickstone.core.control.controller import Controller, Gains
from tickstone.core.control.demonstrators import DEMONSTRATORS
from tickstone.core.control.loop import Relay, Rig, simulate
from tickstone.core.control.margins import Loop, growth
from tickstone.core.control.measures import of_run
from tickstone.core.control.plant import Plant
from tickstone.core.control.plants import PLANTS
from tickstone.core.inputs import inputs_of, known_only, with_inputs

PLANT = Plant(2.0, 0.5, 0.1)
finite = st.floats(-20.0, 20.0)


@settings(max_examples=80, deadline=None)
@given(
    kp=finite, ki=finite, kd=st.floats(-2.0, 2.0), low=st.floats(-5.0, -0.5),
    high=st.floats(0.5, 5.0), slew=st.sampled_from([0.0, 3.0]), whole=st.booleans(),
    windup=st.sampled_from(["stop", "back", "none"]), zeros=st.sampled_from([0.0, 20.0]),
    invalid=st.sampled_from(["hold", "count"]), many=st.integers(0, 2),
    noise=st.sampled_from([0.0, 0.3]),
)  # fmt: skip
def test_a_clamp_is_never_passed_nor_a_slew(
    kp: float, ki: float, kd: float, low: float, high: float, slew: float, whole: bool,
    windup: str, zeros: float, invalid: str, many: int, noise: float,
) -> None:  # fmt: skip
    controller = Controller(
        kp=kp, ki=ki, kd=kd, low=low, high=high, slew_per_s=slew, whole_numbers=whole,
        windup=windup, invalid=invalid, hold_s=60.0,
    )  # fmt: skip
    rig = Rig(sample_s=0.02, lasts_s=6.0, zeros=zeros, noise_u=noise)
    run = simulate(Plant(1.5, 0.3, 0.06, many, low=-50.0, high=50.0), controller, rig)
    assert run.output.min() >= low
    assert run.output.max() <= high
    assert np.all(np.abs(run.true) <= 50.0)
    if slew:
        assert np.abs(np.diff(run.output)).max() <= slew * 0.02 + 1e-9


@settings(max_examples=60, deadline=None)
@given(
    kp=st.floats(0.05, 30.0), ki=st.floats(0.0, 30.0), kd=st.floats(0.0, 2.0),
    lag=st.floats(0.05, 2.0), delay=st.floats(0.0, 0.5), many=st.integers(0, 1),
    sample=st.sampled_from([0.02, 0.05]), d_lag=st.sampled_from([0.02, 0.1]),
)  # fmt: skip
def test_growth_tells_whether_the_loop_in_time_is_stable(
    kp: float, ki: float, kd: float, lag: float, delay: float, many: int, sample: float,
    d_lag: float,
) -> None:  # fmt: skip
    """The eigenvalues of one turn say what the simulation does, near the edge left out."""
    delay = round(delay, 3)
    plant = Plant(1.0, lag, delay, many)
    told = growth(Loop(plant, Gains(kp, ki, kd), d_lag), sample)
    assume(abs(told - 1.0) > 0.004)
    controller = Controller(kp=kp, ki=ki, kd=kd, derivative_lag_s=d_lag, low=-1e6, high=1e6)
    run = simulate(plant, controller, Rig(sample_s=sample, lasts_s=1500 * sample, step_at_s=0.0))
    early = np.ptp(run.true[300:500])
    late = np.ptp(run.true[-200:])
    if told < 1.0:
        assert late <= early + 1e-9
    else:
        between_its_ends = early > 0.1 * controller.high  # where how far it swings is settled
        assert late > 0.9 * early or between_its_ends


def test_i_leaves_nothing_over_and_p_alone_does() -> None:
    rig = Rig(lasts_s=30.0)
    assert of_run(simulate(PLANT, Controller(kp=1.0, ki=1.0), rig)).offset == pytest.approx(
        0, abs=1e-4
    )
    alone = of_run(simulate(PLANT, Controller(kp=1.0), rig))
    assert alone.offset == pytest.approx(1.0 / (1.0 + 2.0), abs=1e-4)  # 1/(1 + K·kp)


def test_a_step_of_the_plant_is_what_the_books_say() -> None:
    """All one way from the first reading on: y = K·u·(1 − e^(−(t − θ)/τ))."""
    rig = Rig(sample_s=0.01, lasts_s=4.0, target=1e6, step_at_s=0.0)
    run = simulate(PLANT, Controller(), rig, relay=Relay(height=1.0))
    t = run.time_s
    expected = np.where(t > 0.1, 2.0 * (1.0 - np.exp(-(t - 0.1) / 0.5)), 0.0)
    assert np.abs(run.true - expected).max() < 0.006


def test_a_ball_rolls_as_gravity_says() -> None:
    """5/7·g·tilt, twice added up: from rest x = ½·a·t², after lag and dead time."""
    plant = replace(PLANTS["ball-beam"].plant(PLANTS["ball-beam"].parameters()), sticks_below=0.0,
                    lag_s=1e-3, delay_s=0.0, low=-10.0, high=10.0)  # fmt: skip
    run = simulate(plant, Controller(kp=0.0, rest=0.05), Rig(sample_s=0.01, lasts_s=1.0, start=0.0))
    a = 5.0 / 7.0 * 9.80665 * 0.05
    assert run.true[-1] == pytest.approx(0.5 * a * run.time_s[-1] ** 2, rel=0.01)


def test_a_map_to_the_actuator_is_a_gain_and_an_offset() -> None:
    """−100 … 100 onto −20 … 20, against the same loop without one; in whole numbers it differs."""
    mapped = Controller(kp=20.0, ki=10.0, low=-100.0, high=100.0, act_low=-20.0, act_high=20.0)
    plain = Controller(kp=4.0, ki=2.0, low=-20.0, high=20.0)
    rig = Rig(lasts_s=8.0, target=3.0)
    one, other = (simulate(PLANT, each, rig) for each in (mapped, plain))
    assert np.allclose(one.true, other.true)
    assert np.allclose(one.output, 5.0 * other.output)
    assert mapped.acting == Gains(4.0, 2.0, 0.0)
    whole = simulate(PLANT, replace(mapped, whole_numbers=True), rig)
    assert not np.allclose(whole.true, one.true, atol=0.05)


def test_friction_keeps_a_wheel_from_starting() -> None:
    plant = replace(PLANT, sticks_below=0.3)
    rig = Rig(lasts_s=5.0)
    assert of_run(simulate(plant, Controller(kp=0.2), rig)).offset == pytest.approx(1.0)
    assert abs(of_run(simulate(plant, Controller(kp=0.2, ki=0.5), rig)).offset) < 1.0


@pytest.mark.parametrize("one", DEMONSTRATORS, ids=lambda one: one.name)
def test_each_mistake_costs_what_it_is_said_to(one) -> None:  # type: ignore[no-untyped-def]
    kind = PLANTS[one.plant]
    told = []
    for settings_ in (one.right, one.wrong):
        values = {**kind.usual, **settings_}
        plant = kind.plant(kind.parameters())
        run = simulate(
            plant,
            with_inputs(Controller, known_only(Controller, values)),
            with_inputs(Rig, known_only(Rig, values)),
        )
        told.append((of_run(run, 12.0), run))
    (right, _), (wrong, run) = told
    if one.name == "whole-numbers":
        assert abs(right.offset) < 0.1 < abs(wrong.offset)
    elif one.name == "wind-up":
        assert wrong.overshoot > right.overshoot + 0.1
    else:
        assert wrong.travel > 3.0 * right.travel


@pytest.mark.parametrize("name", PLANTS)
def test_every_plant_of_the_bench_begins_stable(name: str) -> None:
    kind = PLANTS[name]
    known = {one.name for one in (*inputs_of(Controller), *inputs_of(Rig))}
    assert set(kind.usual) <= known
    controller = Controller(**known_only(Controller, kind.usual))
    rig = Rig(**known_only(Rig, kind.usual))
    plant = kind.plant(kind.parameters())
    loop = Loop(plant, controller.counted, controller.derivative_lag_s)
    # A loop whose place is nowhere pinned down has one eigenvalue at 1, and no more.
    assert growth(loop, rig.sample_s) < 1.0 + 1e-9
    assert math.isfinite(of_run(simulate(plant, controller, rig), rig.load_at_s).itae)


def test_the_same_seed_is_the_same_run() -> None:
    rig = Rig(noise_u=0.1, zeros=5.0)
    one, other = (simulate(PLANT, Controller(ki=1.0), rig, seed=4) for _ in range(2))
    assert np.array_equal(one.output, other.output)
    assert not np.array_equal(simulate(PLANT, Controller(ki=1.0), rig, seed=5).output, one.output)


def test_held_readings_let_go_after_a_while() -> None:
    rig = Rig(zeros=90.0, lasts_s=20.0)
    controller = Controller(kp=1.0, ki=1.0, hold_s=0.2, rest=0.0)
    assert (simulate(PLANT, controller, rig).output == 0.0).any()


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: Plant(0.0, 1.0, 1.0), "gain"),
        (lambda: Plant(1.0, -1.0, 1.0), "lag_s"),
        (lambda: Plant(1.0, 1.0, math.nan), "delay_s"),
        (lambda: Plant(1.0, 1.0, 1.0, 3), "integrators"),
        (lambda: Controller(low=1.0, high=1.0), "high"),
        (lambda: Controller(low=1.0, high=2.0), "rest"),
        (lambda: Rig(sample_s=0.0), "sample_s"),
        (lambda: simulate(PLANT, Controller(), Rig(sample_s=1e-4, lasts_s=20_000.0)), "steps"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_named(make, says: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(ValueError, match=says):
        make()
