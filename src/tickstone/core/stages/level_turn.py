"""What a single look at a level floor said: the module sits a little aslant."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.axes import rotation, told_apart
from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import ANGLE
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.axes_matrix import flag_of, mixed, mixed_of
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class LevelTurn(Pointwise):
    """Turns readings so that what was called level reads roll 0 and pitch 0.

    roll_rad, pitch_rad: what it read then. u_rad: standard uncertainty of the floor and the look.

    >>> from tickstone.core.quantity import FORCE
    >>> slanted = Signal.of([0], [[0.0], [math.sin(0.1)], [math.cos(0.1)]], FORCE)
    >>> LevelTurn(0.1, 0.0, 0.001, "").apply(slanted).values[:, 0].round(9).tolist()
    [0.0, 0.0, 1.0]
    """

    name: ClassVar[str] = "level"

    roll_rad: float
    pitch_rad: float
    u_rad: float
    label: str

    @property
    def matrix(self) -> FloatArray:
        """Shape (3, 3)."""
        return rotation(0.0, self.pitch_rad, self.roll_rad)

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        return mixed(signals[0], self.matrix)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return mixed_of(code, entering[0], self.matrix.tolist(), self.label)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample, turned back."""
        reading = readings[0]
        lanes = told_apart(reading.lanes, reading.quantity.lanes)
        status = flag_of(lanes)
        turned = self.matrix @ [lane.value for lane in lanes]
        # A floor aslant by u about one axis leans the other two into each other.
        leans = ((0.0, turned[2]), (turned[2], 0.0), (turned[1], turned[0]))
        told = []
        for row, (by_roll, by_pitch) in zip(self.matrix.tolist(), leans, strict=True):
            sources = Sources()
            result = sum((m * sources.of(one) for m, one in zip(row, lanes, strict=True)), 0.0)
            for axis, lean in (("roll", by_roll), ("pitch", by_pitch)):
                own = Component(f"level, {axis}", self.u_rad, "rad", 0.0, True, self.label)
                result = result + sources.known(own, 0.0) * float(lean)
            told.append(lane_of(result, sources, Lane(0.0, status)))
        roll, pitch = ANGLE.said(self.roll_rad, 2), ANGLE.said(self.pitch_rad, 2)
        return Step(
            stage=self.name,
            label="level",
            sign="⟳",
            operand=Operand(None, "", 0.0, f"roll {roll}, pitch {pitch}"),
            formula="R_y(pitch₀)·R_x(roll₀)·a",
            filled=f"turned back by roll {roll}, pitch {pitch}",
            value=told[0].value,
            quantity=reading.quantity,
            status=status,
            components=told[0].components,
            source="what was called level reads 0; common practice",
            note=status.remark,
            others=tuple(told[1:]),
        )


def tilt_of(force: FloatArray) -> tuple[float, float]:
    """Roll and pitch of a specific force at rest, rad. force: shape (3,).

    >>> tilt_of([0.0, 0.0, 1.0])
    (0.0, -0.0)
    """
    x, y, z = (float(one) for one in force)
    return math.atan2(y, z), math.atan2(-x, math.hypot(y, z))
