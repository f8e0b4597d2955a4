"""The middle of the last few good readings: a single spike never gets through."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class RunningMedian:
    """Median of the last `n` good samples, this one included; any unit to itself, lane by lane.

    Flagged samples are neither used nor changed. The first samples use what there is.
    State: for each lane its last n − 1 good values.

    n: odd, 1 or more. Adds a lag of (n − 1)/2 samples while the target moves.

    Raises ValueError for an even or non-positive n.

    >>> stage = RunningMedian(3)
    >>> result, state = stage.run(stage.begin(), Signal.of(range(5), [1.0, 1.1, 9.0, 1.2, 1.3]))
    >>> result.value.tolist(), state
    ([1.0, 1.05, 1.1, 1.2, 1.3], ((1.2, 1.3),))
    """

    name: ClassVar[str] = "median"
    own_times: ClassVar[bool] = False

    n: int

    def __post_init__(self) -> None:
        if self.n < 1 or self.n % 2 == 0:
            raise ValueError(f"a median needs an odd number of readings, 1 or more, not {self.n}")

    def gives(self, *taken: Quantity) -> Quantity:
        """The same quantity."""
        return taken[0]

    def begin(self) -> State:
        """No values yet; as many lanes as the first block has."""
        return ()

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The running median over the good samples."""
        signal = signals[0]
        values = signal.values.copy()
        after = []
        for lane in range(len(values)):
            earlier = state[lane] if lane < len(state) else ()
            good = np.flatnonzero(signal.status[lane] == Status.OK)
            recent = np.concatenate([np.array(earlier, dtype=np.float64), values[lane][good]])
            if good.size:
                values[lane][good] = _running_median(recent, self.n)[len(earlier) :]
            after.append(tuple(recent[max(0, len(recent) - self.n + 1) :].tolist()))
        return signal.replaced(values), tuple(after)

    def explain(self, state: State, *readings: Reading) -> Step:
        """The readings the middle one was picked from."""
        reading, quantity = readings[0], readings[0].quantity
        lanes = tuple(
            self._lane(state[number] if number < len(state) else (), lane)
            for number, lane in enumerate(reading.lanes)
        )
        usable = reading.status == Status.OK
        recent = [*(state[0] if state else ()), reading.value]
        listed = ", ".join(quantity.said(value, 3) for value in recent)
        return Step(
            stage=self.name,
            label="middle of",
            sign="⌇",
            operand=Operand(float(self.n), "", 0.0, "good readings"),
            formula=f"median of the last {self.n} good readings",
            filled=f"middle of {listed}" if usable else "flagged: passed on as it is",
            value=lanes[0].value,
            quantity=quantity,
            status=reading.status,
            components=reading.components,
            source="running median; common practice",
            note=(
                f"Lags by {(self.n - 1) // 2} readings while something moves. The budget is kept "
                "as for one reading, which is on the safe side."
            ),
            others=lanes[1:],
        )

    def _lane(self, earlier: tuple[float, ...], lane: Lane) -> Lane:
        if lane.status != Status.OK:
            return lane
        return replace(lane, value=float(np.median([*earlier, lane.value])))


def _running_median(values: FloatArray, n: int) -> FloatArray:
    result = np.empty_like(values)
    for end in range(1, min(n, len(values) + 1)):
        result[end - 1] = np.median(values[:end])
    if len(values) >= n:
        windows = np.lib.stride_tricks.sliding_window_view(values, n)
        if n == 3:
            first, second, third = windows[:, 0], windows[:, 1], windows[:, 2]
            low, high = np.minimum(first, second), np.maximum(first, second)
            result[n - 1 :] = np.maximum(low, np.minimum(high, third))
        else:
            result[n - 1 :] = np.partition(windows, n // 2, axis=1)[:, n // 2]
    return result
