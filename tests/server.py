"""A whole server as `./demo` starts it, as a process of its own."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from typing import Any


class Server:
    """`tickstone serve --demo` as a process of its own, that can be killed and started again."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        words = ["serve", "--demo", "--port", str(self.port), "--data", str(self.folder)]
        self.process = subprocess.Popen([sys.executable, "-m", "tickstone.cli.main", *words])
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                urllib.request.urlopen(f"{self.address}/api/health", timeout=1).read()
                return
            except OSError:
                assert self.process.poll() is None, "the server ended at once"
                time.sleep(0.1)
        raise AssertionError("the server never answered")

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        assert self.process is not None
        self.process.send_signal(how)
        self.process.wait(timeout=60)

    def kill_database(self) -> None:
        """End PostgreSQL's postmaster as a power cut would."""
        data = self.folder / "postgresql" / "data" / "postmaster.pid"
        os.kill(int(data.read_text().split("\n")[0]), signal.SIGKILL)


def ask(server: Server, path: str, body: Any = None, method: str = "") -> Any:
    """A request to the API as JSON, and its answer."""
    request = urllib.request.Request(
        server.address + path,
        data=None if body is None else json.dumps(body).encode(),
        method=method or ("GET" if body is None else "POST"),
        headers={"content-type": "application/json"},
    )
    with urllib.request.urlopen(request, timeout=120) as answer:
        return json.loads(answer.read() or b"null")
