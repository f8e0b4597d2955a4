"""How far something leans, whichever way, from its roll and pitch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from uncertainties import umath

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import angle, cosine, root, sine
from tickstone.core.quantity import ANGLE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Operand, Reading, Step

_UPRIGHT = 1e-6


@dataclass(frozen=True, slots=True)
class LeanOf(Pointwise):
    """acos(cos roll · cos pitch), rad; never below 0. Takes an attitude, roll and pitch first.

    >>> from tickstone.core.quantity import ATTITUDE
    >>> leaning = Signal.of([0], [[0.3], [0.0], [1.0]], ATTITUDE)
    >>> LeanOf().apply(leaning).value.round(6).tolist()
    [0.3]
    """

    name: ClassVar[str] = "lean"

    def gives(self, *taken: Quantity) -> Quantity:
        """An angle."""
        return ANGLE

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        roll, pitch = signals[0].values[0], signals[0].values[1]
        # Of its sine and cosine: an arccosine alone is coarse near upright.
        across = np.hypot(np.sin(pitch), np.cos(pitch) * np.sin(roll))
        lean = np.arctan2(across, np.cos(roll) * np.cos(pitch))
        return Signal(
            signals[0].time_s, lean[None], signals[0].status[:1], ANGLE, signals[0].until_s
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        roll, pitch = (flow.lanes[n].value for n in (0, 1))
        low = code.let("low", cosine(pitch))
        side, along = code.let("side", low * sine(roll)), code.let("along", sine(pitch))
        lean = angle(root(along * along + side * side), cosine(roll) * low)
        return flow.of(flow.lanes[0].of(lean))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample."""
        reading = readings[0]
        sources = Sources()
        roll_lane, pitch_lane = reading.lanes[0], reading.lanes[1]
        roll, pitch = sources.of(roll_lane), sources.of(pitch_lane)
        across = np.hypot(
            np.sin(pitch_lane.value), np.cos(pitch_lane.value) * np.sin(roll_lane.value)
        )
        value = float(np.arctan2(across, np.cos(roll_lane.value) * np.cos(pitch_lane.value)))
        if across > _UPRIGHT and abs(across) < 1.0:
            cosine = umath.cos(roll) * umath.cos(pitch)
            lane = lane_of(umath.acos(cosine), sources, Lane(0.0, reading.status))
            parts = lane.components
        else:
            parts = max((roll_lane, pitch_lane), key=lambda one: one.u).components
        return Step(
            stage=self.name,
            label="leans by",
            sign="∠",
            operand=Operand(None, "", 0.0, "whichever way"),
            formula="acos(cos roll · cos pitch)",
            filled=f"roll {ANGLE.said(roll_lane.value)}, pitch {ANGLE.said(pitch_lane.value)}",
            value=value,
            quantity=ANGLE,
            status=reading.status,
            components=parts,
            source="angle between upright and the vertical",
            note=reading.status.remark,
        )
