"""Filters side by side: what noise each leaves of a recording, and what that costs."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import median_filter

from tickstone.core.calibration.stillness import still_stretches
from tickstone.core.chain import Stage
from tickstone.core.signal import FloatArray, Signal

MOST = 6
_STEP_SAMPLES = 1_000
_SPIKE_OF, _SPIKE_SIGMAS = 9, 6.0
_BIN_S = 0.5
_QUIETEST, _AS_QUIET = 0.2, 2.5
_WILD = 20.0
_TRIFLE = 0.02
"""Share of what one reading to the next changes by that is no difference worth telling."""
_AFTER = 25
"""Samples over which what is left of a spike is looked for."""


@dataclass(frozen=True, slots=True)
class Asked:
    """A filter as it is typed, and its stage. is_hindsight: run there and back, as no rig can."""

    words: str
    stage: Stage
    is_hindsight: bool = False


@dataclass(frozen=True, slots=True)
class Known:
    """What a comparison rests on: of the recording as it came.

    noise: standard deviation held still, in the unit; stretches_s: where it was; none where noise
    is told of the differences from one reading to the next. span: from its 5th to its 95th percent;
    spikes: places of single wild readings. gap_s: usual time between readings.
    """

    noise: float
    stretches_s: tuple[tuple[float, float], ...]
    span: float
    spikes: tuple[int, ...]
    gap_s: float


@dataclass(frozen=True, slots=True)
class Compared:
    """One filter on a recording. Times s; NaN where it cannot be told.

    noise: left of it, in the unit; rise_s: from 10 to 90 % of a step; delay_s: how much later
    it shows what changes evenly; overshoot: beyond a step, a share; spike: of a single one, the
    share that is left; spikes: of those in the recording, how many still stand out by half;
    costs_m: what the delay costs on the way to a stop. values: the good readings after it.
    """

    words: str
    noise: float
    rise_s: float
    delay_s: float
    overshoot: float
    spike: float
    spikes: int
    costs_m: float
    is_hindsight: bool
    values: FloatArray


def good_of(signal: Signal) -> Signal:
    """Those samples of one lane that are measurements."""
    good = signal.ok & ~np.isnan(signal.value)
    return Signal.of(signal.time_s[good], signal.value[good], signal.quantity)


def known_of(signal: Signal) -> Known:
    """What the filters are compared on. signal: one lane.

    Raises ValueError for fewer than 20 good readings.

    >>> rng = np.random.default_rng(1)
    >>> known = known_of(Signal.of(np.arange(4000) / 20, rng.normal(1.0, 0.1, 4000)))
    >>> round(known.noise, 2), len(known.spikes)
    (0.1, 0)
    """
    signal = good_of(signal)
    time_s, values = signal.time_s, signal.value
    if len(values) < 20:
        raise ValueError(
            f"{len(values)} good readings are too few to compare filters on; 20 at least"
        )
    gaps = np.diff(time_s)
    gap_s = float(np.median(gaps[gaps > 0.0])) if (gaps > 0.0).any() else 0.05
    rough = float(np.median(np.abs(np.diff(values)))) / 0.6745 / math.sqrt(2.0)
    # Looked at from both sides: what only moves on is no spike.
    middle = median_filter(values, size=_SPIKE_OF, mode="nearest")
    off = np.abs(values - middle)
    scatter = 1.4826 * median_filter(off, size=3 * _SPIKE_OF, mode="nearest")
    wild = off > _SPIKE_SIGMAS * np.maximum(scatter, rough)
    spikes = np.flatnonzero(wild)
    gated = np.where(wild, middle, values)
    low, high = np.percentile(values, [5.0, 95.0])
    stretches = _quiet(time_s, gated, still_stretches(Signal.of(time_s, gated), 3.0 * rough))
    noise = _scatter_over(time_s, gated, stretches)
    if math.isnan(noise):
        noise = rough
    return Known(noise, tuple(stretches), float(high - low), tuple(spikes.tolist()), gap_s)


def _quiet(
    time_s: FloatArray, values: FloatArray, stretches: Sequence[tuple[float, float]]
) -> list[tuple[float, float]]:
    """Of stretches whose middle stays those parts that do not shake either: as quiet, or nearly so,
    as the quietest.
    """
    bins = []
    for start, end in stretches:
        for begin in np.arange(start, end - _BIN_S / 2.0, _BIN_S).tolist():
            inside = (time_s >= begin) & (time_s < begin + _BIN_S)
            if np.count_nonzero(inside) > 3:
                bins.append((begin, float(values[inside].std(ddof=1))))
    if not bins:
        return list(stretches)
    quietest = sorted(sd for _, sd in bins)[: max(1, int(_QUIETEST * len(bins)))]
    limit = _AS_QUIET * max(float(np.median(quietest)), 1e-300)
    found: list[tuple[float, float]] = []
    for begin, sd in bins:
        if sd > limit:
            continue
        if found and abs(found[-1][1] - begin) < 1e-6:
            found[-1] = (found[-1][0], begin + _BIN_S)
        else:
            found.append((begin, begin + _BIN_S))
    return [one for one in found if one[1] - one[0] >= 2.0 * _BIN_S]


def compare(
    signal: Signal, filters: Sequence[Asked], speed_m_per_s: float = 0.0
) -> tuple[Known, list[Compared]]:
    """Every filter on a recording, in order; the first line is that of none. signal: one lane.

    Raises ValueError for too little to compare on, or more than six.

    >>> from tickstone.core.stages.moving_average import MovingAverage
    >>> rng = np.random.default_rng(1)
    >>> noisy = Signal.of(np.arange(4000) / 20, rng.normal(1.0, 0.1, 4000))
    >>> _, (none, mean) = compare(noisy, [Asked("mean:n=5", MovingAverage(5))], 1.0)
    >>> round(mean.delay_s, 3), round(mean.costs_m, 3), round(none.noise / mean.noise, 1)
    (0.1, 0.1, 2.2)
    """
    if len(filters) > MOST:
        raise ValueError(f"{MOST} filters at most are compared at once")
    plain = good_of(signal)
    known = known_of(plain)
    made = _Made.of(plain, known)
    return known, [_row(one, plain, known, made, speed_m_per_s) for one in (None, *filters)]


def filtered(stage: Stage | None, signal: Signal, is_hindsight: bool = False) -> FloatArray:
    """The values after a filter. is_hindsight: there and back, so that nothing is late."""
    if stage is None:
        return signal.value
    there = stage.run(stage.begin(), signal)[0]
    if not is_hindsight or len(signal) == 0:
        return there.value
    turned_s = signal.time_s[-1] - signal.time_s[::-1]
    back = Signal(turned_s, there.values[:, ::-1], there.status[:, ::-1], signal.quantity)
    result: FloatArray = stage.run(stage.begin(), back)[0].value[::-1]
    return result


@dataclass(frozen=True, slots=True)
class _Made:
    """Made-up signals at the times of the recording: a step, an even change, a spike, noise."""

    time_s: FloatArray
    place: int
    step: FloatArray
    ramp: FloatArray
    spike: FloatArray
    noise: FloatArray
    height: float

    @classmethod
    def of(cls, signal: Signal, known: Known) -> _Made:
        gaps = np.diff(signal.time_s)
        # As uneven as it is, but without its silences.
        gaps = np.where((gaps > 0.0) & (gaps < 5.0 * known.gap_s), gaps, known.gap_s)
        gaps = np.resize(gaps, 2 * _STEP_SAMPLES) if len(gaps) else np.full(2 * _STEP_SAMPLES, 0.05)
        time_s = np.concatenate(([0.0], np.cumsum(gaps)))
        place = _STEP_SAMPLES
        after = np.arange(len(time_s)) >= place
        height = known.span if known.span > 0.0 else max(known.noise, 1.0)
        slope = height / max(1e-9, float(time_s[-1] - time_s[place]))
        ramp = np.where(after, slope * (time_s - time_s[place]), 0.0)
        # Wild enough to be one, however quiet the recording is.
        wild = max(height, _WILD * known.noise)
        spike = np.where(np.arange(len(time_s)) == place, wild, 0.0)
        rng = np.random.default_rng(0)
        noise = rng.normal(0.0, known.noise, len(time_s)) if known.noise else np.zeros(len(time_s))
        return cls(time_s, place, np.where(after, height, 0.0), ramp, spike, noise, height)

    def through(self, stage: Stage | None, values: FloatArray, is_hindsight: bool) -> FloatArray:
        return filtered(stage, Signal.of(self.time_s, values), is_hindsight)


def _row(
    asked: Asked | None, signal: Signal, known: Known, made: _Made, speed_m_per_s: float
) -> Compared:
    stage = asked.stage if asked is not None else None
    is_hindsight = asked is not None and asked.is_hindsight
    values = filtered(stage, signal, is_hindsight)
    left = known.noise
    if stage is not None:
        left = _scatter_over(signal.time_s, values, known.stretches_s)
        if math.isnan(left):
            through = made.through(stage, made.noise, is_hindsight)
            left = float(through[made.place :].std(ddof=1))
    step = made.through(stage, made.step, is_hindsight) / made.height
    rise_s = _crossing(made, step, 0.9) - _crossing(made, step, 0.1)
    ramp = made.through(stage, made.ramp, is_hindsight)
    last = len(made.time_s) - 1
    slope = made.ramp[last] / (made.time_s[last] - made.time_s[made.place])
    behind = (made.ramp[made.place + _STEP_SAMPLES // 2 : last + 1]
              - ramp[made.place + _STEP_SAMPLES // 2 : last + 1])  # fmt: skip
    half = len(behind) // 2
    first, second = float(np.median(behind[:half])), float(np.median(behind[half:]))
    # What still falls further behind, by more than a trifle of one reading, has a longer delay than
    # this is long.
    trifle = _TRIFLE * known.gap_s * float(slope)
    runs_in = abs(second - first) <= 0.05 * abs(second) + trifle
    delay_s = max(0.0, second / float(slope)) if runs_in else math.nan
    spike = made.through(stage, made.spike, is_hindsight) / float(made.spike.max())
    near = slice(max(0, made.place - _AFTER), made.place + _AFTER)
    return Compared(
        words=asked.words if asked is not None else "none",
        noise=left,
        rise_s=rise_s if math.isnan(rise_s) else max(0.0, rise_s),
        delay_s=delay_s,
        overshoot=max(0.0, float(step.max()) - 1.0),
        spike=float(np.abs(spike[near]).max()),
        spikes=_spikes_left(signal, values, known),
        costs_m=delay_s * speed_m_per_s,
        is_hindsight=is_hindsight,
        values=values,
    )


def _scatter_over(
    time_s: FloatArray, values: FloatArray, stretches: Sequence[tuple[float, float]]
) -> float:
    """Standard deviation within the stretches, each off its own mean; NaN where there are none."""
    parts = [values[(time_s >= start) & (time_s < end)] for start, end in stretches]
    parts = [part for part in parts if len(part) > 2]
    if not parts:
        return math.nan
    squares = sum(len(part) * float(part.var(ddof=1)) for part in parts)
    return math.sqrt(squares / sum(map(len, parts)))


def _crossing(made: _Made, step: FloatArray, level: float) -> float:
    """When the answer to a step first passes a level, between two readings, s."""
    above = np.flatnonzero(step >= level)
    if above.size == 0:
        return math.nan
    place = int(above[0])
    if place == 0 or step[place] == step[place - 1]:
        return float(made.time_s[place])
    share = (level - step[place - 1]) / (step[place] - step[place - 1])
    return float(made.time_s[place - 1] + share * (made.time_s[place] - made.time_s[place - 1]))


def _spikes_left(signal: Signal, values: FloatArray, known: Known) -> int:
    count = 0
    for place in known.spikes:
        around = [k for k in (place - 2, place - 1, place + 1, place + 2) if 0 <= k < len(values)]
        height = abs(signal.value[place] - float(np.median(signal.value[around])))
        reach = values[place : place + _AFTER]
        base = float(np.median(values[max(0, place - 4) : place])) if place else float(values[0])
        if height > 0.0 and float(np.abs(reach[:3] - base).max()) > 0.5 * height:
            count += 1
    return count
