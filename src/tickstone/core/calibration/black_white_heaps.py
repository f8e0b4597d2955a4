"""From marked stretches to the heaps of every sensor: by their names, or found in a wave."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from tickstone.core.calibration.kind import Span
from tickstone.core.heaps.heap import Heap
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.heaps.parting import FEWEST, part
from tickstone.core.quantity import COUNTS, LEVEL, REFLECTED, VOLTAGE
from tickstone.core.signal import FloatArray
from tickstone.core.status import Status

WAVE, BLACK, WHITE = "wave", "black", "white"
COMPARED = (COUNTS, VOLTAGE, REFLECTED, LEVEL)
"""What black and white may be known in: by its place here in the statistics of a fit."""
READ = (int(Status.OK), int(Status.CLIPPED))
"""Readings of these are of a surface."""


def heaps_under(spans: Sequence[Span], parameters: Any) -> tuple[LaneHeaps, ...]:
    """The heaps of every lane, as far as they can be told."""
    if not spans:
        return ()
    names = spans[0].signal.quantity.lanes
    samples = [[samples_of(span, lane) for span in spans] for lane in range(len(names))]
    dark_is_high = _dark_is_high(samples, parameters)
    return tuple(
        _lane(name or "1", of_lane, dark_is_high)
        for name, of_lane in zip(names, samples, strict=True)
    )


@dataclass(frozen=True, slots=True)
class Samples:
    """Samples of one lane under one span, and when they were taken."""

    span: Span
    values: FloatArray
    time_s: FloatArray
    clipped: npt.NDArray[np.bool_]


def samples_of(span: Span, lane: int) -> Samples:
    """What a span says of a lane; nothing when it is about another one."""
    signal = span.signal
    read = np.isin(signal.status[lane], READ) & np.isfinite(signal.values[lane])
    is_other = span.lane is not None and span.lane != lane
    if is_other:
        read[:] = False
    return Samples(
        span,
        signal.values[lane, read],
        signal.time_s[read],
        signal.status[lane, read] == Status.CLIPPED,
    )


def _of(samples: Sequence[Samples], name: str) -> list[Samples]:
    return [one for one in samples if one.span.name == name and len(one.values)]


def _values(samples: Sequence[Samples]) -> FloatArray:
    return np.concatenate([one.values for one in samples] or [np.empty(0)])


def _dark_is_high(samples: Sequence[Sequence[Samples]], parameters: Any) -> bool:
    """Whether dark reads higher: by what was held; by waves, the heap seen less is the line."""
    votes = 0.0
    for lane in samples:
        black, white = _values(_of(lane, BLACK)), _values(_of(lane, WHITE))
        if len(black) and len(white):
            votes += math.copysign(1.0, float(np.median(black) - np.median(white)))
        elif len(black) or len(white):
            found = part(_values(_of(lane, WAVE)))
            if not found.why_one:
                held = float(np.median(black if len(black) else white))
                is_high = abs(held - found.high.mean) < abs(held - found.low.mean)
                votes += 1.0 if is_high == bool(len(black)) else -1.0
    if votes:
        return votes > 0.0
    if parameters.more_light != "unknown":
        return bool(parameters.more_light == "lower")
    low, high = _seen(samples)
    line_is_high = high < low
    return line_is_high if parameters.line_is == "dark" else not line_is_high


def _seen(samples: Sequence[Sequence[Samples]]) -> tuple[int, int]:
    """How many samples of all waves lie on the lower heaps, and on the higher."""
    low = high = 0
    for lane in samples:
        found = part(_values(_of(lane, WAVE)))
        if not found.why_one:
            low, high = low + found.low.n, high + found.high.n
    return low, high


def _lane(name: str, samples: Sequence[Samples], dark_is_high: bool) -> LaneHeaps:
    """The heaps of one lane."""
    black, white = _values(_of(samples, BLACK)), _values(_of(samples, WHITE))
    waves = _of(samples, WAVE)
    names = (WHITE, BLACK) if dark_is_high else (BLACK, WHITE)
    found = part(_values(waves), names)
    between, why = 0, ""
    if not found.why_one:
        dark, light = (found.high, found.low) if dark_is_high else (found.low, found.high)
        black = np.concatenate([black, dark.samples()])
        white = np.concatenate([white, light.samples()])
        between = found.between
    elif not (len(black) and len(white)):
        why = found.why_one
        if len(black) or len(white):
            held, other = (BLACK, WHITE) if len(black) else (WHITE, BLACK)
            why = f"only {held} was held; hold {other} as well, or wave"
    others = tuple(
        Heap.of(word, _values([one for one in samples if one.span.name == word]))
        for word in dict.fromkeys(one.span.name for one in samples)
        if word not in (WAVE, BLACK, WHITE)
    )
    heaps = Heap.of(BLACK, black), Heap.of(WHITE, white)
    if not why and min(one.n for one in heaps) < FEWEST:
        why = f"{min(one.n for one in heaps)} samples of a surface; {FEWEST} at least"
    if not why and heaps[0].mean == heaps[1].mean:
        why = "black and white read the same"
    if why and waves and not heaps[0].n and not heaps[1].n:
        # All there is, so that a person sees why.
        heaps = (
            (found.low, Heap.of("", [])) if dark_is_high is False else (Heap.of("", []), found.low)
        )
    return LaneHeaps(
        name,
        *heaps,
        tuple(one for one in others if one.n),
        between,
        sum(int(one.clipped.sum()) for one in samples),
        (_drift(samples, heaps[0]), _drift(samples, heaps[1])),
        why,
    )


def _drift(samples: Sequence[Samples], heap: Heap) -> float:
    """By how many of its standard deviations a heap moved while it was taken."""
    if heap.n < 2 * FEWEST or not heap.sd > 0.0:
        return 0.0
    low, high = heap.values[0], heap.values[-1]
    time_s = np.concatenate([one.time_s for one in samples])
    values = np.concatenate([one.values for one in samples])
    inside = (values >= low) & (values <= high)
    time_s, values = time_s[inside], values[inside]
    if len(time_s) < 2 * FEWEST or not np.ptp(time_s) > 0.0:
        return 0.0
    slope = float(np.polyfit(time_s - time_s.mean(), values, 1)[0])
    return slope * float(np.ptp(time_s)) / heap.sd
