"""A run of samples: times, values, a unit and a status for each."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.status import Status

FloatArray = npt.NDArray[np.float64]
StatusArray = npt.NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class Signal:
    """Samples in the order they were taken.

    time_s: shape (n,), s, not decreasing.
    values: shape (n,), in `unit`. NaN where a sample has no value at all.
    unit: the unit of `values`, as printed.
    status: shape (n,), `Status` codes. Flagged samples stay in place, never dropped.

    Raises ValueError when the three arrays differ in length.

    >>> signal = Signal.of([0.0, 0.05], [5831, 0], "µs")
    >>> signal.ok.tolist()
    [True, True]
    """

    time_s: FloatArray
    values: FloatArray
    unit: str
    status: StatusArray

    def __post_init__(self) -> None:
        if not len(self.time_s) == len(self.values) == len(self.status):
            raise ValueError("a signal needs one time, one value and one status per sample")

    @classmethod
    def of(cls, time_s: npt.ArrayLike, values: npt.ArrayLike, unit: str) -> Signal:
        """A signal in which every sample is, so far, fine."""
        values_array = np.asarray(values, dtype=np.float64)
        return cls(
            np.asarray(time_s, dtype=np.float64),
            values_array,
            unit,
            np.zeros(len(values_array), dtype=np.uint8),
        )

    def __len__(self) -> int:
        return len(self.values)

    @property
    def ok(self) -> npt.NDArray[np.bool_]:
        """True where the sample is a measurement, shape (n,)."""
        return np.equal(self.status, Status.OK)

    def between(self, first: int, last: int) -> Signal:
        """The samples first, first + 1, …, last − 1, as views."""
        return Signal(
            self.time_s[first:last], self.values[first:last], self.unit, self.status[first:last]
        )

    def replaced(self, values: FloatArray, unit: str, status: StatusArray | None = None) -> Signal:
        """The same samples with new values (and, where given, new statuses)."""
        return Signal(self.time_s, values, unit, self.status if status is None else status)


def flagged(
    status: StatusArray, places: npt.NDArray[np.intp], verdict: npt.NDArray[np.integer]
) -> StatusArray:
    """A copy of `status` with a verdict at each of some places; an earlier verdict stands.

    places: indices, shape (k,). verdict: `Status` codes, shape (k,).

    >>> before = np.array([0, 1, 0], dtype=np.uint8)
    >>> flagged(before, np.array([1, 2]), np.array([Status.TOO_FAR, Status.TOO_FAR])).tolist()
    [0, 1, 4]
    """
    result = status.copy()
    fresh = result[places] == Status.OK
    result[places[fresh]] = verdict[fresh]
    return result
