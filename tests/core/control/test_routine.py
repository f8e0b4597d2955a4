"""A controller said for a board gives what the bench gives, reading by reading."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Rig, Run, simulate
from tickstone.core.control.plant import Plant
from tickstone.core.control.routine import controller_routine
from tickstone.core.emit.running import Runner
from tickstone.core.status import Status
from tickstone.proof.stepped import Row

PLANT = Plant(1.5, 0.3, 0.06, 1, low=-50.0, high=50.0)
RIG = Rig(
    sample_s=0.0625, lasts_s=8.0, noise_u=0.3, zeros=15.0, target=2.0, load=0.5, load_at_s=4.0,
    grain=2.0**-6,
)  # fmt: skip
"""Readings that step by a power of two are the same to the last digit on both sides."""

controllers = st.builds(
    Controller,
    kp=st.floats(-20.0, 20.0),
    ki=st.sampled_from([0.0, 0.4, 12.0]),
    kd=st.sampled_from([0.0, 0.3]),
    low=st.floats(-5.0, -0.5),
    high=st.floats(0.5, 5.0),
    act_low=st.none() | st.just(70.0),
    act_high=st.none() | st.just(110.0),
    windup=st.sampled_from(["stop", "back", "none"]),
    slew_per_s=st.sampled_from([0.0, 3.0]),
    derivative_of=st.sampled_from(["measured", "error"]),
    derivative_lag_s=st.sampled_from([0.0, 0.05]),
    dead_band=st.sampled_from([0.0, 0.5]),
    invalid=st.sampled_from(["hold", "count"]),
    hold_s=st.sampled_from([0.0, 0.125, 0.5]),
    rest=st.sampled_from([0.0, 0.25]),
    whole_numbers=st.booleans(),
)


def readings(run: Run, seed: int) -> list[Row]:
    """What the controller was given in a run: which readings were none is drawn there too."""
    rng = np.random.default_rng(seed)
    rng.normal(0.0, RIG.noise_u, len(run.measured))
    is_none = rng.random(len(run.measured)) < RIG.zeros / 100.0
    return [
        Row(
            round(float(run.time_s[k]) * 1e6),
            {
                "measured_in": float(run.measured[k]),
                "measured_in_status": int(Status.MISSING if is_none[k] else Status.OK),
                "wanted_in": float(run.wanted[k]),
            },
        )
        for k in range(len(run.measured))
    ]


@settings(max_examples=60, deadline=None)
@given(controllers, st.integers(0, 1000))
def test_a_board_sets_what_the_bench_sets(controller: Controller, seed: int) -> None:
    run = simulate(PLANT, controller, RIG, seed)
    offset, slope = controller.span
    due = offset + slope * run.output
    if controller.whole_numbers:
        due = np.trunc(due)
    runner = Runner(controller_routine(controller, "loop", RIG.sample_s))
    told: list[Any] = [runner.step(r.now_us, r.given)["output"][0][0] for r in readings(run, seed)]
    np.testing.assert_allclose(told, due, rtol=1e-12, atol=1e-12)


def test_every_setting_matters() -> None:
    """None of them is left out of what is said: each, changed, gives another course."""
    usual = Controller(
        kp=0.8, ki=2.0, kd=0.3, low=-4.0, high=4.0, slew_per_s=60.0, dead_band=0.2, rest=0.1,
        hold_s=0.0,
    )  # fmt: skip
    run = simulate(PLANT, usual, RIG)

    def course(one: Controller) -> list[float]:
        runner = Runner(controller_routine(one, "loop", RIG.sample_s))
        return [runner.step(r.now_us, r.given)["output"][0][0] for r in readings(run, 1)]

    for change in (
        {"kp": 0.9}, {"ki": 3.0}, {"kd": 0.0}, {"low": -1.0}, {"high": 1.0}, {"slew_per_s": 3.0},
        {"dead_band": 0.0}, {"rest": 0.0}, {"hold_s": 0.5}, {"windup": "back"},
        {"windup": "none"}, {"derivative_of": "error"}, {"derivative_lag_s": 0.0},
        {"invalid": "count"}, {"whole_numbers": True}, {"act_low": 0.0},
    ):  # fmt: skip
        assert course(replace(usual, **change)) != course(usual), change
