"""A row of sensors over a line: what each sees of it, and where the line then lies."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray

MOST_SENSORS = 16
FLOOR = 0.06
"""A sensor that is less on the line than this counts as not on it at all: noise and dirt."""
_PLACES = 3_001
_MEANS = 601


@dataclass(frozen=True, slots=True)
class Row:
    """Where the sensors sit, m, rising to the right; how wide the line is, and the spot that each
    sees, m, both taken as even.

    Raises ValueError when the places do not rise, or a width is none.

    >>> row = Row((-0.02, 0.0, 0.02), 0.03, 0.02)
    >>> row.covered(0.0).round(3).tolist()
    [0.25, 1.0, 0.25]
    """

    places_m: tuple[float, ...]
    line_m: float
    spot_m: float

    def __post_init__(self) -> None:
        if not 1 <= len(self.places_m) <= MOST_SENSORS:
            raise ValueError(f"a row has 1 to {MOST_SENSORS} sensors, not {len(self.places_m)}")
        if any(not b > a for a, b in zip(self.places_m, self.places_m[1:], strict=False)):
            raise ValueError("the places of the sensors have to rise from left to right, each once")
        if not (self.line_m > 0.0 and self.spot_m > 0.0):
            raise ValueError("a line and a spot have a width above 0")

    def of_lanes(self, is_flipped: bool) -> FloatArray:
        """The place of each lane; is_flipped: the first of them is the rightmost."""
        places = np.array(self.places_m)
        return places[::-1] if is_flipped else places

    @property
    def reach_m(self) -> float:
        """How far from a sensor the middle of a line may lie that it still sees."""
        return (self.line_m + self.spot_m) / 2.0

    @property
    def is_covered(self) -> bool:
        """Whether the line can lie under all of them at once."""
        return self.line_m + self.spot_m > self.places_m[-1] - self.places_m[0]

    def covered(self, line_m: npt.ArrayLike) -> FloatArray:
        """What share of each spot lies on the line. line_m: of its middle; shape (…) gives
        (sensors, …).
        """
        middle = np.asarray(line_m, dtype=np.float64)
        places = np.array(self.places_m).reshape(-1, *([1] * middle.ndim))
        low = np.maximum(places - self.spot_m / 2.0, middle - self.line_m / 2.0)
        high = np.minimum(places + self.spot_m / 2.0, middle + self.line_m / 2.0)
        share: FloatArray = np.clip(high - low, 0.0, None) / self.spot_m
        return share / min(1.0, self.line_m / self.spot_m)


def above_floor(share: FloatArray) -> FloatArray:
    """What counts of a share on the line, in place: nothing up to FLOOR, all of 1."""
    share -= FLOOR
    share *= 1.0 / (1.0 - FLOOR)
    return np.maximum(share, 0.0, out=share)


@dataclass(frozen=True, slots=True)
class Reading:
    """What a weighted mean of the sensors' places says of the middle of the line.

    mean_m: means, rising. place_m: where the line lies on average when that mean is read.
    """

    mean_m: FloatArray
    place_m: FloatArray


@dataclass(frozen=True, slots=True)
class _Model:
    """Middles of the line that some sensor sees, evenly apart; the mean each gives, and how much
    that mean scatters.
    """

    line_m: FloatArray
    mean_m: FloatArray
    sd_m: FloatArray


@lru_cache(maxsize=64)
def _model(row: Row, noise: float) -> _Model:
    places = np.array(row.places_m)
    ends = row.places_m[0] - row.reach_m, row.places_m[-1] + row.reach_m
    line = np.linspace(*ends, _PLACES)
    share = row.covered(line)
    # Where no sensor is half on the line it counts as lost, and no place is told.
    seen = share.max(axis=0) >= 0.5
    share = above_floor(share)
    total = share.sum(axis=0)
    line, share, total = line[seen], share[:, seen], total[seen]
    mean = places @ share / total
    lever = np.where(share > 0.0, places[:, np.newaxis] - mean, 0.0)
    scaled = noise / (1.0 - FLOOR)
    sd = scaled * np.sqrt(np.square(lever).sum(axis=0)) / total
    # No finer than the means of neighbouring middles stand apart: any between is as likely.
    apart = np.gradient(mean) if len(mean) > 1 else np.zeros_like(mean)
    between = np.abs(apart) / math.sqrt(12.0)
    return _Model(line, mean, np.hypot(sd, np.maximum(between, 1e-7)))


def _near(model: _Model, mean_m: float) -> _Model:
    """Only those middles whose mean is anywhere near the one read."""
    reach = 8.0 * float(model.sd_m.max())
    first = int(np.searchsorted(model.mean_m, mean_m - reach))
    last = int(np.searchsorted(model.mean_m, mean_m + reach, side="right"))
    if first == last:
        return model
    part = slice(first, last)
    return _Model(model.line_m[part], model.mean_m[part], model.sd_m[part])


def _weights(model: _Model, mean_m: FloatArray) -> FloatArray:
    """How likely each middle is when a mean is read, shape (means, middles); any middle was as
    likely before.
    """
    off = (mean_m[:, np.newaxis] - model.mean_m) / model.sd_m
    weight: FloatArray = np.exp(-0.5 * np.square(off)) / model.sd_m
    lost = weight.sum(axis=1) <= 0.0
    if lost.any():
        nearest = np.argmin(np.abs(off[lost]), axis=1)
        weight[np.flatnonzero(lost), nearest] = 1.0
    return weight


@lru_cache(maxsize=64)
def reading_of(row: Row, noise: float) -> Reading:
    """Where the line lies, by the mean that is read. noise: standard deviation of a share.

    A narrow spot sees an edge only now and then: over the stretch between, the mean stays as it
    is, and the middle of that stretch is told.
    """
    model = _model(row, noise)
    mean = np.linspace(row.places_m[0], row.places_m[-1], _MEANS if len(row.places_m) > 1 else 1)
    place = np.empty_like(mean)
    for first in range(0, len(mean), 256):
        weight = _weights(model, mean[first : first + 256])
        place[first : first + 256] = weight @ model.line_m / weight.sum(axis=1)
    return Reading(mean, place)


def spread_m(row: Row, noise: float, mean_m: float, place_m: float) -> float:
    """Within which distance of a place the line lies in 95 of 100 cases when a mean is read."""
    model = _near(_model(row, noise), mean_m)
    weight = _weights(model, np.array([mean_m]))[0]
    off = np.abs(model.line_m - place_m)
    order = np.argsort(off)
    sums = np.cumsum(weight[order])
    at = int(np.searchsorted(sums, 0.95 * sums[-1]))
    return float(off[order[min(at, len(off) - 1)]])


def even_places_m(count: int, pitch_m: float) -> tuple[float, ...]:
    """Places of so many sensors, evenly apart, about the middle.

    >>> even_places_m(3, 0.02)
    (-0.02, 0.0, 0.02)
    """
    middle = (count - 1) / 2.0
    return tuple(math.fsum(((n - middle) * pitch_m,)) for n in range(count))
