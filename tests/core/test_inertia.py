"""From codes to g, tilt, turning and attitude: chains, statuses, rules and digests."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.inertial_units import HZ, G

from tickstone.core.air.conditions import AirConditions
from tickstone.core.attitude import ALL_TRUST
from tickstone.core.chain import Stage
from tickstone.core.chains.analogue3 import Analogue3, Analogue3Parameters
from tickstone.core.chains.battery import Battery, BatteryParameters
from tickstone.core.chains.six_axis import SixAxis, SixAxisParameters
from tickstone.core.chains.thermometer import Thermometer, ThermometerParameters
from tickstone.core.digests.braking import BrakingOnSlopes
from tickstone.core.digests.fusions import Fusions
from tickstone.core.digests.kind import BESIDE
from tickstone.core.digests.knocks import Knocks
from tickstone.core.digests.shaking import Shaking, ShakingBesideWheel
from tickstone.core.models.motion import driven
from tickstone.core.quantity import COUNTS, FORCE, ROTATION, TEMPERATURE, TURN_RATE
from tickstone.core.rules.bump import Bump, BumpEvidence, BumpParameters
from tickstone.core.rules.kind import Known
from tickstone.core.rules.lean_limit import LeanLimit, LeanLimitEvidence, LeanLimitParameters
from tickstone.core.rules.level_band import LevelBand, LevelBandEvidence
from tickstone.core.rules.turned_by import TurnedBy, TurnedByEvidence
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.lane_shift import LaneShift
from tickstone.core.stages.rest_watch import RestWatch
from tickstone.core.stages.tilt import Tilt
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

ROOM = Surroundings(AirConditions(20.0))
CODES = COUNTS.in_lanes("x", "y", "z")
DEGREE = math.pi / 180.0


def codes(force_g: FloatArray, rate_dps: FloatArray, lsb_g=16_384.0, lsb_dps=131.0):
    """A module's codes at HZ."""
    n = force_g.shape[1]
    t = np.arange(n) / HZ
    clip = lambda v: np.clip(np.round(v), -32_768, 32_767)  # noqa: E731
    return {
        "accel": Signal.of(t, clip(force_g * lsb_g), CODES),
        "gyro": Signal.of(t, clip(rate_dps * lsb_dps), CODES),
    }


def chain(parameters: SixAxisParameters, calibrations: dict[str, Stage] | None = None):
    return SixAxis().build(parameters, ROOM, calibrations)


def still(roll: float, pitch: float, n: int = 100) -> tuple[FloatArray, FloatArray]:
    up = np.array(
        [-math.sin(pitch), math.cos(pitch) * math.sin(roll), math.cos(pitch) * math.cos(roll)]
    )
    return np.tile(up[:, None], n), np.zeros((3, n))


@given(st.floats(-1.5, 1.5), st.floats(-1.4, 1.4), st.sampled_from([2, 4, 8, 16]))
def test_any_range_tells_the_same_tilt(roll: float, pitch: float, reach: int) -> None:
    lsb = 32_768.0 / reach
    told = chain(SixAxisParameters(lsb_per_g=lsb)).apply(
        codes(*still(roll, pitch, 4), lsb_g=lsb), "level"
    )
    assert told.values[0, -1] == pytest.approx(roll, abs=40.0 / lsb / math.cos(pitch) ** 2)
    assert told.values[1, -1] == pytest.approx(pitch, abs=3.0 / lsb)


def test_the_end_of_the_range_is_said_with_what_to_do() -> None:
    force = np.tile([[0.0], [0.0], [2.5]], 10)
    signals = codes(force, np.zeros((3, 10)))
    made = chain(SixAxisParameters())
    told = made.apply(signals, "size")
    assert (told.flag == Status.CLIPPED).all()
    assert "Raise the range" in made.explain(signals, 0, "counts")[-1].note or "Raise" in (
        made.explain(signals, 0, "counts")[0].note
    )
    (finding,) = SixAxis().findings(SixAxisParameters(), ROOM, told)
    assert "end of the range" in finding.title


def test_both_signs_are_carried_and_the_one_in_use_is_in_sight() -> None:
    force, rate = still(0.3, -0.2)
    plain = chain(SixAxisParameters())
    flipped = chain(SixAxisParameters(up_reads="-1 g"))
    one, other = codes(force, rate), codes(-force, rate)
    np.testing.assert_allclose(
        plain.apply(one, "level").values, flipped.apply(other, "level").values, atol=1e-4
    )
    for made, sign in ((plain, "+1 g"), (flipped, "−1 g")):
        steps = made.explain(one, 0, "mount")
        assert steps[-1].below == f"up reads {sign}"


def test_what_comes_scaled_enters_late_in_its_own_unit() -> None:
    t = np.arange(5) / HZ
    felt = Signal.of(t, np.tile([[0.0], [0.5 * G], [0.866 * G]], 5), FORCE)
    turning = Signal.of(t, np.zeros((3, 5)), ROTATION)
    made = SixAxis().build(
        SixAxisParameters(), ROOM, forms={"accel": "scaled", "gyro": "scaled"},
        lanes={"accel": 3, "gyro": 3},
    )  # fmt: skip
    told = made.apply({"accel": felt, "gyro": turning}, "roll")
    assert told.value[-1] == pytest.approx(math.pi / 6, abs=1e-3)
    # Whose calibration it was, if any, nobody said.
    assert made.explain({"accel": felt, "gyro": turning}, -1, "roll")[-1].u > math.radians(1.0)
    assert SixAxis().roles[0].form("scaled").scale_of("mg") == pytest.approx(G / 1000.0)


def test_without_a_gyroscope_there_is_tilt_and_no_turning() -> None:
    made = SixAxis().build(SixAxisParameters(), ROOM, lanes={"accel": 3})
    assert {"level", "size"} <= set(dict(made.outputs))
    assert "turned" not in dict(made.outputs)
    with_rule = SixAxis().with_rules(
        made, {"lean-limit": LeanLimit().stage(LeanLimitParameters(), None)}
    )
    assert "stand" in dict(with_rule.outputs)
    assert "turning" not in dict(SixAxis().with_rules(made, {"turned-by": Tilt("roll")}).outputs)


def test_moving_is_said_and_a_zero_vector_has_no_angle() -> None:
    felt = Signal.of([0, 1, 2], [[0, 3.0, 0], [0, 0, 0], [G, G, 0]], FORCE)
    told = Tilt("level").apply(RestWatch(0.3).apply(felt))
    assert told.status[1].tolist() == [0, Status.MOVING, Status.MOVING]
    assert np.isnan(told.values[:, 2]).all()
    assert Tilt("roll").apply(felt).flag[2] == Status.NO_ANGLE
    straight_up = Signal.of([0], [[G], [0.01], [0.02]], FORCE)
    assert Tilt("level").apply(straight_up).status[:, 0].tolist() == [Status.NO_ANGLE, 0]


@given(st.floats(0.0, 0.5), st.floats(0.001, 0.3))
def test_doubt_never_shrinks_when_more_is_doubted(zero: float, more: float) -> None:
    signals = codes(*still(0.4, 0.2, 3))
    us = []
    for value in (zero, zero + more):
        steps = chain(SixAxisParameters(force_zero=value)).explain(signals, 1, "tilt")
        us.append([lane.u for lane in steps[-1].lanes])
    assert us[0][0] <= us[1][0] + 1e-12
    assert us[0][1] <= us[1][1] + 1e-12


def ramp(seed: int = 1, shakes: float = 0.0) -> dict[str, Signal]:
    """Up a slope of 10°, a quarter turn to the left, and braking; with a gyroscope off by 1 °/s."""
    rng = np.random.default_rng(seed)
    motion = driven(
        [(3.0, 0.0), (1.0, 1.0), (4.0, 1.0), (0.5, 0.0), (8.0, 0.0)],
        [(3.0, 0.0), (1.0, -10.0), (12.5, -10.0)],
        [(9.0, 0.0), (2.0, 90.0), (5.5, 90.0)],
        1.0 / HZ, shakes, rng,
    )  # fmt: skip
    return codes(motion.force_g, motion.rate_dps + 1.0)


BIAS = LaneShift((DEGREE,) * 3, (1e-5,) * 3, "rest")


@pytest.mark.parametrize("fusion", ["complementary", "kalman", "madgwick", "mahony"])
def test_every_fusion_holds_the_slope_while_it_is_shaken(fusion: str) -> None:
    made = chain(SixAxisParameters(fusion=fusion, beta=0.05), {"rest-bias": BIAS})
    told = made.apply(ramp(shakes=0.05), "attitude")
    assert math.degrees(told.values[1, 300:380].mean()) == pytest.approx(-10.0, abs=1.5)
    assert told.values[1, 300:380].std() < 0.02


def test_heading_and_turned_count_the_turn_and_state_their_drift() -> None:
    signals = ramp()
    made = chain(SixAxisParameters(turn_about="plumb"), {"rest-bias": BIAS})
    turned = made.apply(signals, "turned")
    assert math.degrees(turned.value[-1] - turned.value[0]) == pytest.approx(90.0, abs=1.0)
    heading = made.apply(signals, "attitude").values[2]
    assert math.degrees(heading[-1]) == pytest.approx(90.0, abs=3.0)
    last = made.explain(signals, len(turned) - 1, "turned")[-1]
    assert "a minute" in last.below
    first = made.explain(signals, 20, "turned")[-1]
    assert last.u > first.u


def test_a_silence_is_flagged_and_doubted_ever_after() -> None:
    signals = ramp()
    keep = np.r_[0:440, 500:775]
    cut = {
        name: Signal.of(one.time_s[keep], one.values[:, keep], one.quantity)
        for name, one in signals.items()
    }
    made = chain(SixAxisParameters(), {"rest-bias": BIAS})
    told = made.apply(cut, "turned")
    assert told.flag[440] == Status.LINE_GAP
    assert told.flag[441] == Status.OK
    parts = {one.name for one in made.explain(cut, 600, "turned")[-1].components}
    assert "silence on the line" in parts


def test_an_analogue_part_on_a_coarse_reference_says_so_and_shared_supply_cancels() -> None:
    parameters = Analogue3Parameters()
    (finding,) = Analogue3().findings(parameters, ROOM, None)
    assert "68 codes" in finding.title
    lone = Analogue3Parameters(zero_percent=0.0, scale_percent=0.0, reference_v=3.3)
    own = Analogue3Parameters(
        zero_percent=0.0, scale_percent=0.0, reference_v=3.3, reads_own_supply=True
    )
    flat = {"accel": Signal.of([0.0], [[512.0], [512.0], [614.0]], CODES)}
    us = [
        Analogue3().build(one, ROOM).explain(flat, 0, "force")[-1].lanes[2].u for one in (lone, own)
    ]
    assert us[1] < us[0]


def test_a_thermometer_flags_its_failures_and_means_thirty() -> None:
    rng = np.random.default_rng(1)
    values = np.round((21.0 + rng.normal(0, 0.2, 60)) / 0.0625) * 0.0625
    values[[5, 20]] = 85.0, -127.0
    signal = Signal.of(np.arange(60.0), values, TEMPERATURE)
    made = Thermometer().build(ThermometerParameters(heat_k=0.5), ROOM)
    told = made.apply(signal)
    assert told.flag[[5, 20]].tolist() == [Status.SENSOR_SAYS_NO] * 2
    assert told.value[-1] == pytest.approx(20.5, abs=0.15)
    titles = [one.title for one in Thermometer().findings(ThermometerParameters(), ROOM, told)]
    assert any("when it failed" in title for title in titles)
    assert any("air’s temperature" in title for title in titles)


def test_a_battery_tells_its_cells_and_what_its_divider_cannot_reach() -> None:
    parameters = BatteryParameters(cells=2, mean_n=1)
    code = Battery().raw_for(7.4, parameters, ROOM)
    assert code is not None
    made = Battery().build(parameters, ROOM)
    assert made.apply(code, "cell").value[0] == pytest.approx(3.7, abs=0.01)
    assert made.explain(code, 0, "cell")[-1].u > 0.0
    short = BatteryParameters(cells=6)
    assert "up to" in Battery().findings(short, ROOM, None)[0].title


KNOWN = Known(0.02, 0.0, 0.02, "", lambda _: 0.01, scatter=lambda: 0.05 * G)


def test_the_lean_limit_is_below_where_it_tips() -> None:
    told = LeanLimit().suggest(LeanLimitEvidence(track_m=0.2, height_m=0.1), KNOWN)
    limit = float(told.parameters["limit_rad"])  # type: ignore[arg-type]
    assert 0.0 < limit < math.pi / 4
    late = LeanLimit().suggest(
        LeanLimitEvidence(track_m=0.2, height_m=0.1), KNOWN, LeanLimitParameters(0.9, 0.1)
    )
    assert late.tried_fails
    assert LeanLimit().failing(LeanLimitParameters(0.9, 0.1), told.needed) is not None


def test_leaning_has_to_stand_before_it_counts() -> None:
    stage = LeanLimit().stage(LeanLimitParameters(0.2, 0.1, dwell_s=0.2, blind_s=1.0), None)
    lean = np.zeros(100)
    lean[10:13], lean[40:70] = 0.5, 0.5
    told = stage.run(stage.begin(), Signal.of(np.arange(100) / HZ, lean))[0].value
    assert told[10:20].max() == 0.0
    assert told[60] == 1.0


def test_level_and_turning_take_doubt_and_delay_off() -> None:
    told = LevelBand().suggest(LevelBandEvidence(wanted_rad=0.05), KNOWN)
    assert float(told.parameters["within_rad"]) == pytest.approx(0.03)  # type: ignore[arg-type]
    hopeless = LevelBand().suggest(LevelBandEvidence(wanted_rad=0.01), KNOWN)
    assert hopeless.tried_fails
    turn = TurnedBy().suggest(TurnedByEvidence(math.pi / 2, 1.0, 0.1), KNOWN)
    assert float(turn.parameters["stop_rad"]) == pytest.approx(math.pi / 2 - 0.14)  # type: ignore[arg-type]
    stage = TurnedBy().stage(TurnedBy().parameters(1.0, 0.8), None)
    right = Signal.of(np.arange(5.0), [0.0, -0.5, -1.1, -0.9, -0.7])
    assert stage.run(stage.begin(), right)[0].value.tolist() == [0.0, 0.0, 1.0, 1.0, 0.0]


def test_a_bump_is_beyond_what_a_normal_run_does_by_chance() -> None:
    told = Bump().suggest(BumpEvidence(), KNOWN)
    above = float(told.parameters["above"])  # type: ignore[arg-type]
    assert 4.0 < above / (0.05 * G) < 6.0
    stage = Bump().stage(BumpParameters(above=above), None)
    rng = np.random.default_rng(1)
    size = G + rng.normal(0, 0.05 * G, 5000)
    size[2500] += 2.0 * G
    bumps = stage.run(stage.begin(), Signal.of(np.arange(5000) / HZ, size))[0].value
    begins = np.flatnonzero(np.diff(bumps) == 1.0) + 1
    assert begins.tolist() == [2500]
    silent = Known(0.02, 0.0, 0.02, "", lambda _: 0.01)
    with pytest.raises(ValueError, match="record one, or type it"):
        Bump().suggest(BumpEvidence(), silent)


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


def at_rest(*sizes: float, lasts: int = 150) -> Signal:
    rng = np.random.default_rng(8)
    z = np.repeat(np.array(sizes) * G, lasts)
    values = np.stack([0 * z, 0 * z, z]) + rng.normal(0.0, 0.02, (3, len(z)))
    return Signal.of(np.arange(len(z)) / HZ, values, FORCE)


@pytest.mark.parametrize(
    ("sizes", "says"),
    [
        ((1.0,), ()),
        ((0.0,), ("feels nothing, not even gravity", "asleep")),
        ((0.5,), ("0.50 g, not 1 g", "8192 codes for 1 g would fit")),
        ((1.08,), ("1.08 g, not 1 g", "six faces")),
        ((1.0, 0.5), ("1.00 g at another", "changed half-way")),
    ],
)
def test_held_still_it_is_said_where_it_is_not_1_g(
    sizes: tuple[float, ...], says: tuple[str, ...]
) -> None:
    found = SixAxis().findings(SixAxisParameters(), ROOM, at_rest(*sizes))
    told = " ".join(f"{one.title} {one.why} {one.remedy}" for one in found)
    assert bool(found) == bool(says)
    for words in says:
        assert words in told


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
