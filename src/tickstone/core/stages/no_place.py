"""What stands where a place cannot be told: the places of the sensors are those of another row."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, term
from tickstone.core.quantity import PLACE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class NoPlace(Pointwise):
    """No place for any sample. told: how many places there are.

    >>> from tickstone.core.quantity import LIGHTNESS
    >>> light = Signal.of([0], [[1], [0]], LIGHTNESS.in_lanes("1", "2"))
    >>> NoPlace(3).apply(light).flag.tolist() == [Status.UNPLACED]
    True
    """

    name: ClassVar[str] = "no-place"

    told: int

    def gives(self, *taken: Quantity) -> Quantity:
        """A place, of any row."""
        return PLACE

    def apply(self, *signals: Signal) -> Signal:
        """Nothing, each time."""
        light = signals[0]
        nothing = np.full((1, len(light)), np.nan)
        flag = np.full((1, len(light)), Status.UNPLACED, dtype=np.uint8)
        return Signal(light.time_s, nothing, flag, PLACE, light.until_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return entering[0].of(EmittedLane(NOTHING, term(Status.UNPLACED)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """Why there is none."""
        heard = len(readings[0].lanes)
        return Step(
            stage=self.name,
            label="weighted mean",
            sign="∑",
            operand=Operand(None, "", 0.0, f"{self.told} of {heard}"),
            formula="a place is needed for each sensor",
            filled=f"{self.told} places, {heard} sensors",
            value=math.nan,
            quantity=PLACE,
            status=Status.UNPLACED,
            components=(),
            source="by definition",
            note=Status.UNPLACED.remark,
        )
