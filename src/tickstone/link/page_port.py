"""A port that a page has open: its bytes come over the network instead of a wire."""

from __future__ import annotations

from collections.abc import Callable
from queue import Empty, Full, Queue
from threading import Event

from tickstone.link.source import LineLostError

_WAITING_PIECES = 4_096
_READ_S = 0.02


class PageSource:
    """Fed by whoever holds the page's connection. to_page: sends bytes to the board, if it can."""

    byte_us = 0.0

    def __init__(self, to_page: Callable[[bytes], None] = lambda data: None) -> None:
        self._pieces: Queue[bytes] = Queue(_WAITING_PIECES)
        self._to_page = to_page
        self._is_over = Event()
        self._is_closed = Event()

    def feed(self, data: bytes) -> bool:
        """Bytes from the page; False when they cannot be taken now and have to wait.

        Raises LineLostError when nobody reads here any more.
        """
        if self._is_closed.is_set():
            raise LineLostError("nobody listens any more")
        try:
            self._pieces.put_nowait(data)
        except Full:
            return False
        return True

    def end(self) -> None:
        """The page is gone; what it had sent is still read. Never waits."""
        self._is_over.set()

    def read(self) -> bytes:
        is_over = self._is_over.is_set()  # asked first: what was fed before the end is all here
        try:
            return self._pieces.get(timeout=0.0 if is_over else _READ_S)
        except Empty:
            if is_over:
                raise LineLostError("the page closed the port") from None
            return b""

    def overran(self) -> bool:
        """Never: what cannot be taken waits."""
        return False

    def write(self, data: bytes) -> None:
        self._to_page(data)

    def close(self) -> None:
        """Nothing to let go of: the page holds the port; but it is told that nobody reads."""
        self._is_closed.set()
