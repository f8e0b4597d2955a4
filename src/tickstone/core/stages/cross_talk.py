"""Light that comes back from a cover instead of the target pulls a time-of-flight reading short."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of, no_number
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import NOTHING, pick, root
from tickstone.core.reading_units import small_length
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class CrossTalk(Pointwise):
    """m = o + d/(1 + x·d²), turned round: the echo of the target falls with d², that of the cover
    stays.

    offset_m: o. per_m2: x, 1/m². covariance: of (o, x). label: what it rests on. Readings that no
    distance gives are too far.

    >>> stage = CrossTalk(0.01, 0.1)
    >>> read = 0.01 + 1.0 / 1.1
    >>> stage.apply(Signal.of([0], [read])).value.round(6).tolist()
    [1.0]
    """

    name: ClassVar[str] = "cover"

    offset_m: float
    per_m2: float
    covariance: tuple[tuple[float, float], ...] = ((0.0, 0.0), (0.0, 0.0))
    label: str = ""

    def apply(self, *signals: Signal) -> Signal:
        """Every distance."""
        read = signals[0].values - self.offset_m
        if self.per_m2 == 0.0:
            return signals[0].replaced(read)
        inside = 1.0 - 4.0 * self.per_m2 * read * read
        beyond = inside < 0.0
        # As d/(…) the small root loses no digits for little cross-talk.
        values = 2.0 * read / (1.0 + np.sqrt(np.where(beyond, np.nan, inside)))
        status = signals[0].status
        if beyond.any():
            status = np.array(status)
            status[beyond & (status == Status.OK)] = Status.TOO_FAR
        return signals[0].replaced(values, status)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow, lanes = entering[0], []
        offset = code.constant("offset", self.offset_m, "m", None, self.label)
        per_m2 = code.constant("cover", self.per_m2, "1/m²", None, self.label)
        for lane in flow.lanes:
            read = code.let("read", lane.value - offset)
            if self.per_m2 == 0.0:
                lanes.append(lane.of(read))
                continue
            inside = code.let("inside", 1.0 - 4.0 * per_m2 * read * read)
            beyond = code.let("is_beyond", inside < 0.0)
            value = pick(beyond, NOTHING, 2.0 * read / (1.0 + root(inside)))
            lanes.append(lane.flagged((beyond, Status.TOO_FAR)).of(value))
        return flow.of(*lanes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One distance."""
        reading, sources = readings[0], Sources()
        lane = reading.lanes[0]
        read = lane.value - self.offset_m
        inside = 1.0 - 4.0 * self.per_m2 * read * read if math.isfinite(read) else math.nan
        if inside < 0.0:
            status = Status.TOO_FAR if lane.status == Status.OK else lane.status
            result = no_number(Lane(math.nan, status))
        elif math.isnan(inside):
            result = no_number(lane)
        else:
            d = 2.0 * read / (1.0 + math.sqrt(inside))
            # By m = o + d/(1 + x·d²): ∂d/∂m, and by what o and x do to m.
            per_read = (1.0 + self.per_m2 * d * d) ** 2 / (1.0 - self.per_m2 * d * d)
            slope = np.array([-per_read, per_read * d**3 / (1.0 + self.per_m2 * d * d) ** 2])
            u = math.sqrt(max(0.0, float(slope @ np.array(self.covariance) @ slope)))
            own = Component("cover and offset", u, "m", u, True, self.label)
            worked = d + per_read * (sources.of(lane) - lane.value)
            worked = worked + (sources.known(own, 0.0) if u > 0.0 else 0.0)
            result = lane_of(worked, sources, lane)
        offset = small_length(self.offset_m, 1)
        return Step(
            stage=self.name,
            label="cover",
            sign="−",
            operand=Operand(None, "", 0.0, offset),
            formula="m = o + d/(1 + x·d²), turned round",
            filled=f"{reading.quantity.said(lane.value)} − {offset}, x = {self.per_m2:.3g} /m²",
            value=result.value,
            quantity=reading.quantity,
            status=result.status,
            components=result.components,
            source="echo of the target ∝ 1/d², of the cover constant; from memory",
            note=result.status.remark,
        )
