"""Stand-in boards started from the page: child processes that end with the server."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock

from tickstone.link.board import BOARDS
from tickstone.link.ports import stand_in_folder
from tickstone.link.source import PortError

_START_S = 15.0


@dataclass(slots=True)
class StandIns:
    """Boards that run for this server.

    extra: added to a board's name in its link, so that two servers do not share one.
    """

    extra: str = field(default_factory=lambda: f"-{os.getpid()}")
    _running: dict[str, subprocess.Popen[bytes]] = field(default_factory=dict)
    _lock: Lock = field(default_factory=Lock)

    def path(self, name: str) -> Path:
        """Where the board of this name can be opened."""
        return stand_in_folder() / f"{name}{self.extra}"

    def start(self, name: str, seed: int) -> Path:
        """Start a board, or find it running. Raises PortError."""
        if name not in BOARDS:
            raise PortError(f"There is no stand-in board “{name}”; there are {', '.join(BOARDS)}.")
        with self._lock:
            path = self.path(name)
            if self.is_running(name) or path.exists():
                return path
            process = subprocess.Popen(
                [
                    *(sys.executable, "-m", "tickstone.cli.board", name),
                    *("--seed", str(seed), "--link", str(path), "--until-parent-ends"),
                ],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.PIPE,
            )
            self._running[name] = process
            until = time.monotonic() + _START_S
            while not path.exists():
                if process.poll() is not None or time.monotonic() > until:
                    said = process.stderr.read(2_000).decode() if process.stderr else ""
                    process.kill()
                    raise PortError(f"The stand-in board did not start. {said.strip()}")
                time.sleep(0.02)
            return path

    def is_running(self, name: str) -> bool:
        """Whether this server has the board running."""
        process = self._running.get(name)
        return process is not None and process.poll() is None

    def stop(self, name: str) -> None:
        """Stop a board this server started."""
        with self._lock:
            process = self._running.pop(name, None)
        if process is not None:
            process.terminate()
            try:
                process.wait(timeout=5.0)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()

    def close(self) -> None:
        """Stop them all."""
        for name in list(self._running):
            self.stop(name)
