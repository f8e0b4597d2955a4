"""A row held still over one surface, or without its lamps: one heap a lane, if it was still."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from tickstone.core.calibration.black_white_heaps import samples_of
from tickstone.core.calibration.kind import Span
from tickstone.core.heaps.heap import Heap
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.quantity import COUNTS, VOLTAGE, Quantity
from tickstone.core.signal import Signal
from tickstone.core.studies.kind import Taken

FEWEST = 20
_STRETCHES = 8
_SIGMAS = 4.0
LEAST_MOVE = 0.012
"""Of all that can be read: what a lamp warming up, or the hum of the room, may bring."""
FULL_SCALE = "full_scale"
"""The fact of a held cell: the upper end of what can be read, lane by lane."""


def held(key: str, signal: Signal, parameters: Any) -> Taken:
    """One heap a lane, and the full scale. Raises ValueError when it was not held still."""
    full = full_scale(signal.quantity, parameters)
    lanes = _held_lanes(signal, LEAST_MOVE * full)
    return Taken(key, tuple(lanes), len(signal), {FULL_SCALE: [full] * len(lanes)})


def full_scale(quantity: Quantity, parameters: Any) -> float:
    """The upper end of what is compared: the last code, the reference, or all of the light."""
    if quantity.name == COUNTS.name:
        return float(2**parameters.bits - 1)
    return float(parameters.reference_v) if quantity.name == VOLTAGE.name else 1.0


def _held_lanes(signal: Signal, least_move: float) -> list[LaneHeaps]:
    lanes = []
    for place, name in enumerate(signal.quantity.lanes):
        samples = samples_of(Span("", signal), place)
        values = samples.values
        if len(values) < FEWEST:
            raise ValueError(f"sensor {name or '1'}: {len(values)} samples; {FEWEST} at least")
        moved, noise = moved_and_noise(values)
        if moved > max(_SIGMAS * noise, least_move):
            raise ValueError(
                f"sensor {name or '1'} moved by {moved:.3g} meanwhile; hold it still, and shade "
                "neither it nor the lamp"
            )
        clipped = int(np.count_nonzero(samples.clipped))
        still = Heap.of("room", values)
        lanes.append(LaneHeaps(name or "1", Heap.of("", []), still, clipped=clipped))
    return lanes


def moved_and_noise(values: npt.NDArray[np.float64]) -> tuple[float, float]:
    """How far the means of eight stretches lie apart, and the noise from one sample to the next.

    To and fro shows as well as one way, which no trend would. The noise is by the middle step
    between neighbours, which a few jumps leave alone.

    >>> moved_and_noise(np.array([5.0, 7.0] * 40))[0]
    0.0
    >>> moved_and_noise(np.repeat([0.0, 100.0, 0.0, 100.0], 20))
    (100.0, 0.0)
    """
    means = [float(np.mean(part)) for part in np.array_split(values, _STRETCHES)]
    noise = float(np.median(np.abs(np.diff(values)))) * 1.4826 / np.sqrt(2.0)
    return max(means) - min(means), float(noise)
