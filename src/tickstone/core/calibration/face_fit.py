"""Offset and matrix of three axes from what each read with known faces up: least squares."""

from __future__ import annotations

import math

import numpy as np

from tickstone.core.axes import axis_vector
from tickstone.core.calibration.faces import Face
from tickstone.core.calibration.least_squares import linear
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray

G = STANDARD_GRAVITY_M_PER_S2
SQUARE_RAD = math.radians(0.2)
"""How squarely a face stands on a table; from memory. A side face tells cross-axis no better."""


def sigma_of(one: Face) -> FloatArray:
    """Standard uncertainty of each axis of a face: noise, and across it how squarely it stood."""
    across = np.where(axis_vector(one.face) == 0.0, G * SQUARE_RAD, G * SQUARE_RAD**2)
    result: FloatArray = np.sqrt(one.held.u**2 + across**2)
    return result


def solved(
    read: FloatArray, true: FloatArray, sigma: FloatArray
) -> tuple[int, FloatArray, FloatArray, FloatArray]:
    """How many numbers, offset, S, and the covariance of both, 12 × 12 by rows of S."""
    for count, shape in _shapes(len(read)):
        rows = []
        for a in true:
            for axis in range(3):
                slope = np.zeros(12)
                slope[axis] = 1.0
                slope[3 + 3 * axis : 6 + 3 * axis] = a
                rows.append(slope @ shape)
        found = linear(np.array(rows), read.ravel(), sigma.ravel())
        if found is not None:
            numbers = shape @ found[0]
            covariance = shape @ found[1] @ shape.T
            return count, numbers[:3], numbers[3:].reshape(3, 3), covariance
    raise ValueError("these faces do not tell offset and scale apart; hold one more up and down")


def _shapes(faces: int) -> list[tuple[int, FloatArray]]:
    """Which of the 12 numbers are free, the most first: columns that make 12 from fewer."""
    full = np.eye(12)
    symmetric = np.zeros((12, 9))
    straight = np.zeros((12, 6))
    symmetric[:3, :3] = straight[:3, :3] = np.eye(3)
    for place, (i, j) in enumerate([(0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2)]):
        symmetric[3 + 3 * i + j, 3 + place] = symmetric[3 + 3 * j + i, 3 + place] = 1.0
        if i == j:
            straight[3 + 3 * i + j, 3 + place] = 1.0
    shapes = [(12, full), (9, symmetric), (6, straight)]
    return shapes[{6: 0, 5: 1}.get(faces, 2) :]


def through_inverse(covariance: FloatArray, matrix: FloatArray) -> FloatArray:
    """Covariance of the offset in g and of M, from that of offset and S. dM = −M·dS·M."""
    slope = np.zeros((12, 12))
    slope[:3, :3] = np.eye(3) / G
    slope[3:, 3:] = -np.einsum("ik,lj->ijkl", matrix, matrix).reshape(9, 9)
    result: FloatArray = slope @ covariance @ slope.T
    return result
