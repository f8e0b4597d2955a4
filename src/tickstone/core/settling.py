"""Decisions that do not flicker: those that wait until they have stood, and those that last."""

from __future__ import annotations

import numpy as np

from tickstone.core.signal import FloatArray

Settling = tuple[float | None, float | None, float | None]
"""The decision that counts, the one that waits, and since when it does, s."""
NOTHING_DECIDED: Settling = (None, None, None)


def settled(
    decision: FloatArray, time_s: FloatArray, dwell_s: float, state: Settling
) -> tuple[FloatArray, Settling]:
    """What counts of each decision: it has to have stood for `dwell_s`. The very first counts.

    decision, time_s: shape (n,), n at least 1.

    >>> codes, times = np.array([0.0, 1.0, 0.0, 1.0, 1.0, 1.0]), np.arange(6) * 0.1
    >>> settled(codes, times, 0.15, NOTHING_DECIDED)[0].tolist()
    [0.0, 0.0, 0.0, 0.0, 0.0, 1.0]
    """
    counts, waits, since_s = state
    if dwell_s <= 0.0:
        return decision, NOTHING_DECIDED
    begins = np.concatenate(([waits is None or waits != decision[0]], np.diff(decision) != 0))
    places = np.maximum.accumulate(np.where(begins, np.arange(len(decision)), -1))
    since = np.where(places >= 0, time_s[places], time_s[0] if since_s is None else since_s)
    stood = time_s - since >= dwell_s
    if counts is None:
        stood[0] = True
    place = np.maximum.accumulate(np.where(stood, np.arange(len(decision)), -1))
    before = decision[0] if counts is None else counts
    result = np.where(place >= 0, decision[place], before)
    return result, (float(result[-1]), float(decision[-1]), float(since[-1]))


Lasting = tuple[float | None, float]
"""What is done, None before anything is, and since when, s."""
NOTHING_DONE: Lasting = (None, 0.0)


def lasting(
    asked: FloatArray,
    time_s: FloatArray,
    least_s: float,
    at_once: frozenset[float],
    state: Lasting,
) -> tuple[FloatArray, Lasting]:
    """What is done when each thing done lasts `least_s` at least; what stands in `at_once` does not
    wait for that.

    asked, time_s: shape (n,), n at least 1.

    >>> asked, times = np.array([0.0, 1.0, 0.0, 0.0, 5.0]), np.arange(5) * 0.1
    >>> lasting(asked, times, 0.25, frozenset({5.0}), NOTHING_DONE)[0].tolist()
    [0.0, 0.0, 0.0, 0.0, 5.0]
    """
    if least_s <= 0.0:
        return asked, NOTHING_DONE
    done, since_s = state
    result = np.empty(len(asked))
    starts = np.concatenate(([0], np.flatnonzero(np.diff(asked)) + 1))
    ends = np.append(starts[1:], len(asked))
    for start, end in zip(starts, ends, strict=True):
        wanted = float(asked[start])
        turns = int(start)
        if done is not None and wanted != done and wanted not in at_once:
            turns += int(np.searchsorted(time_s[start:end], since_s + least_s))
        if done is None or (wanted != done and turns < end):
            result[start:turns] = done
            result[turns:end] = wanted
            done, since_s = wanted, float(time_s[turns])
        else:
            result[start:end] = done
    return result, (done, since_s)
