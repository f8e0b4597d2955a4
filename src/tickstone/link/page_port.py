"""A port that a page has open: its bytes come over the network instead of a wire."""

from __future__ import annotations

from collections.abc import Callable
from queue import Empty, Full, Queue

from tickstone.link.source import LineLostError

_WAITING_PIECES = 4_096
_READ_S = 0.02


class PageSource:
    """Fed by whoever holds the page's connection. to_page: sends bytes to the board, if it can."""

    byte_us = 0.0

    def __init__(self, to_page: Callable[[bytes], None] = lambda data: None) -> None:
        self._pieces: Queue[bytes | None] = Queue(_WAITING_PIECES)
        self._to_page = to_page
        self._is_over = False

    def feed(self, data: bytes) -> bool:
        """Bytes from the page; False when they cannot be taken now and have to wait."""
        try:
            self._pieces.put_nowait(data)
        except Full:
            return False
        return True

    def end(self) -> None:
        """The page is gone."""
        self._pieces.put(None)

    def read(self) -> bytes:
        if self._is_over:
            raise LineLostError("the page closed the port")
        try:
            piece = self._pieces.get(timeout=_READ_S)
        except Empty:
            return b""
        if piece is None:
            self._is_over = True
            raise LineLostError("the page closed the port")
        return piece

    def write(self, data: bytes) -> None:
        self._to_page(data)

    def close(self) -> None:
        """Nothing to let go of: the page holds the port."""
