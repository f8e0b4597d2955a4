"""What a recording of an inertial unit comes to: shaking, knocks, braking, ways to fuse."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.inertial_units import BIAS, HZ, G, chain, ramp

from tickstone.core.attitude import ALL_TRUST
from tickstone.core.chains.six_axis import SixAxisParameters
from tickstone.core.digests.braking import BrakingOnSlopes
from tickstone.core.digests.fusions import Fusions
from tickstone.core.digests.kind import BESIDE, DigestKind
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


DIGESTS = (Fusions(), Shaking(), ShakingBesideWheel(), Knocks(), BrakingOnSlopes())


def driven_results() -> dict[str, Signal]:
    """Everything that the digests of a unit take, of one drive, with noise in it."""
    made = chain(SixAxisParameters(), {"rest-bias": BIAS})
    results = {name: made.apply(ramp(shakes=0.03), name) for name in ("force", "rotation", "size")}
    rng = np.random.default_rng(6)
    results["force"] = results["force"].replaced(
        results["force"].values + rng.normal(0.0, 0.03, results["force"].values.shape)
    )
    time_s = results["size"].time_s
    return {**results, BESIDE: Signal.of(time_s, np.full(len(time_s), 2.0), TURN_RATE)}


@pytest.mark.parametrize("digest", DIGESTS, ids=lambda digest: digest.name)
@pytest.mark.parametrize("stretch", [(0.0, 0.0), (5.0, 5.01), (900.0, 901.0)])
def test_a_stretch_that_holds_too_little_says_so(
    digest: DigestKind, stretch: tuple[float, float]
) -> None:
    told = digest.figures(driven_results(), *stretch, lambda *_: 0.1, SixAxisParameters())
    first = told[0]
    assert math.isnan(first.value)
    assert "too few" in first.how or "nothing was held still" in first.how


@pytest.mark.parametrize("digest", DIGESTS, ids=lambda digest: digest.name)
def test_a_stretch_is_told_as_if_it_were_all_there_is(digest: DigestKind) -> None:
    """But for what carries over: an attitude that began before."""
    whole = driven_results()
    part = {name: one.between(100, 501) for name, one in whole.items()}
    from_s, to_s = (float(whole["force"].time_s[one]) for one in (100, 500))
    parameters = SixAxisParameters()
    ours = digest.figures(whole, from_s, to_s, lambda *_: 0.1, parameters)
    alone = digest.figures(part, from_s, to_s, lambda *_: 0.1, parameters)
    assert [one.name for one in ours] == [one.name for one in alone]
    for one, other in zip(ours, alone, strict=True):
        carries = one.name.endswith(("_off", "_trembles")) or digest.name == "braking"
        assert one.value == pytest.approx(other.value, rel=0.5 if carries else 1e-9, nan_ok=True)


@given(st.floats(1.0, 40.0), st.floats(0.2, 5.0))
def test_a_line_is_told_where_it_is_within_its_doubt(hz: float, strength: float) -> None:
    rng = np.random.default_rng(7)
    t = np.arange(4000) / 200.0
    size = G + strength * np.sin(2 * np.pi * hz * t + 0.3) + rng.normal(0, 0.05, 4000)
    told = Shaking().figures(
        {"size": Signal.of(t, size, FORCE.in_lanes(""))}, 0.0, 60.0, lambda *_: 0.1, None
    )
    first = next(one for one in told if one.name == "line_1")
    assert abs(first.value - hz) < 3.0 * first.u
    level = next(one for one in told if one.name == "level")
    assert level.value == pytest.approx(math.hypot(strength / math.sqrt(2), 0.05), rel=0.05)


@given(st.floats(0.1, 1.5))
def test_a_fall_is_as_high_as_it_lasts(height_m: float) -> None:
    lasts_s = math.sqrt(2.0 * height_m / G)
    t = np.arange(1600) / 400.0
    size = np.where((t > 1.0) & (t <= 1.0 + lasts_s), 0.1, G)
    told = Knocks().figures(
        {"size": Signal.of(t, size, FORCE.in_lanes(""))}, 0.0, 60.0, lambda *_: 0.1, None
    )
    figures_of = {one.name: one for one in told}
    fell = figures_of["fell"]
    assert abs(fell.value - height_m) < 3.0 * fell.u
    assert figures_of["fell_for"].value == pytest.approx(lasts_s, abs=1.0 / 200.0)
