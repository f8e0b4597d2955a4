"""Things that are moved: turned from face to face, or driven over ramps. What each would feel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation, Slerp

from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray

Profile = Sequence[tuple[float, float]]
"""Stretches, s, and the value that each of them ends with."""


@dataclass(frozen=True, slots=True)
class Motion:
    """What is felt: time_s, shape (n,); force_g and rate_dps, shape (3, n)."""

    time_s: FloatArray
    force_g: FloatArray
    rate_dps: FloatArray


def faces_in_turn(
    order: Sequence[Sequence[int]],
    held_s: float,
    turning_s: float,
    every_s: float,
    rng: np.random.Generator,
) -> Motion:
    """Held on one face after the other. order: of each the direction that points up.

    >>> motion = faces_in_turn([(0, 0, 1), (1, 0, 0)], 1.0, 1.0, 0.1, np.random.default_rng(1))
    >>> motion.force_g[:, -1].round(2).tolist()
    [1.0, 0.0, 0.0]
    """
    turns = [_standing(up) for up in order]
    at_s, keys = [0.0], [turns[0]]
    for place, turn in enumerate(turns):
        if place:
            at_s.append(at_s[-1] + turning_s)
            keys.append(turn)
        at_s.append(at_s[-1] + held_s)
        keys.append(turn)
    time_s = np.arange(0.0, at_s[-1], every_s)
    path = Slerp(at_s, Rotation.concatenate(keys))(time_s)
    force = path.apply([0.0, 0.0, 1.0], inverse=True).T
    between = (path[:-1].inv() * path[1:]).as_rotvec(degrees=True).T / every_s
    rate = np.concatenate((between, between[:, -1:]), axis=1)
    # A hand on it trembles; let go of it lies still.
    moving = np.linalg.norm(rate, axis=0) > 1.0
    force = force + np.where(moving, rng.normal(0.0, 0.06, force.shape), 0.0)
    return Motion(time_s, force, rate)


def driven(
    speed: Profile,
    nose_down_deg: Profile,
    heading_deg: Profile,
    every_s: float,
    shakes_g: float,
    rng: np.random.Generator,
) -> Motion:
    """Driven along a profile. shakes_g: standard deviation of the shaking for each m/s.

    >>> motion = driven([(1.0, 0.0), (1.0, 1.0)], [], [], 0.01, 0.0, np.random.default_rng(1))
    >>> motion.force_g[:, 150].round(3).tolist()
    [0.102, 0.0, 1.0]
    """
    lasts_s = max(sum(duration for duration, _ in one) for one in (speed, nose_down_deg) if one)
    time_s = np.arange(0.0, lasts_s, every_s)
    v, pitch, yaw = (_along(one, time_s) for one in (speed, nose_down_deg, heading_deg))
    if nose_down_deg and len(nose_down_deg) == 1:
        pitch = np.full(len(time_s), nose_down_deg[0][1])
    attitude = Rotation.from_euler("ZYX", np.stack((yaw, pitch, 0.0 * yaw), axis=1), degrees=True)
    force = attitude.apply([0.0, 0.0, 1.0], inverse=True).T
    force[0] += np.gradient(v, every_s) / STANDARD_GRAVITY_M_PER_S2
    shaking = shakes_g * np.abs(v)
    force += rng.normal(0.0, 1.0, force.shape) * shaking
    between = (attitude[:-1].inv() * attitude[1:]).as_rotvec(degrees=True).T / every_s
    rate = np.concatenate((between, between[:, -1:]), axis=1)
    rate += rng.normal(0.0, 1.0, rate.shape) * 20.0 * shaking
    return Motion(time_s, force, rate)


def _along(profile: Profile, time_s: FloatArray) -> FloatArray:
    """A profile at times, its corners rounded as nothing real turns on the spot."""
    if not profile:
        return np.zeros(len(time_s))
    at_s = np.concatenate(([0.0], np.cumsum([duration for duration, _ in profile])))
    straight = np.interp(time_s, at_s, [0.0, *(v for _, v in profile)])
    over = max(1, round(0.2 / (time_s[1] - time_s[0])))
    padded = np.concatenate((np.full(over, straight[0]), straight, np.full(over, straight[-1])))
    rounded = np.convolve(padded, np.ones(over) / over, mode="same")
    result: FloatArray = rounded[over : over + len(time_s)]
    return result


def _standing(up: Sequence[int]) -> Rotation:
    """A way to stand with that direction up."""
    turned, _ = Rotation.align_vectors([[0.0, 0.0, 1.0]], [list(up)])
    return turned
