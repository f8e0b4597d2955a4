"""A run of samples: times, values in one lane or several, a quantity, a status for each."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from tickstone.core.quantity import NUMBER, Quantity
from tickstone.core.status import Status

FloatArray = npt.NDArray[np.float64]
StatusArray = npt.NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class Signal:
    """Samples in the order they were taken.

    time_s: shape (n,), s, not decreasing. No even sampling is presumed.
    values: shape (lanes, n), in the unit of `quantity`. NaN where a sample has no value at all.
    status: shape (lanes, n), `Status` codes. Flagged samples stay in place, never dropped.
    until_s: up to when this is all there is, s; the time of the last sample unless said otherwise.
        Events say more by it than by their own times: that none came since.

    Raises ValueError when the shapes do not fit together.

    >>> signal = Signal.of([0.0, 0.05], [5831, 0])
    >>> signal.ok.tolist()
    [True, True]
    """

    time_s: FloatArray
    values: FloatArray
    status: StatusArray
    quantity: Quantity = NUMBER
    until_s: float = math.nan

    def __post_init__(self) -> None:
        shape = (len(self.quantity.lanes), len(self.time_s))
        if not self.values.shape == self.status.shape == shape:
            raise ValueError("a signal needs one value and one status per lane and sample")
        if math.isnan(self.until_s):
            until_s = float(self.time_s[-1]) if len(self.time_s) else -math.inf
            object.__setattr__(self, "until_s", until_s)

    @classmethod
    def of(
        cls,
        time_s: npt.ArrayLike,
        values: npt.ArrayLike,
        quantity: Quantity = NUMBER,
        status: npt.ArrayLike | None = None,
        until_s: float = math.nan,
    ) -> Signal:
        """A signal from plain lists; without statuses every sample is, so far, fine."""
        lanes = np.atleast_2d(np.asarray(values, dtype=np.float64))
        codes = (
            np.zeros(lanes.shape, dtype=np.uint8)
            if status is None
            else np.atleast_2d(np.asarray(status, dtype=np.uint8))
        )
        return cls(np.asarray(time_s, dtype=np.float64), lanes, codes, quantity, until_s)

    def __len__(self) -> int:
        return len(self.time_s)

    @property
    def unit(self) -> str:
        """The unit of the values."""
        return self.quantity.unit

    @property
    def value(self) -> FloatArray:
        """The values of the first lane, shape (n,): all there is to most signals."""
        first: FloatArray = self.values[0]
        return first

    @property
    def flag(self) -> StatusArray:
        """The statuses of the first lane, shape (n,)."""
        first: StatusArray = self.status[0]
        return first

    @property
    def ok(self) -> npt.NDArray[np.bool_]:
        """True where the sample of the first lane is a measurement, shape (n,)."""
        good: npt.NDArray[np.bool_] = np.equal(self.status[0], Status.OK)
        return good

    def between(self, first: int, last: int, until_s: float = math.nan) -> Signal:
        """The samples first, first + 1, …, last − 1, as views."""
        part = slice(first, last)
        return Signal(
            self.time_s[part], self.values[:, part], self.status[:, part], self.quantity, until_s
        )

    def lane(self, number: int) -> Signal:
        """One lane by itself, as a view."""
        part = slice(number, number + 1)
        return Signal(
            self.time_s,
            self.values[part],
            self.status[part],
            self.quantity.in_lanes(self.quantity.lanes[number]),
            self.until_s,
        )

    def copied(self) -> Signal:
        """The same, its values and statuses free to be written to."""
        return replace(self, values=self.values.copy(), status=self.status.copy())

    def replaced(
        self,
        values: FloatArray,
        status: StatusArray | None = None,
        quantity: Quantity | None = None,
    ) -> Signal:
        """The same samples with new values (and, where given, new statuses or quantity)."""
        return Signal(
            self.time_s,
            values,
            self.status if status is None else status,
            quantity or self.quantity,
            self.until_s,
        )


@dataclass(slots=True)
class Gathering:
    """Blocks of one signal put together again.

    time_s: all the times, when they are known before; then they are not copied. Nor are they while
    block after block has the next stretch of one array.
    room: how many samples there will be, more or less, when the times are not known.
    """

    time_s: FloatArray | None = None
    room: int = 0
    _first: Signal | None = None
    _times: FloatArray = field(default_factory=lambda: np.empty(0))
    _values: FloatArray = field(default_factory=lambda: np.empty((0, 0)))
    _status: StatusArray = field(default_factory=lambda: np.empty((0, 0), dtype=np.uint8))
    _filled: int = 0
    _until_s: float = math.nan
    _stretch: FloatArray | None = None

    def add(self, block: Signal) -> None:
        """The next block."""
        self._until_s = block.until_s
        if self._first is None:
            self._first = block
            return
        if self._filled == 0:
            self._stretch = self._first.time_s
            self._put(self._first)
        self._put(block)

    def _put(self, block: Signal) -> None:
        if len(block) == 0:
            return
        end = self._filled + len(block)
        if end > self._values.shape[1]:
            self._make_room(max(end, self.room), len(block.values))
        part = slice(self._filled, end)
        if self.time_s is None:
            self._put_times(block.time_s, part)
        self._values[:, part] = block.values
        self._status[:, part] = block.status
        self._filled = end

    def _put_times(self, time_s: FloatArray, part: slice) -> None:
        """Go on with the stretch of one array that all times are, or copy them."""
        if self._stretch is not None:
            longer = time_s if part.start == 0 else _joined(self._stretch, time_s)
            if longer is not None:
                self._stretch = longer
                return
            self._times = np.empty(self._values.shape[1])
            self._times[: part.start] = self._stretch
            self._stretch = None
        self._times[part] = time_s

    def _make_room(self, wanted: int, lanes: int) -> None:
        room = wanted if self._filled == 0 else max(wanted, 2 * self._filled)
        if self.time_s is not None:
            room = len(self.time_s)
        values, status = np.empty((lanes, room)), np.empty((lanes, room), dtype=np.uint8)
        if self._filled:
            values[:, : self._filled] = self._values[:, : self._filled]
            status[:, : self._filled] = self._status[:, : self._filled]
        self._values, self._status = values, status
        if self.time_s is None and self._stretch is None:
            self._times = np.concatenate((self._times[: self._filled], np.empty(room)))[:room]

    def done(self) -> Signal:
        """All of it."""
        if self._first is None:
            raise ValueError("nothing was gathered")
        if self._filled == 0:
            return replace(self._first, until_s=self._until_s)
        part = slice(self._filled)
        values, status = self._values[:, part], self._status[:, part]
        times = self.time_s
        if times is None:
            times = self._times if self._stretch is None else self._stretch
        times = times[part]
        if 2 * self._filled < self._values.shape[1]:
            times, values, status = times.copy(), values.copy(), status.copy()
        return Signal(times, values, status, self._first.quantity, self._until_s)


def _joined(one: FloatArray, other: FloatArray) -> FloatArray | None:
    """Both as one view, where the other follows on the one in the same array; else None."""
    base = one.base
    if not isinstance(base, np.ndarray) or other.base is not base or base.ndim != 1:
        return None
    if one.strides != base.strides or other.strides != base.strides or base.dtype != one.dtype:
        return None
    first = (one.ctypes.data - base.ctypes.data) // base.itemsize
    if other.ctypes.data != one.ctypes.data + one.nbytes or base.strides != (base.itemsize,):
        return None
    return base[first : first + len(one) + len(other)]


def flagged(
    status: StatusArray, places: npt.NDArray[np.intp], verdict: npt.NDArray[np.integer] | Status
) -> StatusArray:
    """A copy of `status` with a verdict at each of some places; an earlier verdict stands.

    places: in the flattened array, shape (k,). verdict: `Status` codes, shape (k,), or one.

    >>> before = np.array([[0, 1, 0]], dtype=np.uint8)
    >>> flagged(before, np.array([1, 2]), Status.TOO_FAR).tolist()
    [[0, 1, 4]]
    """
    result = np.array(status, order="C")
    flat = result.reshape(-1)
    fresh = flat[places] == Status.OK
    if isinstance(verdict, Status):
        flat[places[fresh]] = verdict
    else:
        flat[places[fresh]] = verdict[fresh]
    return result
