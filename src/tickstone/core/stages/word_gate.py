"""A distance beside the sensor's own status word."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import any_of
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class WordGate(Pointwise):
    """Flags a distance whose status word is none of the good ones. Values stay as they are.

    good: words that say it is a measurement.

    >>> distance, word = Signal.of([0, 1], [0.3, 0.3]), Signal.of([0, 1], [0, 4])
    >>> WordGate((0.0,)).apply(distance, word).flag.tolist()
    [0, 30]
    """

    name: ClassVar[str] = "word"

    good: tuple[float, ...]

    def apply(self, *signals: Signal) -> Signal:
        """The same distances; flagged where the word says no."""
        distance, word = signals
        bad = np.flatnonzero(~np.isin(word.value, self.good))
        if bad.size == 0:
            return distance
        return distance.replaced(
            distance.values, flagged(distance.status, bad, Status.SENSOR_SAYS_NO)
        )

    def gives(self, *taken: Quantity) -> Quantity:
        """The distance."""
        return taken[0]

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow, word = entering
        good = any_of([word.value.is_(one) for one in self.good])
        return flow.of(*(lane.flagged((~good, Status.SENSOR_SAYS_NO)) for lane in flow.lanes))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One distance and its word."""
        distance, word = readings
        is_good = word.value in self.good
        status = distance.status
        if status == Status.OK and not is_good:
            status = Status.SENSOR_SAYS_NO
        goods = ", ".join(f"{one:g}" for one in self.good)
        return Step(
            stage=self.name,
            label="its own word",
            sign="∈",
            operand=Operand(None, "", 0.0, f"word {word.value:g}"),
            formula=f"good is {goods}",
            filled=f"{word.value:g} is {'' if is_good else 'not '}among {goods}",
            value=distance.value,
            quantity=distance.quantity,
            status=status,
            components=distance.components,
            source="the sensor’s datasheet says what its words mean",
            note=status.remark,
        )
