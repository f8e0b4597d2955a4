"""The rate of pulses from the time between two of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import prefixed
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.edges import GAP
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, pick, size
from tickstone.core.quantity import FREQUENCY, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class PeriodRate(Pointwise):
    """1/Δt, edges to Hz. One tick of doubt is f·tick of it: good when slow.

    >>> from tickstone.core.edges import EDGES
    >>> edges = Signal.of([1.0], [[0.25641], [4.0], [1e-6]], EDGES)
    >>> PeriodRate().apply(edges).value.round(3).tolist()
    [3.9]
    """

    name: ClassVar[str] = "period"

    def gives(self, *taken: Quantity) -> Quantity:
        """A frequency."""
        return FREQUENCY

    def apply(self, *signals: Signal) -> Signal:
        """The rate at every edge that has a gap."""
        edges = signals[0]
        gap, status = edges.values[GAP], edges.status[GAP]
        with np.errstate(divide="ignore", invalid="ignore"):
            rate = 1.0 / gap
        flagged = (status != Status.OK).nonzero()[0]
        rate[flagged[~(np.abs(gap[flagged]) > 0.0) | (status[flagged] == Status.BOUNCE)]] = np.nan
        return Signal(edges.time_s, rate[np.newaxis], status[np.newaxis], FREQUENCY, edges.until_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        gap = entering[0].lanes[GAP]
        none = ~gap.ok & (~(size(gap.value) > 0.0) | gap.status.is_(Status.BOUNCE))
        rate = pick(none, NOTHING, 1.0 / gap.value)
        return entering[0].of(EmittedLane(rate, gap.status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One gap as a rate."""
        gap, sources = readings[0].lanes[GAP], Sources()
        if abs(gap.value) > 0.0 and gap.status != Status.BOUNCE:
            lane = lane_of(1.0 / sources.of(gap), sources, gap)
        else:
            lane = Lane(float("nan"), gap.status)
        return Step(
            stage=self.name,
            label="one over",
            sign="1 ÷",
            operand=Operand(None, "", 0.0, "the gap"),
            formula="f = 1/Δt",
            filled=f"1 ÷ {prefixed(gap.value, 's', 6)}",
            value=lane.value,
            quantity=FREQUENCY,
            status=lane.status,
            components=lane.components,
            source="time of one period; common practice",
        )
