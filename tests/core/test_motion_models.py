"""Things that are moved: what they would feel agrees with how they would turn."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tickstone.core.axes import AXES, axis_vector
from tickstone.core.models.inertial import AnalogueAccelerometerModel, SixAxisModel
from tickstone.core.models.motion import Motion, driven, faces_in_turn
from tickstone.core.signal import FloatArray

EVERY_S = 0.01


def gravity_by_turning(motion: Motion, start: FloatArray, every_s: float) -> FloatArray:
    """Where up would be, step by step, by what its gyroscope tells alone; shape (3, n)."""
    up, told = start, [start]
    for rate in motion.rate_dps.T[:-1]:
        up = Rotation.from_rotvec(rate * every_s, degrees=True).inv().apply(up)
        told.append(up)
    return np.array(told).T


@settings(max_examples=10)
@given(st.permutations(AXES), st.integers(0, 99))
def test_held_on_faces_it_turns_as_far_as_gravity_moves(order: list[str], seed: int) -> None:
    rng = np.random.default_rng(seed)
    ups = [axis_vector(face).astype(int).tolist() for face in order]
    motion = faces_in_turn(ups, 0.6, 0.8, EVERY_S, rng)
    told = gravity_by_turning(motion, motion.force_g[:, 0], EVERY_S)
    is_still = np.linalg.norm(motion.rate_dps, axis=0) < 1.0
    np.testing.assert_allclose(told[:, is_still], motion.force_g[:, is_still], atol=2e-3)
    at = 0.3
    for up in ups:
        np.testing.assert_allclose(motion.force_g[:, round(at / EVERY_S)], up, atol=1e-6)
        at += 1.4


def test_driven_over_a_ramp_it_feels_gravity_and_its_own_push() -> None:
    speed = [(2.0, 0.0), (1.0, 1.5), (5.0, 1.5)]
    pitch = [(2.0, 0.0), (2.0, -8.0), (4.0, -8.0)]
    yaw = [(6.0, 0.0), (2.0, 90.0)]
    motion = driven(speed, pitch, yaw, EVERY_S, 0.0, np.random.default_rng(1))
    pushed = motion.force_g.copy()
    told = gravity_by_turning(motion, np.array([0.0, 0.0, 1.0]), EVERY_S)
    off = pushed - told
    # What is left beside gravity is along its own nose, and sums up to its speed.
    np.testing.assert_allclose(off[1:], 0.0, atol=5e-3)
    assert np.trapezoid(off[0] * 9.80665, motion.time_s) == pytest.approx(1.5, abs=0.05)
    assert np.trapezoid(motion.rate_dps[2], motion.time_s) == pytest.approx(90.0, abs=3.0)


def test_it_shakes_the_more_the_faster_it_goes() -> None:
    speed = [(10.0, 0.0), (0.1, 1.0), (10.0, 1.0), (0.1, 3.0), (10.0, 3.0)]
    motion = driven(speed, [], [], EVERY_S, 0.02, np.random.default_rng(2))
    still, slow, fast = (
        motion.force_g[1][a:b].std() for a, b in ((0, 900), (1100, 1900), (2200, 2900))
    )
    assert still == 0.0
    assert slow == pytest.approx(0.02, rel=0.1)
    assert fast == pytest.approx(0.06, rel=0.1)


@pytest.mark.parametrize("reach_g", [2.0, 4.0, 8.0, 16.0])
def test_a_board_clips_at_its_range(reach_g: float) -> None:
    rng = np.random.default_rng(3)
    model = SixAxisModel(per_g=32_768 / reach_g, bias_g=(0.0, 0.0, 0.0), noise_g=0.0)
    over, _ = model.counts((1.5 * reach_g, -1.5 * reach_g, 0.5 * reach_g), (0, 0, 0), rng)
    assert over[:2] == [32_767, -32_768]
    assert abs(over[2]) < 32_767
    _, fast = model.counts((0, 0, 1), (1e6, -1e6, 0), rng)
    assert fast[:2] == [32_767, -32_768]


def test_an_analogue_part_goes_with_its_supply_and_ends_where_it_does() -> None:
    rng = np.random.default_rng(4)
    model = AnalogueAccelerometerModel(noise_g=0.0, offset_v=(0.0, 0.0, 0.0))
    weak = AnalogueAccelerometerModel(3.0, 3.0, noise_g=0.0, offset_v=(0.0, 0.0, 0.0))
    for force in ((0.0, 1.0, -1.0), (3.0, -3.0, 0.5)):
        # Read against its own supply it tells the same, whatever that is.
        assert model.counts(force, rng) == weak.counts(force, rng)
    assert model.counts((0.0, 0.0, 0.0), rng) == [512] * 3
    assert model.counts((9.0, 9.0, 9.0), rng) == model.counts((model.reach_g,) * 3, rng)
