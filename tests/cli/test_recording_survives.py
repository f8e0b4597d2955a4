"""`kill -9` of the server or of the database while a line is recorded."""

from __future__ import annotations

import itertools
import signal
import time
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from tests.board import BoardProcess, wait_for
from tests.server import Server, ask

from tickstone.link.ports import stand_in_folder

LINE = "/api/rigs/1/line"
# On an idle machine it is less than one second, which `python -m bench.kills` measures; here other
# tests run beside it.
LOST_AT_MOST_S = 4.0


@pytest.fixture
def board() -> Iterator[BoardProcess]:
    folder = stand_in_folder()
    folder.mkdir(mode=0o700, exist_ok=True)
    board = BoardProcess("bramble", folder / f"bramble-{uuid.uuid4().hex[:8]}")
    yield board
    board.stop()


@pytest.fixture
def server(planted_folder: Path) -> Iterator[Server]:
    server = Server(planted_folder)
    server.start()
    yield server
    server.stop()


def recording(server: Server, board: BoardProcess) -> dict[str, Any]:
    """Start to record and wait until something is on disk."""
    ask(server, LINE, {"path": str(board.link), "speed": 115200})
    wait_for(lambda: ask(server, LINE)["rows"] > 3)
    ask(server, f"{LINE}/record", {"name": "brave"})
    return wait_for(
        lambda: now if (now := ask(server, LINE)["recording"])["written_samples"] > 60 else None
    )


def test_a_killed_server_loses_nothing_it_had_written(server: Server, board: BoardProcess) -> None:
    started = recording(server, board)
    time.sleep(1.5)
    before = ask(server, LINE)["recording"]
    server.stop(signal.SIGKILL)
    server.start()
    take = ask(server, f"/api/takes/{started['take_id']}")
    assert take["state"] == "cut"
    assert take["samples"] >= before["written_samples"]
    assert take["samples"] >= before["samples"] - LOST_AT_MOST_S * 25
    assert take["duration_s"] == pytest.approx((take["samples"] - 1) / 25, rel=0.05)
    plot = ask(
        server, f"/api/takes/{take['id']}/plot", {"channels": [{"channel": 0}], "points": 8000}
    )
    assert len(plot["series"][0]["time_s"]) == take["samples"]
    # The sensors have it on their benches, as after any other recording.
    assert take["channels"][0]["recording_id"] is not None


def test_a_killed_database_loses_nothing(server: Server, board: BoardProcess) -> None:
    started = recording(server, board)
    server.kill_database()
    before = ask_when_it_answers(server)["recording"]["samples"]
    wait_for(
        lambda: (
            now
            if (now := ask_when_it_answers(server)["recording"])["written_samples"] > before + 25
            else None
        ),
        90.0,
    )
    take = ask(server, f"{LINE}/stop", {})
    assert take["id"] == started["take_id"]
    assert take["state"] == "whole"
    assert take["gaps"] == []
    plot = ask(
        server, f"/api/takes/{take['id']}/plot", {"channels": [{"channel": 0}], "points": 8000}
    )
    times = plot["series"][0]["time_s"]
    assert len(times) == take["samples"] > before + 25
    steps = [b - a for a, b in itertools.pairwise(times)]
    assert max(steps) < 0.1, "a stretch is missing"


def ask_when_it_answers(server: Server) -> Any:
    """The line's state needs no database, but what looks up the rig does."""

    def answer() -> Any:
        try:
            return ask(server, LINE)
        except OSError:
            return None

    return wait_for(answer, 60.0)
