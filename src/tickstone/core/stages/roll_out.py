"""What a wheel rolls in one turn: from turn rate to speed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import SPEED, Quantity
from tickstone.core.signal import Signal
from tickstone.core.stages.ratio import Ratio
from tickstone.core.step import Reading, Step


@dataclass(frozen=True, slots=True)
class RollOut(Pointwise):
    """n·C, turns a second to m/s.

    circumference_m: C, m, as it rolls under its load. u_m: its standard uncertainty.
    part: what its doubt is called, and basis: where that is from.

    >>> from tickstone.core.quantity import TURN_RATE
    >>> RollOut(0.47, 0.0, "wheel", "").apply(Signal.of([0.0], [2.0], TURN_RATE)).value.tolist()
    [0.94]
    """

    name: ClassVar[str] = "roll-out"

    circumference_m: float
    u_m: float
    part: str
    basis: str

    def gives(self, *taken: Quantity) -> Quantity:
        """A speed."""
        return SPEED

    def speed(self, gear: float) -> Ratio:
        """The same behind a gear: wheel turns per turn of what is heard."""
        return Ratio(
            self.circumference_m * gear,
            self.u_m * gear,
            is_divided=False,
            becomes=SPEED,
            label="rolls in a turn",
            formula="v = n·C",
            shown_as="m",
            part=self.part,
            basis=self.basis,
            source="common practice",
        )

    def apply(self, *signals: Signal) -> Signal:
        """Every turn rate as a speed."""
        return self.speed(1.0).apply(*signals)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        return self.speed(1.0).emit(code, *entering)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One turn rate as a speed."""
        return self.speed(1.0).explain(state, *readings)
