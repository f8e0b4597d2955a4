"""Distance in, decision out: stop, clear, or stop because nothing is heard."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import Operand, Reading, Step
from tickstone.core.reading_units import length, typed_length
from tickstone.core.signal import Signal
from tickstone.core.status import Status


class Decision(IntEnum):
    """What the rig should do."""

    CLEAR = 0
    STOP = 1
    BLIND = 2

    @property
    def word(self) -> str:
        """As shown to a person.

        >>> Decision.BLIND.word
        'blind: stop'
        """
        return {0: "clear", 1: "stop", 2: "blind: stop"}[self.value]


@dataclass(frozen=True, slots=True)
class StopThreshold:
    """Two thresholds with a dead band between: stop below one, go again above the other.

    stop_m < go_m: m. In between the last decision stands, so a reading on the edge cannot dither.
    blind_stop_s: s without any evidence after which the decision is `BLIND`.
    silence_is_clear: whether "no echo" and "timed out" count as evidence of an empty way. Off by
        default: a soft or slanted thing close by is silent too.
    Before the first evidence the decision is STOP. "Too near" means stop, "too far" means clear.

    Raises ValueError unless 0 ≤ stop_m < go_m.

    >>> stage = StopThreshold(0.42, 0.50, 0.25, False)
    >>> distance = Signal.of([0, 0.05, 0.1, 0.15], [0.6, 0.45, 0.4, 0.45], "m")
    >>> stage.apply(distance).values.tolist()
    [0.0, 0.0, 1.0, 1.0]
    """

    name: ClassVar[str] = "threshold"
    pointwise: ClassVar[bool] = False

    stop_m: float
    go_m: float
    blind_stop_s: float
    silence_is_clear: bool

    def __post_init__(self) -> None:
        if not 0.0 <= self.stop_m < self.go_m:
            raise ValueError(
                f"stop below {self.stop_m:g} m and go again above {self.go_m:g} m leave no band "
                "between; the second has to be the larger"
            )

    def apply(self, signal: Signal) -> Signal:
        """`Decision` codes, one per sample."""
        if len(signal) == 0:
            return signal.replaced(signal.values, "decision")
        stop, clear = self._evidence(signal)
        heard_at = _last_time_where(stop | clear | signal.ok, signal.time_s)
        blind = signal.time_s - heard_at > self.blind_stop_s
        verdict = np.where(stop | blind, Decision.STOP, Decision.CLEAR).astype(np.float64)
        last = np.maximum.accumulate(
            np.where(stop | clear | blind, np.arange(len(signal)), -1), dtype=np.int64
        )
        state = np.where(last >= 0, verdict[last], float(Decision.STOP))
        state[blind] = Decision.BLIND
        return signal.replaced(state, "decision")

    def is_settled(self, earlier: Signal) -> bool:
        """Whether there is any evidence; the decision stands on the last of it."""
        stop, clear = self._evidence(earlier)
        return bool(stop.any() or clear.any())

    def explain(self, reading: Reading) -> Step:
        """The decision at one sample, from all that went before it."""
        decision = Decision(int(self.apply(reading.earlier).values[-1]))
        if reading.status != Status.OK:
            filled = f"{reading.status.word}"
        elif reading.value < self.stop_m:
            filled = f"{length(reading.value, 3)} is below {typed_length(self.stop_m)}"
        elif reading.value > self.go_m:
            filled = f"{length(reading.value, 3)} is above {typed_length(self.go_m)}"
        else:
            filled = f"{length(reading.value, 3)} lies in the band: the last decision stands"
        return Step(
            stage=self.name,
            label=f"stop below {typed_length(self.stop_m)}",
            sign="→",
            operand=Operand(None, "", 0.0, f"go again above {typed_length(self.go_m)}"),
            formula="stop if d < stop; clear if d > go; else as before",
            filled=filled,
            value=float(decision),
            unit="decision",
            status=reading.status,
            components=(),
            source="threshold with hysteresis; common practice",
            note=decision.word,
        )

    def _evidence(self, signal: Signal) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
        ok = signal.ok
        stop = (ok & (signal.values < self.stop_m)) | (signal.status == Status.TOO_NEAR)
        clear = (ok & (signal.values > self.go_m)) | (signal.status == Status.TOO_FAR)
        if self.silence_is_clear:
            clear |= (signal.status == Status.NO_ECHO) | (signal.status == Status.TIMED_OUT)
        return stop, clear


def _last_time_where(
    mask: npt.NDArray[np.bool_], time_s: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """For each sample the time of the latest one with mask set; the start before there is any."""
    latest = np.maximum.accumulate(np.where(mask, np.arange(len(mask)), 0))
    return time_s[latest]
