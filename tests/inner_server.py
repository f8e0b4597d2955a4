"""The whole server inside the test process: the app, a port of its own, a thread."""

from __future__ import annotations

import signal
import socket
import time
from pathlib import Path
from threading import Thread

from sqlalchemy import Engine

from tickstone.cli.serving import server_of


class InnerServer:
    """What `tickstone serve` serves, on a store that is there already; starts in a moment.

    listener: where it listens; others listen there after it, so that a browser knows the pages of
    one address and does not load them anew for each test. Whatever is about starting, killing, or
    losing needs a process: see `tests.server.Server`.
    """

    def __init__(self, engine: Engine, folder: Path, listener: socket.socket) -> None:
        self._listener = listener.dup()
        self.port: int = self._listener.getsockname()[1]
        self._server = server_of(engine, folder)
        self._thread = Thread(
            target=self._server.run, kwargs={"sockets": [self._listener]}, daemon=True
        )

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        kept = signal.getsignal(signal.SIGPIPE) is signal.SIG_IGN
        assert kept, "something loaded lets a page that closes end this process"
        self._thread.start()
        deadline = time.monotonic() + 60
        while not self._server.started:
            assert self._thread.is_alive(), "the server ended at once"
            assert time.monotonic() < deadline, "the server never answered"
            time.sleep(0.005)

    def stop(self) -> None:
        self._server.should_exit = True
        self._thread.join(timeout=30)
        assert not self._thread.is_alive(), "the server does not end"
