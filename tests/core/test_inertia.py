"""From codes and volts to g, tilt, turning and attitude; thermometer and battery."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.inertial_units import BIAS, CODES, HZ, ROOM, G, chain, codes, ramp

from tickstone.core.axes import AXES, rotation
from tickstone.core.chains.analogue3 import Analogue3, Analogue3Parameters
from tickstone.core.chains.battery import Battery, BatteryParameters
from tickstone.core.chains.six_axis import SixAxis, SixAxisParameters
from tickstone.core.chains.thermometer import Thermometer, ThermometerParameters
from tickstone.core.quantity import COUNTS, FORCE, ROTATION, TEMPERATURE
from tickstone.core.rules.lean_limit import LeanLimit, LeanLimitParameters
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.rest_watch import RestWatch
from tickstone.core.stages.tilt import Tilt
from tickstone.core.status import Status


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


MOUNTINGS = [(up, forward) for up in AXES for forward in AXES if up[1] != forward[1]]


@pytest.mark.parametrize("up_reads", ["+1 g", "-1 g"])
@pytest.mark.parametrize(("up", "forward"), MOUNTINGS, ids=lambda axis: axis)
def test_however_a_module_sits_it_tells_the_lean_of_the_rig(
    up: str, forward: str, up_reads: str
) -> None:
    """All 24 ways, both signs, both kinds: codes of a lean are told as that lean again."""
    seat = {"up_axis": up, "forward_axis": forward, "up_reads": up_reads}
    for kind, parameters in (
        (SixAxis(), SixAxisParameters(**seat)),
        (Analogue3(), Analogue3Parameters(bits=16, reference_v=3.3, **seat)),
    ):
        made = kind.build(parameters, ROOM)
        for lean in (-0.7, 0.0, 0.3, 1.2):
            raw = kind.raw_for(lean, parameters, ROOM)
            assert raw is not None
            told = made.apply(raw, "level")
            assert told.values[0, 0] == pytest.approx(lean, abs=2e-3)
            assert told.values[1, 0] == pytest.approx(0.0, abs=2e-3)
            assert told.flag[0] == Status.OK
            assert made.apply(raw, "inclination").value[0] == pytest.approx(abs(lean), abs=2e-3)


def test_two_axes_that_point_the_same_way_are_no_mounting() -> None:
    with pytest.raises(ValueError, match="forward_axis"):
        SixAxisParameters(up_axis="+z", forward_axis="-z")
    with pytest.raises(ValueError, match="smooth: there is no filter"):
        SixAxisParameters(smooth="magic")
    assert len(MOUNTINGS) == 24


@given(st.floats(-1.5, 1.5), st.floats(-1.0, 1.0), st.floats(-3.0, 3.0))
def test_a_mount_turned_further_by_an_angle_is_turned_back(
    yaw: float, nose_down: float, left_up: float
) -> None:
    """A module that leans in the rig: what it feels, turned by how it sits, is up again."""
    parameters = SixAxisParameters(yaw_rad=yaw, nose_down_rad=nose_down, left_up_rad=left_up)
    module = rotation(yaw, nose_down, left_up).T @ [0.0, 0.0, G]
    told = parameters.mount().apply(Signal.of([0.0], module[:, None], FORCE)).values[:, 0]
    np.testing.assert_allclose(told, [0.0, 0.0, G], atol=1e-9)


@pytest.mark.parametrize("cells", [1, 2, 6])
def test_a_battery_is_what_its_divider_says_within_its_doubt(cells: int) -> None:
    rng = np.random.default_rng(cells)
    stated = BatteryParameters(cells=cells, mean_n=1, top_ohm=50e3, bottom_ohm=10e3)
    made, within = Battery().build(stated, ROOM), []
    for _ in range(300):
        true_v = cells * rng.uniform(3.0, 4.2)
        top, bottom = 50e3 * rng.uniform(0.99, 1.01), 10e3 * rng.uniform(0.99, 1.01)
        reference = 5.0 * rng.uniform(0.98, 1.02)
        code = math.floor(true_v * bottom / (top + bottom) / reference * 1024)
        raw = {"volts": Signal.of([0.0], [float(code)], COUNTS)}
        step = made.explain(raw, 0, dict(made.outputs)["battery"])[-1]
        if step.status == Status.OK:
            within.append(abs(step.value - true_v) / step.u)
    # Of what is even within its tolerance, nearly all lies within twice its standard deviation.
    assert len(within) == 300
    assert np.mean(np.array(within) <= 2.0) > 0.95
    assert np.mean(np.array(within) <= 1.0) < 0.9
