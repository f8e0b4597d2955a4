"""Twelve channels a thousand times a second, from a pseudo-terminal to the store and the screen.

``python -m bench.live_soak 600`` runs ten minutes; the tests run one. Nothing may be lost; how long
a sample takes to the screen is told, against the budget of 100 ms at the 95th percentile.
"""

from __future__ import annotations

import json
import shutil
import sys
import tempfile
import time
import urllib.request
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Browser, sync_playwright
from tests.browser.conftest import ARGUMENTS
from tests.conftest import chromium_path
from tests.server import Server

from tickstone.formats.takes import read_take_file

RIG = 1
LINE = f"/api/rigs/{RIG}/line"


@dataclass(frozen=True, slots=True)
class Soak:
    """What came of it. lost: samples that the board sent and the recording lacks."""

    seconds: float
    samples: int
    lost: int
    bad_lines: int
    rate_hz: float
    delays_ms: tuple[float, ...]

    def percentile_ms(self, share: float) -> float:
        """The delay from arrival to screen that this share of pictures stays under."""
        return float(np.percentile(self.delays_ms, share)) if self.delays_ms else float("nan")

    def __str__(self) -> str:
        return (
            f"12 channels at 1 kHz for {self.seconds:.0f} s: {self.samples} samples "
            f"({self.rate_hz:.1f} a second), {self.lost} lost, {self.bad_lines} bad lines; "
            f"to the screen in {self.percentile_ms(50):.0f} ms (median), "
            f"{self.percentile_ms(95):.0f} ms (95 %; budget 100)"
        )


def soak(server: Server, seconds: float, folder: Path, browser: Browser) -> Soak:
    """Record the rack of twelve channels while a page of this browser watches it."""
    board = _ask(server, "/api/boards/twelve", {"seed": 3})
    _ask(server, LINE, {"path": board["path"], "speed": board["speed"]})
    delays: list[float] = []
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(f"{server.address}/rigs/{RIG}/line")
    page.wait_for_selector(".lane-canvas")
    page.wait_for_timeout(3_000)
    _ask(server, f"{LINE}/record", {"name": "soak"})
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        text = page.locator(".line-strip div", has_text="on screen after").inner_text()
        figure = "".join(c for c in text.split("\n")[-1] if c.isdigit())
        if figure:
            delays.append(float(figure))
        page.wait_for_timeout(200)
    page.close()
    take = _ask(server, f"{LINE}/stop", {})
    _ask(server, LINE, method="DELETE")
    _ask(server, "/api/boards/twelve", method="DELETE")
    path = folder / "soak.parquet"
    address = f"{server.address}/api/takes/{take['id']}/file?format=parquet"
    with urllib.request.urlopen(address, timeout=600) as answer, path.open("wb") as file:
        shutil.copyfileobj(answer, file)
    counts = np.concatenate([np.asarray(b.values[0]) for b in read_take_file(path).blocks])
    lost = int((np.diff(counts) - 1).sum())
    return Soak(
        take["duration_s"], take["samples"], lost, take["bad_lines"], take["rate_hz"], tuple(delays)
    )


def _ask(server: Server, path: str, body: Any = None, method: str = "") -> Any:
    request = urllib.request.Request(
        server.address + path,
        data=None if body is None else json.dumps(body).encode(),
        method=method or ("GET" if body is None else "POST"),
        headers={"content-type": "application/json"},
    )
    with urllib.request.urlopen(request, timeout=120) as answer:
        return json.loads(answer.read() or b"null")


if __name__ == "__main__":
    work = Path(tempfile.mkdtemp(prefix="tickstone-soak-"))
    work.chmod(0o755)
    running = Server(work / "data")
    running.start()
    try:
        with sync_playwright() as playwright:
            chromium = playwright.chromium.launch(executable_path=chromium_path(), args=ARGUMENTS)
            length_s = float(sys.argv[1]) if len(sys.argv) > 1 else 600.0
            print(soak(running, length_s, work, chromium))
    finally:
        running.stop()
        shutil.rmtree(work, ignore_errors=True)
