"""The height study: how far above the floor a row sees best."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.inputs import numbers
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import SMALL_LENGTH
from tickstone.core.studies.light_study import LightPlan, LightStudy


@dataclass(frozen=True, slots=True)
class HeightPlan(LightPlan):
    """Which heights."""

    levels: tuple[float, ...] = numbers(
        "Heights", "m", 1e-4, 0.5, "two at least, each once", (0.003, 0.006, 0.009, 0.012, 0.018),
        shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip


class HeightStudy(LightStudy):
    """Too low, and light cannot get in and back; too high, and room light wins: common practice."""

    name: ClassVar[str] = "height"
    label: ClassVar[str] = "Height study"
    what: ClassVar[str] = "Black and white at several heights, lamps on and off."
    plan: ClassVar[type] = HeightPlan
    varies: ClassVar[Quantity] = Quantity("height", "m", shown_as=SMALL_LENGTH, decimals=1)
    noun: ClassVar[str] = "height"
    step: ClassVar[float] = 0.001
