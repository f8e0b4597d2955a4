"""Margins, steps and closed loops against the control package of the registries."""

from __future__ import annotations

import control
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tickstone.core.control.controller import Controller, Gains
from tickstone.core.control.loop import Rig, simulate
from tickstone.core.control.margins import Loop, growth, margins
from tickstone.core.control.measures import of_run
from tickstone.core.control.plant import Plant


def transfer(plant: Plant, order: int = 10) -> control.TransferFunction:
    s = control.tf([1, 0], [1])
    late = control.tf(*control.pade(plant.delay_s, order)) if plant.delay_s else 1
    return plant.gain / (s**plant.integrators * (plant.lag_s * s + 1)) * late


def pid(gains: Gains, lag_s: float) -> control.TransferFunction:
    s = control.tf([1, 0], [1])
    return gains.kp + gains.ki / s + gains.kd * s / (lag_s * s + 1)


@settings(max_examples=40, deadline=None)
@given(
    st.floats(0.2, 3.0), st.floats(0.05, 2.0), st.floats(0.02, 0.5), st.integers(0, 2),
    st.floats(0.1, 2.0), st.sampled_from([0.0, 0.05, 0.3, 1.0]), st.floats(0.0, 1.0),
)  # fmt: skip
def test_margins(
    gain: float, lag: float, delay: float, many: int, kp: float, ki: float, kd: float
) -> None:
    plant, gains = Plant(gain, lag, delay, many), Gains(kp, ki, kd)
    assume(growth(Loop(plant, gains, 0.05), 0.01) < 1.0)
    found = margins(Loop(plant, gains, 0.05))
    gm, pm, _, _, at, _ = control.stability_margins(transfer(plant) * pid(gains, 0.05))
    if np.isfinite(gm) and gm < 1e3:
        # It tells one: how far up, or how far down, whichever is nearer.
        assert (found.gain if gm >= 1.0 else found.gain_down) == pytest.approx(gm, rel=1e-3)
    if np.isfinite(pm) and np.isfinite(at):
        assert np.degrees(found.phase_rad) == pytest.approx(pm, abs=0.05)
        assert found.delay_s <= found.phase_rad / found.phase_at_rad_s + 1e-9


@pytest.mark.parametrize(
    ("plant", "gains"),
    [
        (Plant(2.0, 1.5, 0.2), Gains(1.875, 1.25, 0.0)),
        (Plant(1.0, 0.3, 0.1, 1), Gains(2.0, 0.5, 0.3)),
        (Plant(7.0, 0.08, 0.05, 2), Gains(0.5, 0.05, 0.45)),
    ],
)
def test_a_closed_loop_in_time(plant: Plant, gains: Gains) -> None:
    """Sampled so fast that it is as good as continuous, the step is that of the package."""
    controller = Controller(
        kp=gains.kp, ki=gains.ki, kd=gains.kd, derivative_lag_s=0.05, low=-1e6, high=1e6,
        derivative_of="error",
    )  # fmt: skip
    rig = Rig(sample_s=0.001, lasts_s=9.0, step_at_s=1.0, load_at_s=100.0)
    run = simulate(plant, controller, rig)
    loop = control.feedback(transfer(plant) * pid(gains, 0.05), 1)
    since_s = run.time_s[1000:] - 1.0
    _, expected = control.step_response(loop, since_s)
    assert np.abs(run.true[1000:] - expected).max() < 0.02
    info = control.step_info(loop, T=since_s)
    told = of_run(run)
    assert 100.0 * told.overshoot == pytest.approx(info["Overshoot"], abs=1.5)
    assert told.rise_s == pytest.approx(info["RiseTime"], abs=0.02)


@settings(max_examples=30, deadline=None)
@given(st.floats(0.05, 2.0), st.integers(0, 6), st.floats(0.1, 8.0), st.floats(0.01, 4.0))
def test_growth_is_the_largest_pole_of_the_sampled_loop(
    lag: float, late: int, kp: float, ki: float
) -> None:
    """A zero-order hold of the plant, a whole number of samples late, and PI, closed in z."""
    ts = 0.05
    z = control.tf([1, 0], [1], ts)
    held = control.c2d(control.tf([2.0], [lag, 1.0]), ts, "zoh") / z**late
    controller = kp + ki * ts * z / (z - 1)
    # Ours holds the output from the reading on: no further sample of delay.
    around = held * controller
    poles = np.roots(np.polyadd(around.num[0][0], around.den[0][0]))
    ours = growth(Loop(Plant(2.0, lag, late * ts), Gains(kp, ki, 0.0)), ts)
    assert ours == pytest.approx(float(np.abs(poles).max()), abs=2e-3)
