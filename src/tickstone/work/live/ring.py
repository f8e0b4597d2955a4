"""The last samples of a line, for whoever watches it."""

from __future__ import annotations

from dataclasses import dataclass
from threading import Lock

import numpy as np

from tickstone.core.signal import FloatArray, StatusArray
from tickstone.store.chunks import IntArray

CAPACITY = 131_072


@dataclass(frozen=True, slots=True)
class Stretch:
    """Samples first, first + 1, … of a line. values, status: shape (channels, n)."""

    first: int
    time_us: IntArray
    host_us: IntArray
    values: FloatArray
    status: StatusArray

    def __len__(self) -> int:
        return len(self.time_us)


class Ring:
    """Keeps the last CAPACITY samples; written by one thread, read by any."""

    def __init__(self, channels: int, capacity: int = CAPACITY) -> None:
        self.channels = channels
        self.total = 0
        self._capacity = capacity
        self._time = np.zeros(capacity, dtype=np.int64)
        self._host = np.zeros(capacity, dtype=np.int64)
        self._values = np.zeros((channels, capacity))
        self._status = np.zeros((channels, capacity), dtype=np.uint8)
        self._lock = Lock()

    def append(
        self, time_us: IntArray, host_us: IntArray, values: FloatArray, status: StatusArray
    ) -> None:
        """Add samples; no more than the capacity at once."""
        count = len(time_us)
        with self._lock:
            places = np.arange(self.total, self.total + count) % self._capacity
            self._time[places] = time_us
            self._host[places] = host_us
            self._values[:, places] = values
            self._status[:, places] = status
            self.total += count

    def since(self, first: int, most: int = CAPACITY) -> Stretch:
        """The samples from number `first` on that are still here; the newest `most` of them.

        >>> ring = Ring(1, capacity=4)
        >>> for n in range(6):
        ...     ring.append(np.array([n]), np.array([n]), np.array([[float(n)]]), np.zeros((1, 1)))
        >>> ring.since(0).time_us.tolist(), ring.since(0).first
        ([2, 3, 4, 5], 2)
        """
        with self._lock:
            return self._between(max(first, self.total - most), self.total)

    def between(self, first: int, last: int) -> Stretch:
        """Of the samples first, first + 1, …, last − 1 those that are still here."""
        with self._lock:
            return self._between(first, min(last, self.total))

    def _between(self, first: int, last: int) -> Stretch:
        first = min(max(first, self.total - self._capacity, 0), max(last, 0))
        places = np.arange(first, last) % self._capacity
        return Stretch(
            first,
            self._time[places],
            self._host[places],
            self._values[:, places],
            self._status[:, places],
        )

    def first_at_or_after(self, time_us: int) -> int:
        """The number of the first sample here at this time or later. Copies nothing."""
        with self._lock:
            if self.total <= self._capacity:
                return int(np.searchsorted(self._time[: self.total], time_us))
            oldest = self.total - self._capacity
            seam = self.total % self._capacity
            before = int(np.searchsorted(self._time[seam:], time_us))
            if before < self._capacity - seam:
                return oldest + before
            return oldest + before + int(np.searchsorted(self._time[:seam], time_us))
