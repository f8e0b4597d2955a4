"""From the axes of a module to those of the rig it sits in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.axes import Matrix, told_apart
from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.signal import Signal
from tickstone.core.stages.axes_matrix import flag_of, mixed, mixed_of
from tickstone.core.step import Lane, Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class MountRotation(Pointwise):
    """Rig = ± R·module: x forward, y left, z up.

    matrix: R, by rows. up_reads: +1 where the axis that points up reads +1 g at rest, −1 where a
    module or its library has it the other way. says: how it is mounted, in a few words.

    >>> from tickstone.core.quantity import FORCE
    >>> down = MountRotation(((1, 0, 0), (0, -1, 0), (0, 0, -1)), 1, "upside down")
    >>> down.apply(Signal.of([0], [[0.0], [1.0], [-9.8]], FORCE)).values[:, 0].tolist()
    [0.0, -1.0, 9.8]
    """

    name: ClassVar[str] = "mount"

    matrix: Matrix
    up_reads: int
    says: str

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        return mixed(signals[0], self.up_reads * np.array(self.matrix))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        matrix = self.up_reads * np.array(self.matrix)
        return mixed_of(code, entering[0], matrix.tolist(), self.says)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample, turned."""
        reading = readings[0]
        lanes = told_apart(reading.lanes, reading.quantity.lanes)
        status = flag_of(lanes)
        told = []
        for row in self.matrix:
            sources = Sources()
            terms = [
                self.up_reads * share * sources.of(lane)
                for share, lane in zip(row, lanes, strict=True)
                if share != 0.0 or np.isnan(lane.value)
            ]
            told.append(lane_of(sum(terms, 0.0), sources, Lane(0.0, status)))
        sign = "+1 g" if self.up_reads > 0 else "−1 g"
        said = " ".join(reading.quantity.said(lane.value, 2) for lane in reading.lanes)
        return Step(
            stage=self.name,
            label="mounted",
            sign="⟳",
            operand=Operand(None, "", 0.0, self.says),
            formula="rig = ± R·module; x forward, y left, z up",
            filled=f"R·({said})",
            value=told[0].value,
            quantity=reading.quantity,
            status=status,
            components=told[0].components,
            source="rotation matrix; axes as in ISO 8855",
            note=status.remark,
            below=f"up reads {sign}",
            others=tuple(told[1:]),
        )
