"""Short forms of the trials in `bench`: before a page, and before a crowd, nothing may be lost."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from bench.live_soak import soak
from bench.recorded import Recorded
from bench.watchers import crowd
from playwright.sync_api import Browser

from tests.conftest import open_folder
from tests.server import Server

SOAK_S, CROWD_S, WATCHERS = 40.0, 12.0, 100

pytestmark = pytest.mark.alone


@pytest.fixture(scope="module")
def running() -> Iterator[Server]:
    with open_folder() as folder:
        server = Server(folder)
        server.start()
        yield server
        server.stop()


def check(kept: Recorded, seconds: float) -> None:
    assert kept.lost == 0, kept
    assert kept.bad_lines == 0, kept
    # On a machine too busy to let the board keep its pace there are fewer, and none of them lost.
    assert kept.samples > 0.5 * seconds * 1_000, kept


def test_twelve_channels_loses_nothing(running: Server, browser: Browser) -> None:
    found = soak(running, SOAK_S, browser)
    check(found.kept, SOAK_S)
    assert found.delays_ms, "no picture reached the screen"


def test_a_hundred_watchers_and_a_fuzz_cost_no_sample(running: Server) -> None:
    kept, frames = crowd(running, WATCHERS, CROWD_S)
    check(kept, CROWD_S)
    assert min(frames) > 0, "a page was sent nothing"
