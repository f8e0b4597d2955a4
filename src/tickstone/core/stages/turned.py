"""By how much it has turned: the rate, summed over time."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Kind, is_number, pick, seconds_between
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import ANGLE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component


@dataclass(frozen=True, slots=True)
class Turned:
    """∫ω dt since the beginning, by trapezia over the times as they are; rad, of one lane.

    lane: which one enters. longest_s: a silence after which it is not known how it turned; the
    sample after it is flagged, and half of what the faster end would have turned in it is doubted
    ever after. bias_u: of the rate at rest, rad/s. walk: angle random walk, rad/√s. scale_u: of the
    sensitivity, a share.
    State: angle, the last rate and its time, when it began, and the doubt of silences.

    >>> from tickstone.core.quantity import ROTATION
    >>> rate = Signal.of([0, 1, 2], [[0] * 3, [0] * 3, [1.0, 1.0, 3.0]], ROTATION)
    >>> stage = Turned(2, 5.0, 0.0, 0.0, 0.0)
    >>> stage.run(stage.begin(), rate)[0].value.tolist()
    [0.0, 1.0, 3.0]
    """

    name: ClassVar[str] = "turned"
    own_times: ClassVar[bool] = False

    lane: int
    longest_s: float
    bias_u: float
    walk: float
    scale_u: float

    def gives(self, *taken: Quantity) -> Quantity:
        """An angle. Raises ValueError when there is no such lane."""
        if self.lane >= len(taken[0].lanes):
            raise ValueError(f"there is no lane {self.lane} to sum")
        return ANGLE

    def begin(self) -> State:
        """Not turned, and nothing heard."""
        return (0.0, None, None, None, 0.0)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The angle at every sample; a flagged one keeps the angle before it."""
        signal = signals[0]
        flag = signal.status[self.lane].copy()
        values = signal.values[self.lane]
        good = np.flatnonzero((flag == Status.OK) & ~np.isnan(values))
        angle, rate, last_s, began_s, gap_u = state
        result = np.full(len(signal), angle)
        if good.size:
            first_s = float(signal.time_s[good[0]])
            time_s = np.concatenate(([first_s if last_s is None else last_s], signal.time_s[good]))
            rates = np.concatenate(([values[good[0]] if rate is None else rate], values[good]))
            steps = np.diff(time_s) * (rates[1:] + rates[:-1]) / 2.0
            sums = np.cumsum(np.concatenate(([angle], steps)))
            place = np.searchsorted(good, np.arange(len(signal)), side="right")
            result = sums[place]
            silent = np.diff(time_s) > self.longest_s
            if silent.any():
                flag[good[silent]] = Status.LINE_GAP
                faster = np.maximum(np.abs(rates[1:]), np.abs(rates[:-1]))
                off = (faster / 2.0 * np.diff(time_s))[silent]
                gap_u = math.sqrt(gap_u**2 + float(np.sum(off**2)))
            state = (
                float(sums[-1]), float(rates[-1]), float(time_s[-1]),
                float(time_s[0]) if began_s is None else began_s, gap_u,
            )  # fmt: skip
        told = Signal(signal.time_s, result[None], flag[None], ANGLE, signal.until_s)
        return told, state

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        lane = flow.lanes[self.lane]
        turned, rate = code.state("angle", 0.0), code.state("rate")
        last = code.state("last_us", 0.0, Kind.CLOCK)
        silent = code.variable("is_silent", False)
        with code.when(lane.ok & is_number(lane.value)):
            with code.when(is_number(rate)):
                dt = code.let("dt", seconds_between(flow.at, last))
                code.set(turned, turned + dt * (lane.value + rate) / 2.0)
                code.set(silent, dt > self.longest_s)
            code.set(rate, lane.value)
            code.set(last, flow.at)
        status = pick(silent, Status.LINE_GAP, lane.status)
        return flow.of(EmittedLane(turned, status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One angle, and how far it may have drifted."""
        reading = readings[0]
        lane = reading.lanes[self.lane]
        told, (_, _, _, began_s, gap_u) = self.run(state, one_sample(reading))
        angle, status = float(told.value[0]), Status(int(told.flag[0]))
        over = reading.time_s - began_s if began_s is not None else 0.0
        silence = Component(
            "silence on the line", gap_u, "rad", gap_u, False, "how it turned meanwhile"
        )
        drifted = drift_parts(self.bias_u, self.walk, self.scale_u, angle, over)
        drift = ANGLE.said(2.0 * self.bias_u * 60.0, 1)
        before = state[0]
        return Step(
            stage=self.name,
            label="turned",
            sign="∫",
            operand=Operand(None, "", 0.0, "since the beginning"),
            formula="angle + ½·(ω₀ + ω)·Δt",
            filled=f"{ANGLE.said(before, 2)} + {ANGLE.said(angle - before, 3)}",
            value=angle,
            quantity=ANGLE,
            status=status,
            components=(*drifted, silence) if gap_u else drifted,
            source="trapezoidal rule over the times as they are",
            note=status.remark
            or f"Drifts by up to {drift} a minute, by what its bias is known to.",
            below=f"± {drift} a minute",
            facts=(("rate", reading.quantity.said(lane.value, 2)),),
        )


def drift_parts(
    bias_u: float, walk: float, scale_u: float, angle: float, over_s: float
) -> tuple[Component, ...]:
    """What an angle that is a sum of rates may be off by: those that say anything.

    bias_u: rad/s. walk: rad/√s. scale_u: a share of the angle, rad. over_s: summed for so long.
    """
    basis = f"over {prefixed(over_s, 's')}"
    parts = (
        Component("bias left", bias_u, "rad/s", bias_u * over_s, True, basis),
        Component("random walk", walk, "rad/√s", walk * math.sqrt(over_s), False, basis),
        Component("turn scale", scale_u, "", scale_u * angle, True, "of the angle"),
    )
    return tuple(part for part in parts if part.contribution != 0.0)
