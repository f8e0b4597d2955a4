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
    _bytes: int = 0

    def has(self, key: Any) -> bool:
        """Whether something is kept under the key."""
        with self._lock:
            return key in self._kept

    def get(self, key: Any, make: Callable[[], Kept], size: Callable[[Kept], int]) -> Kept:
        """What is kept under the key, or what `make` makes. size: of it, bytes."""
        with self._lock:
            known = self._kept.get(key)
            if known is not None:
                self._kept.move_to_end(key)
                found: Kept = known[0]
                return found
        made = make()
        count = size(made) + _SMALL
        with self._lock:
            before = self._kept.pop(key, None)
            self._bytes += count - (before[1] if before else 0)
            self._kept[key] = (made, count)
            while len(self._kept) > 1 and self._bytes > MOST_BYTES:
                self._bytes -= self._kept.popitem(last=False)[1][1]
        return made
