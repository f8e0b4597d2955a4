"""Pictures of a line for one page: new samples, thinned to what its screen can show.

A page that falls behind gets fewer pictures; the next one starts where the last one ended on its
screen, so that nothing is shown wrongly. Samples are never touched here.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray, StatusArray
from tickstone.core.status import Status
from tickstone.core.thin import lowest_highest
from tickstone.work.live.folds import LiveFold, LiveSensor
from tickstone.work.live.ring import Ring

MOST_POINTS = 2_000


@dataclass(frozen=True, slots=True)
class Trace:
    """A thinned line. value: None where nothing can be drawn; flag: a status code or 0."""

    value: list[float | None]
    flag: list[int]


@dataclass(frozen=True, slots=True)
class ChainedTrace:
    """What a sensor's chain gave, at its own times, s."""

    time_s: list[float]
    trace: Trace


@dataclass(frozen=True, slots=True)
class Frame:
    """One picture. from_s: what the page drew from here on is replaced by this.

    time_s: shape (n,). raw: a trace for each channel. chained: what the chains of sensors gave, by
    their first channel. newest: the last raw value of each channel with its status.
    arrived_us: host time of the newest sample, µs since 1970.
    """

    from_s: float
    time_s: list[float]
    raw: list[Trace]
    chained: dict[int, ChainedTrace]
    newest: list[tuple[float | None, int]]
    arrived_us: int
    samples: int
    skipped: int


@dataclass(slots=True)
class Painter:
    """Makes frames for one page. window_s: width of its screen in time; columns: in pixels."""

    window_s: float = 10.0
    columns: int = 800
    _next: int = 0
    _ring: Ring | None = None
    _drawn_to: int = field(default=-1)
    _folds: dict[int, LiveFold] = field(default_factory=dict)

    def frame(self, ring: Ring, sensors: dict[int, LiveSensor]) -> Frame | None:
        """The picture of what is new; None when nothing is. sensors: by their first channel."""
        if ring is not self._ring:
            self._ring, self._next, self._drawn_to = ring, 0, -1
            self._folds.clear()
        if ring.total == self._next:
            return None
        width_us = max(1, round(1e6 * self.window_s / self.columns))
        latest = ring.since(ring.total - 1)
        horizon_us = int(latest.time_us[-1]) - round(self.window_s * 1.2e6)
        start_us = horizon_us
        if self._drawn_to >= 0:
            # The bucket drawn last was most likely not full yet: it is drawn again.
            start_us = max(horizon_us, self._drawn_to // width_us * width_us)
        first = ring.first_at_or_after(start_us)
        skipped = max(0, first - self._next)
        fresh = ring.since(first)
        drawn, places = _buckets(fresh.time_us, start_us, width_us)
        raw = [_trace(fresh.values[c], fresh.status[c], places) for c in range(ring.channels)]
        chained = {
            channel: self._chained(ring, channel, sensor, start_us, width_us)
            for channel, sensor in sensors.items()
            if max(sensor.channels) < ring.channels
        }
        self._next = fresh.first + len(fresh)
        self._drawn_to = int(fresh.time_us[-1])
        return Frame(
            from_s=start_us / 1e6,
            time_s=np.round(drawn / 1e6, 6).tolist(),
            raw=raw,
            chained=chained,
            newest=[
                (
                    None if math.isnan(fresh.values[c, -1]) else float(fresh.values[c, -1]),
                    int(fresh.status[c, -1]),
                )
                for c in range(ring.channels)
            ],
            arrived_us=int(fresh.host_us[-1]),
            samples=self._next,
            skipped=skipped,
        )

    def fold(self, channel: int) -> LiveFold | None:
        """What the sensor of a channel gave so far."""
        return self._folds.get(channel)

    def _chained(
        self, ring: Ring, channel: int, sensor: LiveSensor, start_us: int, width_us: int
    ) -> ChainedTrace:
        fold = self._folds.get(channel)
        if fold is None or fold.sensor != sensor:
            fold = self._folds[channel] = LiveFold(sensor)
        fold.advance(ring)
        signal = fold.since(start_us / 1e6)
        time_us = np.rint(signal.time_s * 1e6).astype(np.int64)
        drawn, places = _buckets(time_us, start_us, width_us)
        return ChainedTrace(
            np.round(drawn / 1e6, 6).tolist(), _trace(signal.value, signal.flag, places)
        )


Places = tuple[npt.NDArray[np.intp], npt.NDArray[np.intp], bool]


def _buckets(
    time_us: npt.NDArray[np.int64], start_us: int, width_us: int
) -> tuple[npt.NDArray[np.float64], Places]:
    """Times to draw at, and where each bucket begins and ends. Thinned only when it has to be."""
    begin = int(np.searchsorted(time_us, start_us))
    count = len(time_us) - begin
    buckets = time_us[begin:] // width_us
    starts = begin + np.concatenate(([0], np.flatnonzero(np.diff(buckets)) + 1)).astype(np.intp)
    if count == 0:
        empty = np.empty(0, dtype=np.intp)
        return np.empty(0), (empty, empty, False)
    if count <= 2 * len(starts):
        places = np.arange(begin, len(time_us), dtype=np.intp)[-MOST_POINTS:]
        return time_us[places].astype(np.float64), (places, places + 1, False)
    starts = starts[-MOST_POINTS // 2 :]
    ends = np.append(starts[1:], len(time_us)).astype(np.intp)
    # Both points of a column stand within it, wherever its first sample does: so they never lie
    # beyond the beginning of the next picture.
    columns = time_us[starts] // width_us
    times = np.repeat(np.maximum(columns * width_us, start_us).astype(np.float64), 2)
    times[1::2] = (times[0::2] + (columns + 1) * width_us) / 2
    return times, (starts, ends, True)


def _trace(values: FloatArray, status: StatusArray, places: Places) -> Trace:
    starts, _, is_thinned = places
    if not is_thinned:
        picked = values[starts]
        return Trace(
            [None if value != value else round(value, 9) for value in picked.tolist()],
            status[starts].tolist(),
        )
    if len(starts) == 0:
        return Trace([], [])
    first = int(starts[0])
    part, flags = values[first:], status[first:]
    offsets = starts - first
    good = np.where(flags == Status.OK, part, np.nan)
    low, high = lowest_highest(good, good, offsets)
    pairs = np.empty(2 * len(starts))
    pairs[0::2], pairs[1::2] = low, high
    flag = np.zeros(2 * len(starts), dtype=np.int64)
    flag[0::2] = np.maximum.reduceat(flags, offsets)
    return Trace(
        [None if value != value else round(value, 9) for value in pairs.tolist()], flag.tolist()
    )
