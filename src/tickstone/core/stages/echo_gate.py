"""Raw echo time in, echo time or a reason why there is none out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.display import grouped
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, pick
from tickstone.core.signal import Signal, flagged
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component, rectangular


@dataclass(frozen=True, slots=True)
class EchoGate(Pointwise):
    """A raw echo of 0 is "no echo in time"; one as long as the timeout is "timed out".

    Neither is a distance: both lose their value (NaN) and keep their place.

    timeout_us: µs, the length the sensor holds its line high when it hears nothing.
    tick_us: µs, resolution of the counter; ± one tick, rectangular.
    detection_us: µs, half width of the doubt about which wave of the burst was heard.

    >>> gate = EchoGate(timeout_us=38_000, tick_us=1, detection_us=12.5)
    >>> gate.apply(Signal.of([0, 1, 2], [5831, 0, 38_000])).flag.tolist()
    [0, 1, 2]
    """

    name: ClassVar[str] = "echo"

    timeout_us: float
    tick_us: float
    detection_us: float

    def apply(self, *signals: Signal) -> Signal:
        """Values in µs; NaN and flagged where there is no echo time."""
        raw = signals[0]
        dead = np.flatnonzero((raw.values <= 0.0) | (raw.values >= self.timeout_us))
        if dead.size == 0:
            return raw
        values = np.array(raw.values, order="C")
        flat = values.reshape(-1)
        verdict = np.where(flat[dead] <= 0.0, Status.NO_ECHO, Status.TIMED_OUT)
        flat[dead] = np.nan
        return raw.replaced(values, flagged(raw.status, dead, verdict))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        lanes = []
        for lane in flow.lanes:
            none = code.let("is_none", lane.value <= 0.0)
            late = code.let("is_late", lane.value >= self.timeout_us)
            value = code.let("value", pick(none | late, NOTHING, lane.value))
            flagged = lane.flagged((none, Status.NO_ECHO), (late, Status.TIMED_OUT))
            lanes.append(EmittedLane(value, flagged.status))
        return flow.of(*lanes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """The echo time of one sample, with what a tick and a wave of doubt make of it."""
        raw, status = readings[0].value, readings[0].status
        if raw <= 0.0:
            value, verdict = float("nan"), Status.NO_ECHO
        elif raw >= self.timeout_us:
            value, verdict = float("nan"), Status.TIMED_OUT
        else:
            value, verdict = raw, Status.OK
        status = verdict if status == Status.OK else status
        u_tick, u_wave = rectangular(self.tick_us), rectangular(self.detection_us)
        components = (
            Component("timer tick", u_tick, "µs", u_tick, False, f"± {self.tick_us:g} µs"),
            Component(
                "echo detection",
                u_wave,
                "µs",
                u_wave,
                False,
                f"± {self.detection_us:g} µs, a wave early or late at 40 kHz; from memory",
            ),
        )
        return Step(
            stage=self.name,
            label="echo",
            sign="",
            operand=Operand(raw, "µs", 0.0),
            formula=f"0 < t < {grouped(self.timeout_us, 0)} µs",
            filled=f"t = {grouped(raw, 0)} µs",
            value=value,
            quantity=readings[0].quantity,
            status=status,
            components=components,
            source="common practice",
            note=status.meaning,
        )
