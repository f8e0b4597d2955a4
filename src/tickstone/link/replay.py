"""A recording played as if a board printed it now."""

from __future__ import annotations

import time
from collections.abc import Generator

from tickstone.link.source import LineLostError

_READ_S = 0.02


class ReplaySource:
    """Lines with the times they are due.

    lines: (µs from the first line, text), rising. pace: 1 as it was, 2 twice as fast.
    """

    byte_us = 0.0

    def __init__(self, lines: Generator[tuple[int, str]], pace: float = 1.0) -> None:
        self._lines = lines
        self._pace = pace
        self._start = time.monotonic()
        self._next = next(lines, None)

    def read(self) -> bytes:
        if self._next is None:
            raise LineLostError("the replay has come to its end")
        played_us = (time.monotonic() - self._start) * 1e6 * self._pace
        wait_s = (self._next[0] - played_us) / 1e6 / self._pace
        if wait_s > 0:
            time.sleep(min(_READ_S, wait_s))
            played_us = (time.monotonic() - self._start) * 1e6 * self._pace
        due: list[str] = []
        while self._next is not None and self._next[0] <= played_us and len(due) < 2_000:
            due.append(self._next[1])
            self._next = next(self._lines, None)
        return ("\n".join(due) + "\n").encode() if due else b""

    def overran(self) -> bool:
        """Never: what cannot be taken waits."""
        return False

    def write(self, data: bytes) -> None:
        """A recording does not listen."""

    def close(self) -> None:
        self._next = None
        self._lines.close()
