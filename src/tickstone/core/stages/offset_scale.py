"""What comparing with something known said, as an offset and a scale."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import SMALL_LENGTH, said
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

_SOURCE = "calibration"


@dataclass(frozen=True, slots=True)
class OffsetScale(Pointwise):
    """true = a + s·read, in any unit, with the covariance of (a, s).

    offset: a. scale: s, no unit. var_offset, var_scale, cov: covariance of the two.
    absorbs_shared: whether the comparison was made in these same surroundings with these same
        instruments. Then an error they share (a thermometer that reads high) is already inside a
        and s and is not counted again.
    label: what it rests on, in a few words. against: what it was compared with. elsewhere: what
        may be another now.

    >>> stage = OffsetScale(-0.002, 0.9984, 1e-7, 4e-7, -1e-7, True, "3 marks")
    >>> stage.apply(Signal.of([0.0], [1.0])).value.round(4).tolist()
    [0.9964]
    """

    name: ClassVar[str] = "calibration"

    offset: float
    scale: float
    var_offset: float
    var_scale: float
    cov: float
    absorbs_shared: bool
    label: str
    against: str = "what is known"
    elsewhere: str = "surroundings"

    def apply(self, *signals: Signal) -> Signal:
        """Every reading, corrected."""
        values = np.multiply(signals[0].values, self.scale)
        values += self.offset
        return signals[0].replaced(values)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        u_scale, u_offset = (math.sqrt(max(0.0, var)) for var in (self.var_scale, self.var_offset))
        scale = code.constant("scale", self.scale, "", u_scale, self.label)
        offset = code.constant("offset", self.offset, None, u_offset, self.label)
        return flow.with_values(*(one.value * scale + offset for one in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One reading, corrected, with the fit's own uncertainty in place of shared errors."""
        reading, sources = readings[0], Sources()
        lane = reading.lanes[0]
        absorbed = [part.name for part in lane.components if part.shared]
        kept = tuple(part for part in lane.components if not (self.absorbs_shared and part.shared))
        read = sources.of(Lane(lane.value, lane.status, kept))
        variance = (
            self.var_offset + 2.0 * lane.value * self.cov + lane.value * lane.value * self.var_scale
        )
        u = math.sqrt(max(0.0, variance))
        # Offset and scale belong together, so their doubt is one source, worked out here.
        own = Component(
            _SOURCE,
            u,
            reading.quantity.unit,
            u,
            True,
            f"{self.label}; covariance of offset and scale",
        )
        result = self.offset + self.scale * read + (sources.known(own, 0.0) if u > 0.0 else 0.0)
        corrected = lane_of(result, sources, lane)
        note = ""
        if self.absorbs_shared and absorbed:
            note = f"Comparing with {self.against} has taken in: {', '.join(absorbed)}."
        elif absorbed:
            note = (
                f"Made in other {self.elsewhere} than now, so the shared errors are counted again: "
                f"{', '.join(absorbed)}."
            )
        offset = _small(self.offset, reading.quantity)
        return Step(
            stage=self.name,
            label="calibration",
            sign="×",
            operand=Operand(self.scale, "", math.sqrt(max(0.0, self.var_scale)), self.label),
            formula="a + s·d",
            filled=f"{offset} + {self.scale:.4f} × {reading.quantity.said(lane.value, 4)}",
            value=corrected.value,
            quantity=reading.quantity,
            status=corrected.status,
            components=corrected.components,
            source="weighted least squares on the marks; JCGM 100 eq. 13",
            note=note,
            facts=(("offset", offset), ("scale", f"{self.scale:.4f}")),
        )


def _small(offset: float, quantity: Quantity) -> str:
    """An offset with its sign, a length in mm."""
    text = said(offset, SMALL_LENGTH, 1) if quantity.unit == "m" else quantity.said(offset)
    return f"+{text}" if offset >= 0 else text
