"""How fast it turns in the floor plane, however it leans."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.axes import told_apart
from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import cosine, pick, sine
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.stages.axes_matrix import first_flag, first_flag_of, flag_of
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class PlumbRate(Pointwise):
    """The rate about the plumb line: −p·sin(pitch) + cos(pitch)·(q·sin(roll) + r·cos(roll)).

    Takes the rate, three lanes, and the attitude, roll and pitch first, at the same times.

    >>> from tickstone.core.quantity import ATTITUDE, ROTATION
    >>> rate = Signal.of([0], [[0.0], [1.0], [0.0]], ROTATION)
    >>> on_its_side = Signal.of([0], [[np.pi / 2], [0.0], [0.0]], ATTITUDE)
    >>> PlumbRate().apply(rate, on_its_side).value.round(9).tolist()
    [1.0]
    """

    name: ClassVar[str] = "plumb-rate"

    def gives(self, *taken: Quantity) -> Quantity:
        """A rate, one lane."""
        return taken[0].in_lanes("")

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        rate, attitude = signals
        roll, pitch = attitude.values[0], attitude.values[1]
        p, q, r = rate.values
        about = np.cos(pitch) * (q * np.sin(roll) + r * np.cos(roll)) - p * np.sin(pitch)
        flag = first_flag(rate.status)
        np.copyto(flag, attitude.flag, where=flag == Status.OK)
        return Signal(rate.time_s, about[None], flag[None], self.gives(rate.quantity), rate.until_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        rate, attitude = entering
        roll, pitch = (attitude.lanes[n].value for n in (0, 1))
        p, q, r = (one.value for one in rate.lanes)
        about = cosine(pitch) * (q * sine(roll) + r * cosine(roll)) - p * sine(pitch)
        first = first_flag_of(rate)
        status = pick(first.is_(Status.OK), attitude.status, first)
        return rate.of(EmittedLane(about, status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample; what is doubted of the attitude counts little here, and is left out."""
        rate, attitude = readings
        roll, pitch = attitude.lanes[0].value, attitude.lanes[1].value
        sources = Sources()
        lanes = told_apart(rate.lanes, rate.quantity.lanes)
        status = flag_of(lanes)
        if status == Status.OK:
            status = attitude.status
        p, q, r = (sources.of(lane) for lane in lanes)
        about = math.cos(pitch) * (q * math.sin(roll) + r * math.cos(roll)) - p * math.sin(pitch)
        lane = lane_of(about, sources, Lane(0.0, status))
        said = rate.quantity.said
        return Step(
            stage=self.name,
            label="about the plumb line",
            sign="·",
            operand=Operand(None, "", 0.0, "in the floor plane"),
            formula="cos θ·(q·sin φ + r·cos φ) − p·sin θ",
            filled=f"({said(rate.lanes[1].value)}, {said(rate.lanes[2].value)}) seen from above",
            value=lane.value,
            quantity=self.gives(rate.quantity),
            status=status,
            components=lane.components,
            source="projection on the vertical",
            note=status.remark,
        )
