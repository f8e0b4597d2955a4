"""Dark or light, lane by lane, with a band in which the last of them stands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.emit.terms import is_number, pick
from tickstone.core.misfit import MisfitError
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.step import Lane, Operand, Reading, Step

SURFACE = Quantity(
    "surface", "", states=(DecisionState("light", "light"), DecisionState("dark", "dark"))
)
LIGHT, DARK = 0.0, 1.0
HALF_WAY, HALF_BAND = 0.5, 0.1
"""What stands in for a threshold that nobody chose."""


@dataclass(frozen=True, slots=True)
class LaneState:
    """Dark below at − half, light above at + half; between, as before.

    at, half: shares of the way from black to white; one each, or one for all lanes. basis: who
    chose them. What has no value keeps what it was. Before anything was said: by `at` alone.
    State: of each lane.

    >>> from tickstone.core.quantity import LIGHTNESS
    >>> stage = LaneState((0.5,), (0.1,))
    >>> light = Signal.of([0, 1, 2, 3, 4], [0.9, 0.45, 0.3, 0.55, 0.7], LIGHTNESS)
    >>> stage.run(stage.begin(), light)[0].value.tolist()
    [0.0, 0.0, 1.0, 1.0, 0.0]
    """

    name: ClassVar[str] = "state"
    own_times: ClassVar[bool] = False

    at: tuple[float, ...] = (HALF_WAY,)
    half: tuple[float, ...] = (HALF_BAND,)
    basis: str = "half way; not chosen by evidence yet"

    def __post_init__(self) -> None:
        if not self.at or len(self.half) not in (1, len(self.at)):
            raise ValueError("a threshold for each sensor, and a band for each or one for all")
        if any(one < 0.0 for one in self.half):
            raise ValueError("a band cannot be narrower than nothing")

    def gives(self, *taken: Quantity) -> Quantity:
        """A state of each lane. Raises MisfitError when the thresholds are of others."""
        count = len(taken[0].lanes)
        if len(self.at) not in (1, count):
            raise MisfitError(
                f"there are thresholds for {len(self.at)} sensors, but {count} are heard",
                "set them again",
            )
        return SURFACE.in_lanes(*taken[0].lanes)

    def begin(self) -> State:
        """Nothing said of any lane."""
        return None

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The state of each lane at each sample."""
        light = signals[0]
        quantity = self.gives(light.quantity)
        count, n = light.values.shape
        at, half = self._levels(count)
        if n == 0:
            return light.replaced(np.empty((count, 0)), light.status, quantity), state
        values = light.values
        dark = values < at - half
        # What is neither below the band nor above it: between, or no number.
        held = np.logical_not(dark | (values > at + half))
        states = dark.astype(np.float64)
        after = states[:, -1].tolist()
        for lane in np.flatnonzero(held.any(axis=1)).tolist():
            before = None if state is None else state[lane]
            _hold(states[lane], held[lane], values[lane], float(at[lane, 0]), before)
            is_told = before is not None or not np.isnan(values[lane]).all()
            after[lane] = float(states[lane, -1]) if is_told else None
        return light.replaced(states, light.status, quantity), tuple(after)

    def _levels(self, count: int) -> tuple[FloatArray, FloatArray]:
        """Threshold and half the band of every lane, shape (lanes, 1)."""
        at = np.broadcast_to(np.array(self.at), count)
        half = np.broadcast_to(np.array(self.half), count)
        return at[:, np.newaxis], half[:, np.newaxis]

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow, lanes = entering[0], []
        at, half = self._levels(len(flow.lanes))
        for n, lane in enumerate(flow.lanes, start=1):
            middle = code.constant(f"at_{n}", float(at[n - 1, 0]), "", None, self.basis)
            band = code.constant(f"half_{n}", float(half[n - 1, 0]), "", None, self.basis)
            was = code.state("was")
            first = pick(is_number(lane.value), pick(lane.value < middle, DARK, LIGHT), was)
            held = pick(is_number(was), was, first)
            dark, light = lane.value < middle - band, lane.value > middle + band
            code.set(was, pick(dark, DARK, pick(light, LIGHT, held)))
            lanes.append(lane.of(pick(is_number(was), was, LIGHT)))
        return flow.of(*lanes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample of each lane."""
        reading = readings[0]
        here = one_sample(reading)
        result, _ = self.run(state, here)
        lanes = [
            Lane(float(value), lane.status)
            for value, lane in zip(result.values[:, 0], reading.lanes, strict=True)
        ]
        said = reading.quantity.said
        at, half = self.at[0], self.half[0]
        low, high = said(at - half, 1), said(at + half, 1)
        value = reading.value
        if value != value:
            filled = reading.status.word
        elif value < at - half:
            filled = f"{said(value, 1)} is below {low}"
        elif value > at + half:
            filled = f"{said(value, 1)} is above {high}"
        else:
            filled = f"{said(value, 1)} lies in the band {low} to {high}: as before"
        return Step(
            stage=self.name,
            label="dark or light",
            sign="→",
            operand=Operand(None, "", 0.0, f"dark below {low}"),
            formula="dark if L < t − h; light if L > t + h; else as before",
            filled=filled,
            value=lanes[0].value,
            quantity=result.quantity,
            status=lanes[0].status,
            components=(),
            source=self.basis,
            note=lanes[0].status.remark,
            others=tuple(lanes[1:]),
        )


def _hold(
    states: FloatArray, held: np.ndarray, values: FloatArray, at: float, before: float | None
) -> None:
    """Give each sample that is held the state of the last one before it that is not."""
    waiting = np.flatnonzero(held)
    told = np.flatnonzero(~held)
    place = np.searchsorted(told, waiting) - 1
    known = place >= 0
    states[waiting[known]] = states[told[place[known]]]
    first = waiting[~known]
    if first.size:
        if before is None:
            # The very first that has a value decides; what comes before it counts as light.
            good = np.flatnonzero(~np.isnan(values[first]))
            start = int(good[0]) if good.size else len(first)
            states[first[:start]] = LIGHT
            if good.size:
                states[first[start:]] = DARK if values[first[start]] < at else LIGHT
        else:
            states[first] = before
