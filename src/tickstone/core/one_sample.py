"""A single reading put back where samples go, so that its working is that of the whole."""

from __future__ import annotations

from tickstone.core.signal import Signal
from tickstone.core.step import Reading


def one_sample(reading: Reading) -> Signal:
    """A reading as a signal of one sample, lane by lane, with its statuses.

    >>> from tickstone.core.quantity import LIGHTNESS
    >>> from tickstone.core.status import Status
    >>> from tickstone.core.step import Lane
    >>> lanes = Lane(0.2, Status.OK), Lane(0.9, Status.FLOODED)
    >>> signal = one_sample(Reading(1.5, LIGHTNESS.in_lanes("1", "2"), lanes))
    >>> signal.values.tolist(), signal.status.tolist()
    ([[0.2], [0.9]], [[0], [23]])
    """
    return Signal.of(
        [reading.time_s],
        [[lane.value] for lane in reading.lanes],
        reading.quantity,
        [[int(lane.status)] for lane in reading.lanes],
    )
