"""Three axes at right angles: the 24 ways to mount a module, and doubts that belong to one axis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from tickstone.core.step import Lane

AXES = ("+x", "-x", "+y", "-y", "+z", "-z")
Matrix = tuple[tuple[float, float, float], ...]


def three(numbers: Sequence[float]) -> tuple[float, float, float]:
    """Three numbers. Raises ValueError for another count."""
    x, y, z = numbers
    return float(x), float(y), float(z)


def axis_vector(axis: str) -> npt.NDArray[np.float64]:
    """The unit vector of an axis by its name.

    >>> axis_vector("-y").tolist()
    [0.0, -1.0, 0.0]
    """
    result = np.zeros(3)
    result["xyz".index(axis[1])] = 1.0 if axis[0] == "+" else -1.0
    return result


def mounting(up: str, forward: str, turned_rad: tuple[float, float, float] = (0, 0, 0)) -> Matrix:
    """What turns readings of a module into those of the rig: x forward, y left, z up.

    up, forward: the axes of the module that point there. turned_rad: by how much more the module is
    turned in the rig, about z, then y, then x.

    Raises ValueError when both are along the same axis.

    >>> mounting("+z", "+x")
    ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    """
    if up[1] == forward[1]:
        raise ValueError(f"forward: {forward} cannot point forward when {up} points up")
    z, x = axis_vector(up), axis_vector(forward)
    rows = np.stack((x, np.cross(z, x), z))
    turn = rotation(*turned_rad) @ rows + 0.0
    return tuple(three(row) for row in turn.tolist())


def rotation(yaw_rad: float, pitch_rad: float, roll_rad: float) -> npt.NDArray[np.float64]:
    """R_z(yaw)·R_y(pitch)·R_x(roll), shape (3, 3).

    >>> rotation(np.pi / 2, 0.0, 0.0).round(9).tolist()
    [[0.0, -1.0, 0.0], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0]]
    """
    cy, sy = np.cos(yaw_rad), np.sin(yaw_rad)
    cp, sp = np.cos(pitch_rad), np.sin(pitch_rad)
    cr, sr = np.cos(roll_rad), np.sin(roll_rad)
    about_z = np.array([[cy, -sy, 0.0], [sy, cy, 0.0], [0.0, 0.0, 1.0]])
    about_y = np.array([[cp, 0.0, sp], [0.0, 1.0, 0.0], [-sp, 0.0, cp]])
    about_x = np.array([[1.0, 0.0, 0.0], [0.0, cr, -sr], [0.0, sr, cr]])
    result: npt.NDArray[np.float64] = about_z @ about_y @ about_x
    return result


def told_apart(lanes: tuple[Lane, ...], names: tuple[str, ...]) -> tuple[Lane, ...]:
    """Lanes in which what each doubts by itself bears the lane's name, so that it never cancels.

    What they share keeps its name: it is one error, in all of them.
    """
    return tuple(
        replace(
            lane,
            components=tuple(
                part
                if part.shared or part.name.endswith(f", {name}")
                else replace(part, name=f"{part.name}, {name}")
                for part in lane.components
            ),
        )
        for lane, name in zip(lanes, names, strict=True)
    )
