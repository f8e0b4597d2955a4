"""A low-pass by its corner frequency, whatever the time between readings."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Kind, Name, Term, is_number, pick
from tickstone.core.emit.timing import fading_share
from tickstone.core.loops.smoothing import exponential
from tickstone.core.signal import FloatArray
from tickstone.core.smoothing import LaneFilter, fading
from tickstone.core.step import Operand


@dataclass(frozen=True, slots=True)
class LowPass(LaneFilter):
    """One resistor and capacitor after the other: y ← y + (1 − e^(−2πf·dt))·(x − y).

    corner_hz: f of each. order: how many, 1 or 2. Steps held between readings: exact for those.

    Raises ValueError for a corner at 0 or below, or another order.

    >>> from tickstone.core.signal import Signal
    >>> steps = Signal.of([0.0, 0.1, 0.2], [0.0, 1.0, 1.0])
    >>> LowPass(1.0 / (2 * math.pi * 0.1), 1).run((), steps)[0].value.round(3).tolist()
    [0.0, 0.632, 0.865]
    """

    name: ClassVar[str] = "low-pass"
    label: ClassVar[str] = "low-pass"
    formula: ClassVar[str] = "y ← y + (1 − e^(−2πf·dt))·(x − y)"
    source: ClassVar[str] = "exact answer of an RC element to a held step"
    fresh: ClassVar[tuple[float, ...]] = (float("nan"), float("nan"), float("nan"))

    corner_hz: float
    order: int = 1

    def __post_init__(self) -> None:
        if not self.corner_hz > 0.0:
            raise ValueError("the corner of a low-pass has to lie above 0")
        if self.order not in (1, 2):
            raise ValueError("a low-pass here has one element or two")

    def operand(self) -> Operand:
        """f."""
        return Operand(self.corner_hz, "Hz", 0.0, "corner")

    def note(self) -> str:
        """1/(2πf) an element."""
        return f"Late by {1000.0 * self.order / (2.0 * math.pi * self.corner_hz):.0f} ms."

    def lane(self, values: FloatArray, good: Any, time_s: FloatArray, state: Any) -> Any:
        """State: y of each element, the time of the last."""
        over_s = 1.0 / (2.0 * math.pi * self.corner_hz)
        share, last_s = fading(good, time_s, state[2], over_s)
        after = []
        for element in range(2):
            kept = np.array(state[element : element + 1])
            if element < self.order:
                exponential(values, good, share, kept)
            after.append(float(kept[0]))
        return (*after, last_s)

    def emit_lane(self, code: Code, value: Name, at: Term) -> None:
        """The same for one good sample."""
        over_s = 1.0 / (2.0 * math.pi * self.corner_hz)
        last = code.state("last_us", 0.0, Kind.CLOCK)
        share = fading_share(code, at, last, over_s)
        for _ in range(self.order):
            y = code.state("y")
            code.set(y, pick(is_number(y), y + share * (value - y), value))
            code.set(value, y)
        code.set(last, at)
