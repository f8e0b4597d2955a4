"""A stand-in board of the test's own: a real process on a real pseudo-terminal."""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path


class BoardProcess:
    """`tickstone board` at a path of its own, as a process that can be stopped."""

    def __init__(self, name: str, link: Path, seed: int = 1) -> None:
        self.link = link
        self.process = subprocess.Popen(
            [
                *(sys.executable, "-m", "tickstone.cli.board", name),
                *("--seed", str(seed), "--link", str(link)),
            ],
            stdout=subprocess.DEVNULL,
        )
        deadline = time.monotonic() + 30
        while not link.exists():
            assert self.process.poll() is None, "the board ended at once"
            assert time.monotonic() < deadline, "the board never came up"
            time.sleep(0.02)

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(timeout=10)


def wait_for(what, seconds: float = 20.0):
    """Ask again and again until the answer is something; a slow machine only takes longer."""
    deadline = time.monotonic() + seconds
    while not (answer := what()):
        assert time.monotonic() < deadline, f"waited {seconds:g} s in vain"
        time.sleep(0.05)
    return answer
