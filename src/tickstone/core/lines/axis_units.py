"""Units of columns of axes that say none: gravity tells, and codes are whole numbers."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass

_SIZES = (("g", 0.8, 1.25), ("m/s²", 8.0, 12.0))
"""What gravity is on a bench, and on a cart that drives about: of either, the middle size."""


@dataclass(frozen=True, slots=True)
class Axis:
    """A column: what it most likely is, the unit it says, and its first values."""

    quantity: str
    unit: str
    values: Sequence[float]


def guess_axis_units(columns: Sequence[Axis]) -> list[str]:
    """The unit of each, as it says or as it most likely is; empty for codes and where none tells.

    Turn rates go with accelerations: with g comes °/s, with m/s² rad/s; common practice.

    >>> still = [Axis("acceleration", "", [v, v]) for v in (0.02, -0.01, 0.998)]
    >>> guess_axis_units([*still, Axis("rotation rate", "", [0.3, -0.2])])
    ['g', 'g', 'g', '°/s']
    >>> guess_axis_units([Axis("acceleration", "", [v]) for v in (120.0, -40.0, 16384.0)])
    ['', '', '']
    """
    force = [one for one in columns if one.quantity == "acceleration"]
    unit = _force_unit(force)
    rate = {"g": "°/s", "m/s²": "rad/s"}.get(unit or _said(force), "")
    return [
        one.unit
        or (unit if one.quantity == "acceleration" else "")
        or (rate if one.quantity == "rotation rate" and not _is_whole(one.values) else "")
        for one in columns
    ]


def _force_unit(force: Sequence[Axis]) -> str:
    if len(force) != 3 or any(one.unit for one in force):
        return ""
    if all(_is_whole(one.values) for one in force):
        return ""
    sizes = [math.hypot(*axes) for axes in zip(*(one.values for one in force), strict=False)]
    middle = statistics.median(sizes) if sizes else 0.0
    return next((unit for unit, low, high in _SIZES if low <= middle <= high), "")


def _said(force: Sequence[Axis]) -> str:
    units = {one.unit for one in force}
    return units.pop() if len(units) == 1 else ""


def _is_whole(values: Sequence[float]) -> bool:
    return all(value == int(value) for value in values if math.isfinite(value))
