"""Where something was most likely held still: the stretches a person would mark."""

from __future__ import annotations

import numpy as np

from tickstone.core.signal import Signal

BIN_S = 0.5
LEAST_S = 3.0
_TIMES_NOISE = 4.0


def still_stretches(signal: Signal, steady: float) -> list[tuple[float, float]]:
    """(from, to), s, of stretches of 3 s or more whose half-second medians stay together.

    Together: within `steady` of the first, in the signal's unit, or four times what the medians
    usually scatter; half a second at either end is left off, where a hand may still have moved.

    >>> t = np.arange(0, 20, 0.05)
    >>> d = np.where(t < 8, 0.3, np.where(t < 12, 0.3 + 0.1 * (t - 8), 0.7))
    >>> [(round(a, 1), round(b, 1)) for a, b in still_stretches(Signal.of(t, d), 0.01)]
    [(0.5, 7.5), (12.5, 19.5)]
    """
    good = signal.ok
    time_s, values = signal.time_s[good], signal.value[good]
    if len(values) < 2:
        return []
    bins = np.floor(time_s / BIN_S).astype(np.int64)
    starts = np.flatnonzero(np.diff(bins, prepend=bins[0] - 1))
    numbers = bins[starts]
    medians = np.array([np.median(part) for part in np.split(values, starts[1:])])
    steps = np.abs(np.diff(medians))
    tolerance = max(steady, _TIMES_NOISE * float(np.median(steps)) if len(steps) else 0.0)
    found = []
    first = 0
    for place in range(1, len(medians) + 1):
        is_over = place == len(medians) or (
            numbers[place] > numbers[place - 1] + 2
            or abs(medians[place] - medians[first]) > tolerance
        )
        if is_over:
            start, end = numbers[first] * BIN_S + BIN_S, numbers[place - 1] * BIN_S
            if end - start >= LEAST_S - BIN_S:
                found.append((float(start), float(end)))
            first = place
    return found
