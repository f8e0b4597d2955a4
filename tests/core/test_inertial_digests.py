"""What a recording of an inertial unit comes to: shaking, knocks, braking, ways to fuse."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from tests.core.inertial_units import BIAS, HZ, G, chain, ramp

from tickstone.core.attitude import ALL_TRUST
from tickstone.core.chains.six_axis import SixAxisParameters
from tickstone.core.digests.braking import BrakingOnSlopes
from tickstone.core.digests.fusions import Fusions
from tickstone.core.digests.kind import BESIDE
from tickstone.core.digests.knocks import Knocks
from tickstone.core.digests.shaking import Shaking, ShakingBesideWheel
from tickstone.core.quantity import FORCE, TURN_RATE
from tickstone.core.signal import Signal
from tickstone.core.status import Status


def figures(digest, results, to_s: float = 60.0, parameters=None) -> dict[str, float]:
    return {
        one.name: one.value
        for one in digest.figures(results, 0.0, to_s, lambda *_: 0.1, parameters)
    }


def test_shaking_is_held_against_the_wheel_that_makes_it() -> None:
    rng = np.random.default_rng(1)
    t = np.arange(4000) / 200.0
    size = G + 0.4 * np.sin(2 * np.pi * 4 * 3.5 * t) + rng.normal(0, 0.1, 4000)
    felt = Signal.of(t, size, FORCE.in_lanes(""))
    wheel = Signal.of(t, np.full(4000, 3.5), TURN_RATE)
    told = figures(Shaking(), {"size": felt})
    assert told["line_1"] == pytest.approx(14.0, abs=0.1)
    beside = figures(ShakingBesideWheel(), {"size": felt, BESIDE: wheel})
    assert beside["order_1"] == pytest.approx(4.0, abs=0.05)
    quiet = Signal.of(t, G + rng.normal(0, 0.1, 4000), FORCE.in_lanes(""))
    assert "line_1" not in figures(Shaking(), {"size": quiet})


def test_knocks_and_falls() -> None:
    t = np.arange(1000) / 200.0
    size = np.full(1000, G) + np.random.default_rng(1).normal(0, 0.05, 1000)
    size[300], size[700:760] = 4.0 * G, 0.3
    told = figures(Knocks(), {"size": Signal.of(t, size, FORCE.in_lanes(""))})
    assert told["peak"] == pytest.approx(4.0 * G)
    assert told["fell_for"] == pytest.approx(0.3, abs=0.006)
    assert told["fell"] == pytest.approx(G * 0.09 / 2, rel=0.05)


def test_a_peak_at_the_end_of_the_range_is_the_least_it_was_and_no_fall_lasts_for_seconds() -> None:
    t = np.arange(1000) / 200.0
    size, status = np.full(1000, G), np.zeros((1, 1000), dtype=np.uint8)
    size[300], status[0, 300] = 2.0 * G, Status.CLIPPED
    size[400:] = 0.0
    lane = FORCE.in_lanes("")
    told = Knocks().figures(
        {"size": Signal(t, size[None], status, lane)}, 0.0, 5.0, lambda *_: 0.1, None
    )
    peak, _, fell_for, fell = told
    assert "at least" in peak.how
    assert math.isnan(fell_for.value)
    assert math.isnan(fell.value)
    assert "asleep" in fell_for.how


def test_braking_on_a_slope_is_told_without_the_slope() -> None:
    signals = ramp()
    made = chain(SixAxisParameters(), {"rest-bias": BIAS})
    results = {name: made.apply(signals, name) for name in ("force", "rotation")}
    told = figures(BrakingOnSlopes(), results)
    assert told["braking"] == pytest.approx(2.0, abs=0.45)
    assert told["took"] == pytest.approx(1.0, abs=0.35)


def test_ways_to_fuse_are_compared_where_truth_is_known() -> None:
    signals = ramp(shakes=0.02)
    made = chain(SixAxisParameters(), {"rest-bias": BIAS})
    results = {name: made.apply(signals, name) for name in ("force", "rotation")}
    told = figures(Fusions(), results, parameters=SixAxisParameters(beta=0.05))
    for name in ("complementary", "kalman", "madgwick", "mahony"):
        assert math.degrees(told[f"{name}_off"]) < 2.0
    # They are run as they stand in the rig: with the same gate on what is not gravity.
    strict = figures(Fusions(), results, parameters=SixAxisParameters(beta=0.05, gate=0.02))
    assert strict["complementary_off"] < 0.8 * told["complementary_off"]
    shaken = {name: one.between(160, 380) for name, one in results.items()}
    rng = np.random.default_rng(1)
    shaken["force"] = shaken["force"].replaced(
        shaken["force"].values + rng.normal(0, 3.0, shaken["force"].values.shape)
    )
    (only,) = Fusions().figures(shaken, 0.0, 60.0, lambda *_: 0.1, SixAxisParameters())
    assert "nothing was held still" in only.how


def test_the_gains_that_noise_suggests_can_be_set_and_a_silent_unit_suggests_none() -> None:
    signals = ramp(shakes=0.02)
    made = chain(SixAxisParameters(), {"rest-bias": BIAS})
    silent = {name: made.apply(signals, name) for name in ("force", "rotation")}
    rng = np.random.default_rng(1)
    results = {
        name: one.replaced(one.values + rng.normal(0.0, noise, one.values.shape))
        for (name, one), noise in zip(silent.items(), (0.05, 0.004), strict=True)
    }

    def suggested(of: dict[str, Signal]) -> dict[str, SixAxisParameters]:
        told = Fusions().figures(of, 0.0, 60.0, lambda *_: 0.1, SixAxisParameters())
        return {one.name: replace(SixAxisParameters(), **one.sets) for one in told if one.sets}

    tuned = suggested(results)
    assert set(tuned) == {"tau", "tilt", "kp", "beta"}
    for parameters in tuned.values():
        told = figures(Fusions(), results, parameters=parameters)
        assert math.degrees(told[f"{parameters.fusion}_off"]) < 2.0
    # They weigh the two sensors alike, and so lag as long; kp is one over that.
    lags = {name: one.fusion_stage(ALL_TRUST).lag_s(1.0 / HZ) for name, one in tuned.items()}
    assert lags["tilt"] == pytest.approx(lags["tau"], rel=0.05)
    assert lags["kp"] == pytest.approx(lags["tau"], rel=0.05)
    # What is off for good asks for gravity sooner.
    biased = results["rotation"].replaced(results["rotation"].values + 0.01)
    assert suggested({**results, "rotation": biased})["tau"].over_s < 0.5 * tuned["tau"].over_s
    # While it turned on the spot its tilt was still: that is no noise of the gyroscope.
    assert tuned["tau"].over_s == pytest.approx(0.05 / G / 0.004, rel=0.2)
    assert tuned["beta"].beta == pytest.approx(math.sqrt(0.75) * 0.004, rel=0.2)
    assert suggested(silent) == {}
