"""The load study: which resistor parts black from white without saturating."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.inputs import numbers, switch
from tickstone.core.quantity import Quantity
from tickstone.core.studies.light_study import LightPlan, LightStudy


@dataclass(frozen=True, slots=True)
class LoadPlan(LightPlan):
    """Which resistors."""

    levels: tuple[float, ...] = numbers(
        "Load resistors", "Ω", 1.0, 1e7, "two at least, each once",
        (2_200.0, 4_700.0, 10_000.0, 20_000.0), decimals=0,
    )  # fmt: skip
    has_dark: bool = switch("Lamps off too", False, "tells what the room’s light costs")
    is_repeated: bool = switch("First again at the end", False, "tells whether anything drifted")


class LoadStudy(LightStudy):
    """Common practice: too large saturates on white, too small and black and white merge."""

    name: ClassVar[str] = "load"
    label: ClassVar[str] = "Load resistor study"
    what: ClassVar[str] = "Black and white with several load resistors."
    plan: ClassVar[type] = LoadPlan
    varies: ClassVar[Quantity] = Quantity("load", "Ω", decimals=0)
    noun: ClassVar[str] = "load resistor"
    step: ClassVar[float] = 1_000.0
