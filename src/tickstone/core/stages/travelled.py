"""How far a wheel has rolled: pulses times the road of one."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.edges import COUNT, GAP
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import is_among, pick
from tickstone.core.quantity import DISTANCE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class Travelled(Pointwise):
    """N·C/m, edges to m. Bounce is not counted; a pulse that was missed is.

    per_pulse_m: C/m, m. u_m: its standard uncertainty, shared by all samples.

    >>> from tickstone.core.edges import EDGES
    >>> edges = Signal.of([1.0], [[0.2], [40.0], [0.0]], EDGES)
    >>> Travelled(0.1, 0.0, "wheel", "").apply(edges).value.tolist()
    [4.0]
    """

    name: ClassVar[str] = "travelled"

    per_pulse_m: float
    u_m: float
    part: str
    basis: str

    def gives(self, *taken: Quantity) -> Quantity:
        """A distance."""
        return DISTANCE

    def apply(self, *signals: Signal) -> Signal:
        """The way at every edge that counts."""
        edges = signals[0]
        status = edges.status[GAP].copy()
        # Only what is no pulse at all says nothing of the way; a gap may be unknown.
        status[(status != Status.BOUNCE) & (status != Status.NO_GAP)] = Status.OK
        return edges.replaced(
            edges.values[COUNT : COUNT + 1] * self.per_pulse_m, status[None, :], DISTANCE
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        gap, count = entering[0].lanes[GAP], entering[0].lanes[COUNT]
        per = code.constant("per_pulse", self.per_pulse_m, "m", self.u_m or None, self.basis)
        is_none = is_among(gap.status, (Status.BOUNCE, Status.NO_GAP))
        return entering[0].of(EmittedLane(count.value * per, pick(is_none, gap.status, Status.OK)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """The way so far."""
        gap, count = readings[0].lanes[GAP], readings[0].lanes[COUNT]
        status = gap.status if gap.status in (Status.BOUNCE, Status.NO_GAP) else Status.OK
        sources = Sources()
        one = Component("one pulse more or less", 1.0 / math.sqrt(6.0), "", 1.0, False, "± 1")
        per = Component(self.part, self.u_m, "m", self.u_m, True, self.basis)
        pulses = sources.known(one, count.value)
        result = pulses * sources.known(per, self.per_pulse_m)
        lane = lane_of(result, sources, Lane(count.value, status))
        per_pulse = DISTANCE.said(self.per_pulse_m, 4)
        return Step(
            stage=self.name,
            label="road of a pulse",
            sign="×",
            operand=Operand(self.per_pulse_m, "m", self.u_m),
            formula="s = N·C/m",
            filled=f"{grouped(count.value, 0)} × {per_pulse}",
            value=lane.value,
            quantity=DISTANCE,
            status=status,
            components=lane.components,
            source="counting; common practice",
        )
