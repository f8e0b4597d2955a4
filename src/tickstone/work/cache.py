"""What was looked at last, kept in memory up to a bounded size."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock
from typing import Any, TypeVar

MOST_BYTES = 512 * 1024 * 1024
_SMALL = 1_024

Kept = TypeVar("Kept")


@dataclass(slots=True)
class Cache:
    """Raw recordings never change, and a result is known by its recording and its whole chain, so
    nothing here can go out of date.
    """

    _kept: OrderedDict[Any, tuple[Any, int]] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def get(self, key: Any, make: Callable[[], Kept], size: Callable[[Kept], int]) -> Kept:
        """What is kept under the key, or what `make` makes. size: of it, bytes."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                found: Kept = self._kept[key][0]
                return found
        made = make()
        with self._lock:
            self._kept[key] = (made, size(made) + _SMALL)
            while len(self._kept) > 1 and sum(n for _, n in self._kept.values()) > MOST_BYTES:
                self._kept.popitem(last=False)
        return made
