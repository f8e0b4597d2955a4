"""One minute of the soak that `bench.live_soak` runs for ten: nothing may be lost."""

from __future__ import annotations

from pathlib import Path

from bench.live_soak import soak
from playwright.sync_api import Browser

from tests.server import Server

SECONDS = 60.0


def test_a_minute_of_twelve_channels_loses_nothing(
    server: Server, tmp_path: Path, browser: Browser
) -> None:
    found = soak(server, SECONDS, tmp_path, browser)
    assert found.lost == 0, found
    assert found.bad_lines == 0, found
    # On a machine too busy to let the board keep its pace there are fewer, and none of them lost.
    assert found.samples > 0.5 * SECONDS * 1_000, found
    assert found.delays_ms, "no picture reached the screen"
