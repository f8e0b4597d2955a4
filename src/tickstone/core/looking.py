"""What a stretch of samples holds: statistics, pulses, histogram, spectrum."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tickstone.core.signal import FloatArray

_MOST_BARS = 48
_LONGEST_SEGMENT = 4_096
_FEWEST_FOR_SPECTRUM = 16
_AROUND, _FEWEST_TO_SCATTER = 15, 20


@dataclass(frozen=True, slots=True)
class Selection:
    """A stretch, looked into. sd, lowest …: of the good samples, in `unit`; NaN when there is none.

    interval_sd_s: how uneven the sampling is. pulses: rises through the middle, with a quarter of
    the height to either side so that noise does not count. at: value and time at both ends.
    spectrum: amplitude density, unit/√Hz, by Welch's method.
    """

    unit: str
    n: int
    flagged: int
    mean: float
    sd: float
    lowest: float
    highest: float
    rate_hz: float
    interval_sd_s: float
    ends: tuple[tuple[float, float], tuple[float, float]]
    pulses: int
    pulse_hz: float
    histogram_edges: FloatArray
    histogram: FloatArray
    spectrum_hz: FloatArray
    spectrum: FloatArray
    spectrum_note: str


def describe(
    time_s: FloatArray,
    values: FloatArray,
    is_good: np.ndarray,
    unit: str,
    is_count: bool = False,
) -> Selection:
    """Statistics of samples. is_count: the values are a running count of pulses themselves.

    >>> t = np.arange(1000) / 100.0
    >>> found = describe(t, np.sin(2 * np.pi * 5 * t), np.ones(1000, bool), "g")
    >>> round(found.pulse_hz, 2), round(found.sd, 3)
    (5.0, 0.707)
    >>> round(float(found.spectrum_hz[found.spectrum.argmax()]), 2)
    5.0
    """
    good, at = values[is_good], time_s[is_good]
    n = len(good)
    nan = math.nan
    steps = np.diff(time_s)
    pulses, pulse_hz = _pulses(at, good, is_count)
    edges, bars = _histogram(good)
    hertz, density, note = spectrum_of(at, good)
    return Selection(
        unit=unit,
        n=n,
        flagged=len(values) - n,
        mean=float(good.mean()) if n else nan,
        sd=float(good.std(ddof=1)) if n > 1 else nan,
        lowest=float(good.min()) if n else nan,
        highest=float(good.max()) if n else nan,
        rate_hz=(len(time_s) - 1) / float(time_s[-1] - time_s[0])
        if len(time_s) > 1 and time_s[-1] > time_s[0]
        else nan,
        interval_sd_s=float(steps.std()) if len(steps) > 1 else nan,
        ends=(
            (float(at[0]), float(good[0])) if n else (nan, nan),
            (float(at[-1]), float(good[-1])) if n else (nan, nan),
        ),
        pulses=pulses,
        pulse_hz=pulse_hz,
        histogram_edges=edges,
        histogram=bars,
        spectrum_hz=hertz,
        spectrum=density,
        spectrum_note=note,
    )


def _pulses(time_s: FloatArray, values: FloatArray, is_count: bool) -> tuple[int, float]:
    if len(values) < 2:
        return 0, math.nan
    if is_count:
        rises = np.flatnonzero(np.diff(values) > 0) + 1
        pulses = int(np.maximum(np.diff(values), 0).sum())
        if len(rises) < 2:
            return pulses, math.nan
        counted = float(values[rises[-1]] - values[rises[0]])
        return pulses, counted / float(time_s[rises[-1]] - time_s[rises[0]])
    low, high = float(values.min()), float(values.max())
    if high <= low:
        return 0, math.nan
    middle, band = (low + high) / 2, (high - low) / 8
    side = np.where(values > middle + band, 1, np.where(values < middle - band, -1, 0))
    known = np.flatnonzero(side)
    rises = known[1:][(side[known[1:]] == 1) & (side[known[:-1]] == -1)]
    if len(rises) < 2:
        return len(rises), math.nan
    return len(rises), (len(rises) - 1) / float(time_s[rises[-1]] - time_s[rises[0]])


def _histogram(values: FloatArray) -> tuple[FloatArray, FloatArray]:
    if len(values) == 0:
        return np.empty(0), np.empty(0)
    low, high = float(values.min()), float(values.max())
    if high == low:
        return np.array([low - 0.5, low + 0.5]), np.array([float(len(values))])
    bars = int(min(_MOST_BARS, max(5, math.ceil(math.sqrt(len(values))))))
    if np.array_equal(values, np.rint(values)):
        # Whole numbers: every bar takes the same number of them, or the picture shows a comb.
        width = max(1, math.ceil((high - low + 1) / bars))
        edges = np.arange(low - 0.5, high + width, width)
    else:
        edges = np.linspace(low, high, bars + 1)
    counts, edges = np.histogram(values, edges)
    return edges, counts.astype(np.float64)


def scatter_about_drift(values: FloatArray) -> float:
    """Standard deviation about a mean of the fifteen around; NaN for fewer than twenty.

    What a value takes of its own mean is given back: with noise alone it is that of the noise.

    >>> rng = np.random.default_rng(1)
    >>> round(scatter_about_drift(np.linspace(0, 50, 5000) + rng.normal(0, 0.2, 5000)), 2)
    0.2
    """
    if len(values) < _FEWEST_TO_SCATTER:
        return math.nan
    half = _AROUND // 2
    mean = np.convolve(values, np.full(_AROUND, 1.0 / _AROUND), mode="valid")
    return float(np.std(values[half:-half] - mean)) / math.sqrt(1.0 - 1.0 / _AROUND)


def spectrum_of(time_s: FloatArray, values: FloatArray) -> tuple[FloatArray, FloatArray, str]:
    """Frequencies, Hz, amplitude density, unit/√Hz, by Welch’s method, and what there is to say."""
    empty = np.empty(0)
    if len(values) < _FEWEST_FOR_SPECTRUM:
        return empty, empty, f"needs {_FEWEST_FOR_SPECTRUM} good samples"
    step = float(np.median(np.diff(time_s)))
    if step <= 0:
        return empty, empty, "the samples carry the same time; no spectrum can be told"
    even = np.arange(time_s[0], time_s[-1] + step / 2, step)[: 2 * len(values)]
    resampled = np.interp(even, time_s, values)
    from scipy import signal as scipy_signal  # three quarters of a second, and seldom needed

    segment = min(len(even), _LONGEST_SEGMENT)
    hertz, power = scipy_signal.welch(
        resampled, fs=1.0 / step, nperseg=segment, detrend="constant", scaling="density"
    )
    uneven = float(np.std(np.diff(time_s))) / step
    note = f"Welch’s method, {segment} samples a segment, taken as even at {1 / step:.4g} Hz"
    if uneven > 0.02:
        note += f"; the real intervals scatter by {100 * uneven:.0f} %"
    return hertz[1:], np.sqrt(power[1:]), note
