"""Volts of a triangulating ranger to distance: V = a/(d + d₀) + b, turned round."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of, no_number
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import NOTHING, is_number, pick
from tickstone.core.quantity import DISTANCE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

_FARTHEST_M = 100.0
"""Volts that would be farther than this are none that tell anything."""
Matrix = tuple[tuple[float, float, float], ...]


@dataclass(frozen=True, slots=True)
class InverseLaw(Pointwise):
    """d = a/(V − b) − d₀; volts at b, or hardly above, are beyond its reach.

    a: V·m. d0: m. b: V. covariance: of (a, d0, b); relative_u: of the distance besides, for a curve
    that is not this sensor's own. label: what it rests on.

    >>> law = InverseLaw(0.288, 0.028, 0.052)
    >>> law.apply(Signal.of([0, 1], [2.302, 0.05])).value.round(3).tolist()
    [0.1, nan]
    """

    name: ClassVar[str] = "law"

    a: float
    d0: float
    b: float
    covariance: Matrix = ((0.0,) * 3,) * 3
    relative_u: float = 0.0
    label: str = "a datasheet’s curve; from memory"

    def gives(self, *taken: Quantity) -> Quantity:
        """Distance."""
        return DISTANCE

    def volts(self, distance_m: float) -> float:
        """What the sensor puts out at a distance beyond its fold."""
        return self.a / (distance_m + self.d0) + self.b

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        over = signals[0].values - self.b
        beyond = ~(over > self.a / _FARTHEST_M)
        status = signals[0].status
        if beyond.any():
            status = np.array(status)
            status[beyond & (status == Status.OK) & ~np.isnan(over)] = Status.TOO_FAR
            over[beyond] = np.nan
        values = self.a / over - self.d0
        return signals[0].replaced(values, status, DISTANCE)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        a, d0, b = (
            code.constant(hint, value, unit, math.sqrt(max(0.0, row[n])) or None, self.label)
            for n, (hint, value, unit, row) in enumerate(
                zip(["a", "d0", "b"], (self.a, self.d0, self.b), ("V·m", "m", "V"),
                    self.covariance, strict=True)
            )
        )  # fmt: skip
        flow, lanes = entering[0], []
        for lane in flow.lanes:
            over = code.let("over", lane.value - b)
            beyond = code.let("is_beyond", ~(over > a / _FARTHEST_M))
            value = code.let("value", pick(beyond, NOTHING, a / over - d0))
            lanes.append(lane.flagged((beyond & is_number(over), Status.TOO_FAR)).of(value))
        return flow.of(*lanes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample, with the doubt of the curve as one source."""
        reading, sources = readings[0], Sources()
        lane = reading.lanes[0]
        over = lane.value - self.b
        said = reading.quantity.said
        if not over > self.a / _FARTHEST_M:
            status = lane.status
            if status == Status.OK and not math.isnan(lane.value):
                status = Status.TOO_FAR
            result = no_number(Lane(lane.value, status))
            filled = f"{said(lane.value)} is hardly above {said(self.b)}"
        else:
            distance = self.a / over - self.d0
            slope = np.array([1.0 / over, -1.0, self.a / over**2])
            variance = float(slope @ np.array(self.covariance) @ slope)
            u = math.hypot(math.sqrt(max(0.0, variance)), self.relative_u * (distance + self.d0))
            own = Component("curve", u, "m", u, True, self.label)
            worked = self.a / (sources.of(lane) - self.b) - self.d0
            worked = worked + (sources.known(own, 0.0) if u > 0.0 else 0.0)
            result = lane_of(worked, sources, lane)
            filled = f"{self.a:.4g} ÷ ({said(lane.value)} − {said(self.b)}) − {self.d0:.4g} m"
        return Step(
            stage=self.name,
            label="by its curve",
            sign="→",
            operand=Operand(None, "", 0.0, "a/(V − b) − d₀"),
            formula="d = a/(V − b) − d₀",
            filled=filled,
            value=result.value,
            quantity=DISTANCE,
            status=result.status,
            components=result.components,
            source=f"V = a/(d + d₀) + b: common practice; {self.label}",
            note=result.status.remark,
            facts=(
                ("a", f"{self.a:.4g} V·m"), ("d₀", f"{self.d0:.4g} m"), ("b", f"{self.b:.4g} V"),
            ),
        )  # fmt: skip
