"""Attitude, tilt and filters against packages that know nothing of this one."""

from __future__ import annotations

import math

import ahrs
import numpy as np
import pytest
from ahrs.filters import Complementary as ReferenceComplementary
from ahrs.filters import Madgwick as ReferenceMadgwick
from ahrs.filters import Mahony as ReferenceMahony
from filterpy.kalman import KalmanFilter
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal as scipy_signal
from scipy.spatial.transform import Rotation

from tickstone.core.attitude import ALL_TRUST
from tickstone.core.axes import AXES, mounting, rotation
from tickstone.core.quantity import FORCE, ROTATION
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.axis_kalman import AxisKalman
from tickstone.core.stages.complementary import Complementary
from tickstone.core.stages.exponential import Exponential
from tickstone.core.stages.low_pass import LowPass
from tickstone.core.stages.madgwick import Madgwick
from tickstone.core.stages.mahony import Mahony
from tickstone.core.stages.mount_rotation import MountRotation
from tickstone.core.stages.moving_average import MovingAverage
from tickstone.core.stages.speed_kalman import SpeedKalman
from tickstone.core.stages.tilt import Tilt
from tickstone.core.stages.value_kalman import ValueKalman
from tickstone.core.step import Lane, Reading
from tickstone.core.uncertainty import Component

HZ = 100.0


def swung(seed: int, n: int = 2000) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Time, force and rate of something swung about, noise on both; far from gimbal lock."""
    rng = np.random.default_rng(seed)
    t = np.arange(n) / HZ
    angles = np.stack(
        [0.9 * np.sin(0.7 * t), 0.8 * np.sin(0.5 * t + 1.0), 0.6 * np.sin(0.9 * t + 2.0)], axis=1
    )
    path = Rotation.from_euler("ZYX", angles)
    force = 9.80665 * path.apply([0.0, 0.0, 1.0], inverse=True) + rng.normal(0, 0.2, (n, 3))
    rate = np.zeros((n, 3))
    rate[1:] = (path[:-1].inv() * path[1:]).as_rotvec() * HZ
    return t, force, rate + rng.normal(0, 0.01, (n, 3)) + 1e-9


def ours(stage, t: FloatArray, force: FloatArray, rate: FloatArray) -> FloatArray:
    told, _ = stage.run(stage.begin(), Signal.of(t, force.T, FORCE), Signal.of(t, rate.T, ROTATION))
    return told.values


def begun_with(force: FloatArray) -> FloatArray:
    """The first attitude as a quaternion, w first: roll and pitch of the first force."""
    x, y, z = force[0]
    roll, pitch = math.atan2(y, z), math.atan2(-x, math.hypot(y, z))
    return Rotation.from_euler("ZYX", [0.0, pitch, roll]).as_quat(scalar_first=True)


def angles_of(quaternions: FloatArray) -> FloatArray:
    """Roll, pitch, heading, shape (3, n), of quaternions, w first."""
    return Rotation.from_quat(quaternions, scalar_first=True).as_euler("ZYX").T[::-1]


def apart(one: FloatArray, other: FloatArray) -> float:
    return float(np.abs((one - other + np.pi) % (2 * np.pi) - np.pi).max())


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("beta", [0.033, 0.5])
def test_madgwick_is_that_of_the_ahrs_package(seed: int, beta: float) -> None:
    t, force, rate = swung(seed)
    theirs = ReferenceMadgwick(gyr=rate, acc=force, frequency=HZ, gain=beta, q0=begun_with(force)).Q
    assert apart(ours(Madgwick(beta), t, force, rate), angles_of(theirs)) < 1e-6


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize(("kp", "ki"), [(1.0, 0.3), (4.0, 1.0)])
def test_mahony_is_that_of_the_ahrs_package(seed: int, kp: float, ki: float) -> None:
    t, force, rate = swung(seed)
    theirs = ReferenceMahony(
        gyr=rate, acc=force, frequency=HZ, k_P=kp, k_I=ki, q0=begun_with(force)
    ).Q
    assert apart(ours(Mahony(kp, ki), t, force, rate), angles_of(theirs)) < 1e-6


@pytest.mark.parametrize("axis", [0, 1])
def test_complementary_is_that_of_the_ahrs_package_about_one_axis(axis: int) -> None:
    """Theirs sums the rates of the body as angles, which they are while one axis alone turns."""
    rng = np.random.default_rng(axis)
    t = np.arange(1000) / HZ
    angle = 0.8 * np.sin(0.9 * t)
    path = Rotation.from_rotvec(np.outer(angle, np.eye(3)[axis]))
    force = path.apply([0.0, 0.0, 9.80665], inverse=True)
    force += rng.normal(0, 0.1, (1000, 3))
    force[:, axis] = 0.0  # what it turns about feels nothing of gravity
    rate = np.zeros((1000, 3))
    rate[:, axis] = np.gradient(angle, 1 / HZ) + rng.normal(0, 0.01, 1000)
    share = 0.02
    theirs = ReferenceComplementary(gyr=rate, acc=force, frequency=HZ, gain=1.0 - share).W
    told = ours(Complementary(1.0, ALL_TRUST, share), t, force, rate)
    assert np.abs(told[axis] - theirs[:, axis]).max() < 1e-6


def test_axis_kalman_is_that_of_a_kalman_package() -> None:
    """One axis: angle and bias, the same Q and R, step by step."""
    rng = np.random.default_rng(7)
    n, dt = 400, 1 / HZ
    t = np.arange(n) * dt
    angle = 0.5 * np.sin(t)
    force = 9.80665 * np.stack([0 * t, np.sin(angle), np.cos(angle)], axis=1)
    force[:, 1:] += rng.normal(0, 0.1, (n, 2))
    rate = np.zeros((n, 3))
    rate[:, 0] = np.gradient(angle, dt) + 0.05 + rng.normal(0, 0.01, n)
    stage = AxisKalman(1e-4, 1e-6, 1e-3)
    told = ours(stage, t, force, rate)[0]
    tilt = np.arctan2(force[:, 1], force[:, 2])
    theirs = KalmanFilter(dim_x=2, dim_z=1, dim_u=1)
    theirs.x = np.array([[tilt[0]], [0.0]])
    theirs.P = np.diag([1e-3, 0.0])
    theirs.F = np.array([[1.0, -dt], [0.0, 1.0]])
    theirs.B = np.array([[dt], [0.0]])
    theirs.H = np.array([[1.0, 0.0]])
    theirs.Q = np.diag([1e-4 * dt, 1e-6 * dt])
    theirs.R = np.array([[1e-3]])
    expected = [tilt[0]]
    for k in range(1, n):
        theirs.predict(u=np.array([[rate[k, 0]]]))
        theirs.update(np.array([[tilt[k]]]))
        expected.append(float(theirs.x[0, 0]))
    assert np.abs(told - np.array(expected)).max() < 1e-9


def test_a_kalman_package_walks_the_same_way() -> None:
    rng = np.random.default_rng(3)
    values = np.cumsum(rng.normal(0, 0.1, 300)) + rng.normal(0, 0.4, 300)
    told = ValueKalman(0.01, 0.16).run((), Signal.of(np.arange(300), values))[0].value
    theirs = KalmanFilter(dim_x=1, dim_z=1)
    theirs.x, theirs.P = np.array([[values[0]]]), np.array([[0.16]])
    theirs.F = theirs.H = np.eye(1)
    theirs.Q, theirs.R = np.array([[0.01]]), np.array([[0.16]])
    expected = [values[0]]
    for value in values[1:]:
        theirs.predict()
        theirs.update(np.array([[value]]))
        expected.append(float(theirs.x[0, 0]))
    np.testing.assert_allclose(told, expected, rtol=1e-12)


def test_a_kalman_package_goes_along_the_same_way() -> None:
    rng = np.random.default_rng(4)
    t = np.cumsum(rng.uniform(0.02, 0.08, 300))
    values = np.sin(t) + rng.normal(0, 0.05, 300)
    q, r = 0.5, 0.0025
    told = SpeedKalman(q, r).run((), Signal.of(t, values))[0].value
    theirs = KalmanFilter(dim_x=2, dim_z=1)
    theirs.x = np.array([[values[0]], [0.0]])
    theirs.P = np.diag([r, 1e6 * r])
    theirs.H, theirs.R = np.array([[1.0, 0.0]]), np.array([[r]])
    expected = [values[0]]
    for k in range(1, 300):
        dt = t[k] - t[k - 1]
        theirs.F = np.array([[1.0, dt], [0.0, 1.0]])
        theirs.Q = q * np.array([[dt**3 / 3, dt**2 / 2], [dt**2 / 2, dt]])
        theirs.predict()
        theirs.update(np.array([[values[k]]]))
        expected.append(float(theirs.x[0, 0]))
    np.testing.assert_allclose(told, expected, atol=1e-7)


def test_even_filters_are_those_of_scipy() -> None:
    rng = np.random.default_rng(5)
    t, values = np.arange(500) / 50.0, rng.normal(0, 1, 500)
    series = Signal.of(t, values)
    b, a = [0.3], [1.0, -0.7]
    expected, _ = scipy_signal.lfilter(b, a, values, zi=[0.7 * values[0]])
    np.testing.assert_allclose(Exponential(0.3).run((), series)[0].value, expected, atol=1e-12)
    share = 1.0 - math.exp(-2.0 * math.pi * 3.0 / 50.0)
    for order in (1, 2):
        expected = values
        for _ in range(order):
            expected, _ = scipy_signal.lfilter(
                [share], [1.0, share - 1.0], expected, zi=[(1.0 - share) * expected[0]]
            )
        told = LowPass(3.0, order).run((), series)[0].value
        np.testing.assert_allclose(told, expected, atol=1e-12)
    expected = scipy_signal.lfilter(np.ones(9) / 9.0, [1.0], values)[8:]
    np.testing.assert_allclose(MovingAverage(9).run((), series)[0].value[8:], expected, atol=1e-12)


@given(st.integers(0, 2**32 - 1))
def test_tilt_is_that_of_rotation_matrices(seed: int) -> None:
    """Gravity seen from a random attitude gives that attitude's roll and pitch back."""
    turned = Rotation.random(rng=np.random.default_rng(seed))
    force = 9.80665 * turned.apply([0.0, 0.0, 1.0], inverse=True)
    _, pitch, roll = turned.as_euler("ZYX")
    felt = Signal.of([0.0], force[:, None], FORCE)
    told = Tilt("level").apply(felt)
    assert told.values[1, 0] == pytest.approx(pitch, abs=1e-9)
    if abs(math.cos(pitch)) > 1e-6:
        assert math.remainder(told.values[0, 0] - roll, 2 * math.pi) == pytest.approx(0, abs=1e-7)
    cosine = force[2] / 9.80665
    assert math.cos(Tilt("inclination").apply(felt).value[0]) == pytest.approx(cosine, abs=1e-12)


@pytest.mark.parametrize("which", ["roll", "pitch", "inclination"])
@pytest.mark.parametrize(("roll", "pitch"), [(0.3, -0.2), (-1.1, 0.4), (2.6, 0.9)])
def test_the_doubt_of_a_tilt_is_that_of_a_monte_carlo_run(
    which: str, roll: float, pitch: float
) -> None:
    """JCGM 101: each axis off by its own zero and its own share, 200 000 times."""
    rng = np.random.default_rng(11)
    zero_u, share_u = 0.03 * 9.80665, 0.01
    force = 9.80665 * Rotation.from_euler("ZYX", [0.0, pitch, roll]).apply([0, 0, 1], inverse=True)
    lanes = tuple(
        Lane(
            one,
            components=(
                Component(f"zero {name}", zero_u, "m/s²", zero_u, True, ""),
                Component(f"share {name}", share_u, "", share_u * one, True, ""),
            ),
        )
        for name, one in zip("xyz", force.tolist(), strict=True)
    )
    stage = Tilt(which)  # type: ignore[arg-type]
    told = stage.explain(None, Reading(0.0, FORCE, lanes))
    trials = force[:, None] * (1.0 + rng.normal(0.0, share_u, (3, 200_000)))
    trials += rng.normal(0.0, zero_u, trials.shape)
    drawn = stage.apply(Signal.of(np.arange(200_000.0), trials, FORCE)).value
    assert told.value == pytest.approx(float(drawn.mean()), abs=0.2 * told.u)
    assert told.u == pytest.approx(float(drawn.std()), rel=0.03)


@given(st.integers(0, 2**32 - 1), st.sampled_from(AXES), st.sampled_from(AXES))
def test_turning_the_board_turns_the_result(seed: int, up: str, forward: str) -> None:
    if up[1] == forward[1]:
        with pytest.raises(ValueError, match="cannot point forward"):
            mounting(up, forward)
        return
    matrix = np.array(mounting(up, forward))
    assert np.linalg.det(matrix) == pytest.approx(1.0)
    rig = np.random.default_rng(seed).normal(0, 9.8, 3)
    module = Signal.of([0.0], (matrix.T @ rig)[:, None], FORCE)
    told = MountRotation(mounting(up, forward), 1, "").apply(module).values[:, 0]
    np.testing.assert_allclose(told, rig, atol=1e-9)
    flipped = Signal.of([0.0], -(matrix.T @ rig)[:, None], FORCE)
    told = MountRotation(mounting(up, forward), -1, "").apply(flipped).values[:, 0]
    np.testing.assert_allclose(told, rig, atol=1e-9)


def test_rotations_are_those_of_scipy() -> None:
    for yaw, pitch, roll in np.random.default_rng(1).uniform(-3, 3, (20, 3)).tolist():
        expected = Rotation.from_euler("ZYX", [yaw, pitch, roll]).as_matrix()
        np.testing.assert_allclose(rotation(yaw, pitch, roll), expected, atol=1e-12)


def test_the_reference_frames_are_ours() -> None:
    """The package's own tilt from gravity: the frames agree, and not only the sums."""
    force = np.array([[-1.0, 2.0, 9.0]])
    roll, pitch, _ = Rotation.from_quat(
        ahrs.common.orientation.acc2q(force[0]), scalar_first=True
    ).as_euler("ZYX")[::-1]
    told = Tilt("level").apply(Signal.of([0.0], force.T, FORCE)).values[:, 0]
    np.testing.assert_allclose(told, [roll, pitch], atol=1e-9)
