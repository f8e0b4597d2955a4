"""What a sensor reads, as a share of the way from its own black to its own white."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, Term, pick
from tickstone.core.misfit import MisfitError
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import LIGHTNESS, Quantity
from tickstone.core.signal import FloatArray, Signal, StatusArray
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

FLOOD_MARGIN = 0.3
"""So far beyond its white, or its black, as a share of the way between, no surface reads."""


@dataclass(frozen=True, slots=True)
class Surfaces:
    """What one sensor reads of black and of white, in what enters; standard deviation of a reading
    and standard uncertainty of the mean of each.
    """

    black: float
    white: float
    black_sd: float = 0.0
    white_sd: float = 0.0
    black_u: float = 0.0
    white_u: float = 0.0

    def scaled(self, scale: float, offset: float) -> Surfaces:
        """The same in another unit: scale·x + offset."""
        sizes = (self.black_sd, self.white_sd, self.black_u, self.white_u)
        return Surfaces(
            scale * self.black + offset,
            scale * self.white + offset,
            *(abs(scale) * one for one in sizes),
        )


@dataclass(frozen=True, slots=True)
class Lightness(Pointwise):
    """(x − black)/(white − black) of each lane: 0 as black as its black, 1 as white as its white.

    lanes: what each reads of black and white; without any, nothing is known of it. low_end,
    high_end: beyond which the sensor itself is at its end, in what enters. absorbs_shared: whether
    black and white were seen with the same instruments, so that what they share cancels. label:
    what it rests on. of: the name of the quantity in which black and white are known; empty where
    that is whatever enters.

    >>> stage = Lightness((Surfaces(800.0, 200.0),))
    >>> light = stage.apply(Signal.of([0, 1, 2, 3], [800, 350, 200, -100]))
    >>> light.value.tolist(), light.flag.tolist()
    ([-0.0, 0.75, 1.0, 1.5], [0, 0, 0, 23])
    """

    name: ClassVar[str] = "lightness"

    lanes: tuple[Surfaces, ...]
    low_end: float = -math.inf
    high_end: float = math.inf
    absorbs_shared: bool = False
    label: str = ""
    of: str = ""

    def gives(self, *taken: Quantity) -> Quantity:
        """A share, in as many lanes. Raises MisfitError when black and white are of others, or
        known in another quantity.
        """
        count = len(taken[0].lanes)
        if self.lanes and self.of and self.of != taken[0].name:
            raise MisfitError(
                f"black and white are known as {self.of}, but {taken[0].name} is heard",
                "calibrate again",
                "another form",
            )
        if self.lanes and len(self.lanes) != count:
            raise MisfitError(
                f"black and white are known of {len(self.lanes)} sensors, but {count} are heard",
                "calibrate again",
            )
        return LIGHTNESS.in_lanes(*taken[0].lanes)

    @property
    def noise(self) -> float:
        """Standard deviation of a reading as a share: root mean square over lanes and surfaces."""
        if not self.lanes:
            return 0.01
        shares = [
            (one.black_sd**2 + one.white_sd**2) / (2.0 * (one.white - one.black) ** 2)
            for one in self.lanes
        ]
        return max(1e-3, math.sqrt(math.fsum(shares) / len(shares)))

    def apply(self, *signals: Signal) -> Signal:
        """Every sample of each lane."""
        signal, quantity = signals[0], self.gives(signals[0].quantity)
        if not self.lanes:
            status = np.array(signal.status)
            status[status == Status.OK] = Status.UNCALIBRATED
            return signal.replaced(np.full_like(signal.values, np.nan), status, quantity)
        black = np.array([[one.black] for one in self.lanes])
        width = np.array([[one.white - one.black] for one in self.lanes])
        values = np.subtract(signal.values, black)
        values *= 1.0 / width
        return signal.replaced(values, self._judged(signal, values, width), quantity)

    def _judged(self, signal: Signal, values: FloatArray, width: FloatArray) -> StatusArray:
        """Statuses: what stands at an end, and what no surface can read."""
        if signal.values.size == 0:
            return signal.status
        raw = signal.values
        is_calm = (
            raw.min() > self.low_end
            and raw.max() < self.high_end
            and values.min() >= -FLOOD_MARGIN
            and values.max() <= 1.0 + FLOOD_MARGIN
            and not signal.status.any()
        )
        if is_calm:
            return signal.status
        status = np.array(signal.status)
        is_open = (status == Status.OK) | (status == Status.CLIPPED)
        at_end = (raw <= self.low_end) | (raw >= self.high_end) | (status == Status.CLIPPED)
        light = values > 0.5
        status[is_open & ~at_end & (values > 1.0 + FLOOD_MARGIN)] = Status.FLOODED
        status[is_open & light & at_end] = Status.SATURATED
        status[is_open & ~light & ((values < -FLOOD_MARGIN) | at_end)] = Status.TOO_DARK
        return status

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow, lanes = entering[0], []
        if not self.lanes:
            return flow.of(
                *(
                    EmittedLane(NOTHING, pick(one.ok, Status.UNCALIBRATED, one.status))
                    for one in flow.lanes
                )
            )
        for n, (lane, known) in enumerate(zip(flow.lanes, self.lanes, strict=True), start=1):
            black = code.constant(
                f"black_{n}", known.black, None, known.black_u or None, self.label
            )
            white = code.constant(
                f"white_{n}", known.white, None, known.white_u or None, self.label
            )
            value = code.let("share", (lane.value - black) / (white - black))
            lanes.append(EmittedLane(value, self._emitted_status(code, lane, value)))
        return flow.of(*lanes)

    def _emitted_status(self, code: Code, lane: EmittedLane, value: Term) -> Term:
        """The same as `_judged`, of one lane."""
        clipped = lane.status.is_(Status.CLIPPED)
        at_end = clipped
        if math.isfinite(self.low_end):
            at_end = at_end | (lane.value <= self.low_end)
        if math.isfinite(self.high_end):
            at_end = at_end | (lane.value >= self.high_end)
        at_end = code.let("is_at_end", at_end)
        light = code.let("is_light", value > 0.5)
        too_dark = ~light & ((value < -FLOOD_MARGIN) | at_end)
        said = pick(too_dark, Status.TOO_DARK, lane.status)
        said = pick(light & at_end, Status.SATURATED, said)
        said = pick(~at_end & (value > 1.0 + FLOOD_MARGIN), Status.FLOODED, said)
        return pick(lane.ok | clipped, said, lane.status)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample of each lane."""
        reading = readings[0]
        quantity = self.gives(reading.quantity)
        result = self.apply(one_sample(reading))
        lanes = [
            Lane(
                float(result.values[place, 0]),
                Status(int(result.status[place, 0])),
                self._budget(place, lane, quantity.lanes[place]),
            )
            for place, lane in enumerate(reading.lanes)
        ]
        said = reading.quantity.said
        filled = "black and white are not known yet"
        operand = Operand(None, "", 0.0, "not known")
        if self.lanes:
            first = self.lanes[0]
            filled = (
                f"({said(reading.value)} − {said(first.black)}) ÷ "
                f"({said(first.white)} − {said(first.black)})"
            )
            operand = Operand(None, "", 0.0, f"{said(first.black)} … {said(first.white)}")
        return Step(
            stage=self.name,
            label="black to white",
            sign="∈",
            operand=operand,
            formula="(x − black)/(white − black), by each sensor’s own",
            filled=filled,
            value=lanes[0].value,
            quantity=quantity,
            status=lanes[0].status,
            components=lanes[0].components,
            source=f"black and white: {self.label}" if self.label else "common practice",
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )

    def _budget(self, place: int, lane: Lane, name: str) -> tuple[Component, ...]:
        """What the doubt of a lane is made of. Each sensor's noise is a source of its own."""
        if not self.lanes or math.isnan(lane.value):
            return ()
        known = self.lanes[place]
        width = known.white - known.black
        share = (lane.value - known.black) / width
        near = min(1.0, max(0.0, share))
        kept = [
            replace(part.through(1.0 / width), name=f"{part.name} {name}".strip())
            if not part.shared
            else part.through(1.0 / width)
            for part in lane.components
            if not (part.shared and self.absorbs_shared)
        ]
        noise = (1.0 - near) * known.black_sd + near * known.white_sd
        known_to = math.hypot((1.0 - share) * known.black_u, share * known.white_u)
        for part, size, basis in (
            ("reading noise", noise, "as black and white scattered"),
            ("black and white", known_to, "their means, by n samples"),
        ):
            if size > 0.0:
                u = size / abs(width)
                kept.append(Component(f"{part} {name}".strip(), size, "", u, False, basis))
        return tuple(kept)
