"""A wire to the database that can be cut at the worst moments: a relay between two sockets."""

from __future__ import annotations

import contextlib
import socket
from threading import Lock, Thread
from typing import Literal

Cut = Literal["", "before the commit", "before its answer", "after its answer"]


class FragileWire:
    """Relays to a PostgreSQL on loopback.

    cut: when the next commit breaks the wire, once. is_away: nobody answers at all.
    """

    def __init__(self, port: int) -> None:
        self.cut: Cut = ""
        self._away = False
        self._to = port
        self._open: set[socket.socket] = set()
        self._lock = Lock()
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port: int = self._listener.getsockname()[1]
        Thread(target=self._accept, daemon=True).start()

    @property
    def is_away(self) -> bool:
        return self._away

    @is_away.setter
    def is_away(self, value: bool) -> None:
        self._away = value
        if value:
            self.drop()

    def drop(self) -> None:
        """Break every connection there is now."""
        with self._lock:
            for one in self._open:
                _shut(one)
            self._open.clear()

    def close(self) -> None:
        self._listener.close()
        self.drop()

    def _accept(self) -> None:
        while True:
            try:
                near, _ = self._listener.accept()
            except OSError:
                return
            if self._away:
                near.close()
                continue
            far = socket.create_connection(("127.0.0.1", self._to))
            with self._lock:
                self._open |= {near, far}
            link = _Link(self, near, far)
            Thread(target=link.to_server, daemon=True).start()
            Thread(target=link.to_client, daemon=True).start()


class _Link:
    """One connection."""

    def __init__(self, wire: FragileWire, near: socket.socket, far: socket.socket) -> None:
        self.wire, self.near, self.far = wire, near, far
        self.cut: Cut = ""

    def to_server(self) -> None:
        with contextlib.suppress(OSError):
            while data := self.near.recv(65_536):
                if b"COMMIT" in data and self.wire.cut:
                    self.cut, self.wire.cut = self.wire.cut, ""
                    if self.cut == "before the commit":
                        break
                self.far.sendall(data)
        if self.cut in ("", "before the commit"):
            self.end()

    def to_client(self) -> None:
        with contextlib.suppress(OSError):
            while data := self.far.recv(65_536):
                if self.cut == "before its answer":
                    break
                self.near.sendall(data)
                if self.cut == "after its answer":
                    break
        self.end()

    def end(self) -> None:
        for one in (self.near, self.far):
            _shut(one)


def _shut(one: socket.socket) -> None:
    with contextlib.suppress(OSError):
        one.shutdown(socket.SHUT_RDWR)
    one.close()
