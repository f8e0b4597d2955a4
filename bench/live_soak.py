"""Twelve channels a thousand times a second, from a pseudo-terminal to the store and the screen.

``python -m bench.live_soak 600`` runs ten minutes; the tests run forty seconds. Nothing may be
lost; how long a sample takes to the screen is told, against the budget of 100 ms at the 95th
percentile.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from playwright.sync_api import Browser, sync_playwright
from tests.browser.conftest import ARGUMENTS
from tests.conftest import chromium_path
from tests.server import Server

from bench.recorded import RIG, Recorded, rack, record


@dataclass(frozen=True, slots=True)
class Soak:
    """What came of it."""

    kept: Recorded
    delays_ms: tuple[float, ...]

    def percentile_ms(self, share: float) -> float:
        """The delay from arrival to screen that this share of pictures stays under."""
        return float(np.percentile(self.delays_ms, share)) if self.delays_ms else float("nan")

    def __str__(self) -> str:
        return (
            f"{self.kept}; to the screen in {self.percentile_ms(50):.0f} ms (median), "
            f"{self.percentile_ms(95):.0f} ms (95 %; budget 100)"
        )


def soak(server: Server, seconds: float, browser: Browser) -> Soak:
    """Record the rack of twelve channels while a page of this browser watches it."""
    delays: list[float] = []
    page = browser.new_page(viewport={"width": 1280, "height": 800})

    def watch() -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            text = page.locator(".line-strip div", has_text="delay").inner_text()
            figure = "".join(c for c in text.split("\n")[-1] if c.isdigit())
            if figure:
                delays.append(float(figure))
            page.wait_for_timeout(200)

    with rack(server):
        page.goto(f"{server.address}/rigs/{RIG}/line")
        page.wait_for_selector(".lane-canvas")
        page.wait_for_timeout(3_000)
        kept = record(server, watch)
        page.close()
    return Soak(kept, tuple(delays))


if __name__ == "__main__":
    work = Path(tempfile.mkdtemp(prefix="tickstone-soak-"))
    work.chmod(0o755)
    running = Server(work / "data")
    running.start()
    try:
        with sync_playwright() as playwright:
            chromium = playwright.chromium.launch(executable_path=chromium_path(), args=ARGUMENTS)
            length_s = float(sys.argv[1]) if len(sys.argv) > 1 else 600.0
            print(soak(running, length_s, chromium))
    finally:
        running.stop()
        shutil.rmtree(work, ignore_errors=True)
