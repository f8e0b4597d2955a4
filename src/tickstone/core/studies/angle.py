"""The angle study: how far the lamps are to lean towards the sensors."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.inputs import numbers, switch
from tickstone.core.quantity import Quantity
from tickstone.core.studies.light_study import LightPlan, LightStudy

_DEGREE = math.radians(1.0)


@dataclass(frozen=True, slots=True)
class AnglePlan(LightPlan):
    """Which angles."""

    levels: tuple[float, ...] = numbers(
        "Angles", "rad", 0.0, 1.5, "two at least, each once; about 30° is common practice",
        tuple(_DEGREE * degrees for degrees in (0, 15, 30, 45)), decimals=0,
    )  # fmt: skip
    has_dark: bool = switch("Lamps off too", False, "tells what the room’s light costs")


class AngleStudy(LightStudy):
    """The pool of light has to lie just under the detector."""

    name: ClassVar[str] = "angle"
    label: ClassVar[str] = "Angle study"
    what: ClassVar[str] = "Black and white with the lamps at several angles."
    plan: ClassVar[type] = AnglePlan
    varies: ClassVar[Quantity] = Quantity("angle", "rad", decimals=0)
    noun: ClassVar[str] = "angle of the lamps"
    step: ClassVar[float] = _DEGREE
