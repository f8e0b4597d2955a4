"""How strongly something shakes: what is felt beside its own mean."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Kind, all_of, faded, is_number, root
from tickstone.core.emit.timing import fading_share
from tickstone.core.loops.smoothing import exponential
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.smoothing import fading
from tickstone.core.stages.axes_matrix import first_flag, first_flag_of
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class Vibration:
    """√(mean of |x − mean of x|²), both means fading over `over_s`; all lanes together.

    What turns slower than that counts as mean and is left out. Flagged samples keep the last.
    State: means of each lane, mean of the squares, time of the last.

    Raises ValueError when `over_s` is not above 0.

    >>> from tickstone.core.quantity import FORCE
    >>> still = Signal.of([0, 1], [[0, 0], [0, 0], [9.8, 9.8]], FORCE)
    >>> stage = Vibration(1.0)
    >>> stage.run(stage.begin(), still)[0].value.tolist()
    [0.0, 0.0]
    """

    name: ClassVar[str] = "vibration"
    own_times: ClassVar[bool] = False

    over_s: float

    def __post_init__(self) -> None:
        if not self.over_s > 0.0:
            raise ValueError("vibration is looked at over a time above 0")

    def gives(self, *taken: Quantity) -> Quantity:
        """The same, one lane, never below 0."""
        return taken[0].in_lanes("")

    def begin(self) -> State:
        """Nothing felt."""
        return None

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The level at every sample."""
        signal = signals[0]
        lanes = len(signal.values)
        fresh = ((math.nan,) * lanes, math.nan, math.nan)
        means, square, last_s = fresh if state is None else state
        flag = first_flag(signal.status)
        good = (flag == Status.OK) & ~np.isnan(signal.values).any(axis=0)
        share, last_s = fading(good, signal.time_s, last_s, self.over_s)
        squares, after = np.zeros(len(signal)), []
        for values, mean in zip(signal.values, means, strict=True):
            middle, kept = np.ascontiguousarray(values).copy(), np.array([mean])
            exponential(middle, good, share, kept)
            squares[good] += (values[good] - middle[good]) ** 2
            after.append(float(kept[0]))
        kept = np.array([square])
        exponential(squares, good, share, kept)
        place = np.maximum.accumulate(np.where(good, np.arange(len(signal)), -1))
        level = np.where(place >= 0, squares[np.maximum(place, 0)], square)
        told = Signal(
            signal.time_s, np.sqrt(level)[None], flag[None], self.gives(signal.quantity),
            signal.until_s,
        )  # fmt: skip
        return told, (tuple(after), float(kept[0]), last_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        first = code.let("first_flag", first_flag_of(flow))
        good = first.is_(Status.OK) & all_of([is_number(one.value) for one in flow.lanes])
        means = [code.state("mean") for _ in flow.lanes]
        square, last = code.state("square"), code.state("last_us", 0.0, Kind.CLOCK)
        with code.when(good):
            share = fading_share(code, flow.at, last, self.over_s)
            total = code.variable("total", 0.0)
            for one, mean in zip(flow.lanes, means, strict=True):
                code.set(mean, faded(mean, share, one.value))
                code.set(total, total + (one.value - mean) * (one.value - mean))
            code.set(square, faded(square, share, total))
            code.set(last, flow.at)
        return flow.of(EmittedLane(root(square), first))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One level."""
        reading = readings[0]
        told = self.run(state, one_sample(reading))[0]
        value, status = float(told.value[0]), Status(int(told.flag[0]))
        quantity = self.gives(reading.quantity)
        return Step(
            stage=self.name,
            label="shakes by",
            sign="~",
            operand=Operand(self.over_s, "s", 0.0, "over about"),
            formula="√(mean of |x − mean|²)",
            filled=f"{quantity.said(value)} beside the mean of about {self.over_s:g} s",
            value=value,
            quantity=quantity,
            status=status,
            components=(),
            source="root mean square, fading; common practice",
            note=status.remark,
        )
