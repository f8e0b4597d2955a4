"""The board's clock as one line that never runs back: wraps undone, restarts seen."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from tickstone.core.blocks import IntArray
from tickstone.core.lines.names import TIME_UNITS_US
from tickstone.core.signal import FloatArray

WORD_BITS = (16, 32)
_STEPS_ACROSS = 3.0
_DAY_US = 86_400e6
MOST_US = 2.0**61
"""Some 73 000 years."""

Event = Literal["", "wrap", "restart"]


@dataclass(slots=True)
class BoardClock:
    """Turns the times a board prints into µs since its first line.

    unit: key of `names.TIME_UNITS_US`, or "clock" for a time of day.
    word_bits: width of the counter, once a wrap has shown it.

    A fall is a wrap when, taken as one, it is a step of at most three times the usual; or when a
    clock passes midnight. Any other fall is a restart: then time goes on by the host's clock.

    >>> clock = BoardClock("ms")
    >>> [clock.read(t, 0)[0] for t in (65_470.0, 65_500.0, 65_530.0, 24.0)]
    [0, 30000, 60000, 90000]
    """

    unit: str
    wraps: int = 0
    restarts: int = 0
    word_bits: int | None = None
    _last_raw: float | None = None
    _usual_step: float = 0.0
    _base_us: float = 0.0
    _last_us: int = 0
    _last_host_us: int = 0

    def can_be(self, raw: float) -> bool:
        """Whether a printed time leaves room in 64 bits of µs for itself and what may follow."""
        at_us = raw * TIME_UNITS_US.get(self.unit, 1.0)
        on_axis_us = 0.0 if self._last_raw is None else at_us + self._base_us
        return abs(at_us) < MOST_US and on_axis_us < 2.0 * MOST_US

    def read(self, raw: float, host_us: int) -> tuple[int, Event]:
        """The time in µs and what happened to the clock on the way."""
        scale = TIME_UNITS_US.get(self.unit, 1.0)
        event: Event = ""
        if self._last_raw is None:
            self._base_us = -raw * scale
        elif raw < self._last_raw:
            word = self._word_passed(self._last_raw, raw)
            if word:
                event = "wrap"
                self.wraps += 1
                self._base_us += word * scale
            else:
                event = "restart"
                self.restarts += 1
                passed = max(0, host_us - self._last_host_us)
                self._base_us = self._last_us + passed - raw * scale
        else:
            step = raw - self._last_raw
            self._usual_step += (step - self._usual_step) * (0.2 if self._usual_step else 1.0)
        time_us = max(self._last_us, round(raw * scale + self._base_us))
        self._last_raw, self._last_us, self._last_host_us = raw, time_us, host_us
        return time_us, event

    def read_rising(self, raw: FloatArray) -> IntArray | None:
        """Many times at once, when none falls; None, and nothing changed, when one does."""
        if len(raw) == 0:
            return np.empty(0, dtype=np.int64)
        before = raw[0] if self._last_raw is None else self._last_raw
        if raw[0] < before or bool(np.any(raw[1:] < raw[:-1])):
            return None
        scale = TIME_UNITS_US.get(self.unit, 1.0)
        first, _ = self.read(float(raw[0]), self._last_host_us)
        # Differences first: a clock that counts ns since 1970 has more figures than a float.
        times: IntArray = first + np.rint((raw - raw[0]) * scale).astype(np.int64)
        if len(raw) > 1:
            self._usual_step = float(np.median(np.diff(raw[-200:])))
        self._last_raw, self._last_us = float(raw[-1]), int(times[-1])
        return times

    def _word_passed(self, before: float, after: float) -> float:
        """The size of the word that was passed, in the clock's unit; 0 when none was."""
        if self.unit == "clock":
            return _DAY_US if before > 0.9 * _DAY_US and after < 0.1 * _DAY_US else 0.0
        if self.unit == "s":
            return 0.0
        for bits in WORD_BITS:
            word = float(2**bits)
            if before < word and after + word - before <= _STEPS_ACROSS * self._usual_step:
                self.word_bits = bits
                return word
        return 0.0
