"""What the ruler said, as an offset and a scale."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.reading_units import length, small_length
from tickstone.core.signal import Signal
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class Calibration:
    """d_true = a + s·d_read, m to m, with the covariance of (a, s).

    offset_m: a, m. scale: s, no unit.
    var_offset, var_scale, cov: m², 1, m.
    absorbs_shared: whether the marks were read in this same air with these same instruments. Then
        an error they share (a thermometer that reads high) is already inside a and s and is not
        counted again.

    >>> stage = Calibration(-0.002, 0.9984, 1e-7, 4e-7, -1e-7, True, "3 marks")
    >>> stage.apply(Signal.of([0.0], [1.0], "m")).values.round(4).tolist()
    [0.9964]
    """

    name: ClassVar[str] = "calibration"
    pointwise: ClassVar[bool] = True

    offset_m: float
    scale: float
    var_offset: float
    var_scale: float
    cov: float
    absorbs_shared: bool
    label: str

    def apply(self, signal: Signal) -> Signal:
        """Every distance, corrected."""
        return signal.replaced(signal.values * self.scale + self.offset_m, signal.unit)

    def explain(self, reading: Reading) -> Step:
        """One distance, corrected, with the fit's own uncertainty in place of shared errors."""
        read = reading.value
        variance = self.var_offset + 2.0 * read * self.cov + read * read * self.var_scale
        u = math.sqrt(max(0.0, variance))
        kept = tuple(
            part.through(self.scale)
            for part in reading.components
            if not (self.absorbs_shared and part.shared)
        )
        absorbed = [part.name for part in reading.components if part.shared]
        own = Component(
            "calibration", u, "m", u, True, f"{self.label}; covariance of offset and scale"
        )
        note = ""
        if self.absorbs_shared and absorbed:
            note = f"Comparing with the ruler has taken in: {', '.join(absorbed)}."
        elif absorbed:
            note = (
                "Made in other air than this, so the shared errors are counted again: "
                f"{', '.join(absorbed)}."
            )
        offset = small_length(self.offset_m, 1, is_signed=True)
        return Step(
            stage=self.name,
            label="calibration",
            sign="×",
            operand=Operand(self.scale, "", math.sqrt(max(0.0, self.var_scale)), self.label),
            formula="a + s·d",
            filled=f"{offset} + {self.scale:.4f} × {length(read, 4)}",
            value=read * self.scale + self.offset_m,
            unit=reading.unit,
            status=reading.status,
            components=(*kept, own),
            source="weighted least squares on the marks; JCGM 100 eq. 13",
            note=note,
            facts=(("offset", offset), ("scale", f"{self.scale:.4f}")),
        )
