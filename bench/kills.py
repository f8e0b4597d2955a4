"""`kill -9` of the server and of the database, again and again, while a line is recorded.

    python -m bench.kills --servers 200 --databases 100

The board counts its lines, so what is missing, or there twice, shows. A killed server may lose its
last second, a killed database nothing. Each kill comes at a moment of its own.
"""

from __future__ import annotations

import argparse
import random
import shutil
import signal
import tempfile
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from tests.board import BoardProcess, wait_for
from tests.server import Server, ask

from bench.recorded import LINE, counts_of, said_missing
from tickstone.link.ports import stand_in_folder

RATE_HZ = 1_000
LOST_AT_MOST_S = 1.0


def kill_server(server: Server, board: BoardProcess, chance: random.Random) -> tuple[int, str]:
    """How many samples that were heard are not kept, and what else is wrong, if anything."""
    take_id = _record(server, board)
    time.sleep(chance.uniform(0.0, 2.0))
    heard = ask(server, LINE)["recording"]["samples"]
    server.stop(signal.SIGKILL)
    server.start()
    take = ask(server, f"/api/takes/{take_id}")
    wrong = _wrong(server, take)
    if take["state"] != "cut":
        wrong += f" It calls itself {take['state']}."
    lost = max(0, heard - take["samples"])
    if lost > LOST_AT_MOST_S * RATE_HZ:
        wrong += f" {lost} samples are lost."
    return lost, wrong


def kill_database(server: Server, board: BoardProcess, chance: random.Random) -> tuple[int, str]:
    """The same for the database; the server goes on and must keep everything."""
    take_id = _record(server, board)
    time.sleep(chance.uniform(0.0, 2.0))
    server.kill_database()
    before = _answer(server)["recording"]["samples"]
    wait_for(lambda: _answer(server)["recording"]["written_samples"] > before + 500, 90.0)
    stopped = ask(server, f"{LINE}/stop", {})
    ask(server, LINE, method="DELETE")
    take = ask(server, f"/api/takes/{take_id}")
    wrong = _wrong(server, take)
    if take["state"] != "whole":
        wrong += f" It calls itself {take['state']}."
    return stopped["samples"] - take["samples"], wrong


def _record(server: Server, board: BoardProcess) -> int:
    ask(server, LINE, {"path": str(board.link), "speed": 921_600})
    wait_for(lambda: ask(server, LINE)["rows"] > 100)
    ask(server, f"{LINE}/record", {"name": "brave"})
    wait_for(lambda: ask(server, LINE)["recording"]["written_samples"] > 100)
    take_id: int = ask(server, LINE)["recording"]["take_id"]
    return take_id


def _wrong(server: Server, take: dict[str, Any]) -> str:
    """What the board's own count says of a recording."""
    counts = counts_of(server, take["id"])
    steps = np.diff(counts)
    # On a busy machine the terminal overruns; what the recording says of it is not lost in silence.
    missing = int((steps[steps > 1] - 1).sum()) - said_missing(take)
    twice = int((steps < 1).sum())
    wrong = ""
    if missing or twice:
        wrong += f" {missing} are missing within, {twice} are there twice."
    if len(counts) != take["samples"]:
        wrong += f" It says {take['samples']} and holds {len(counts)}."
    return wrong


def _answer(server: Server) -> Any:
    def once() -> Any:
        try:
            return ask(server, LINE)
        except OSError:
            return None

    return wait_for(once, 60.0)


@contextmanager
def _bench() -> Iterator[tuple[Server, BoardProcess]]:
    folder = Path(tempfile.mkdtemp(prefix="tickstone-kills-"))
    folder.chmod(0o755)
    stand_in_folder().mkdir(mode=0o700, exist_ok=True)
    board = BoardProcess("twelve", stand_in_folder() / f"twelve-{uuid.uuid4().hex[:8]}")
    server = Server(folder / "data")
    server.start()
    try:
        yield server, board
    finally:
        server.stop()
        board.stop()
        shutil.rmtree(folder, ignore_errors=True)


def main() -> None:
    reader = argparse.ArgumentParser(description=__doc__)
    reader.add_argument("--servers", type=int, default=20)
    reader.add_argument("--databases", type=int, default=10)
    reader.add_argument("--seed", type=int, default=1)
    asked = reader.parse_args()
    chance = random.Random(asked.seed)
    faults = 0
    with _bench() as (server, board):
        for what, kill, times in (
            ("server", kill_server, asked.servers),
            ("database", kill_database, asked.databases),
        ):
            most = 0
            for number in range(1, times + 1):
                lost, wrong = kill(server, board, chance)
                most = max(most, lost)
                if wrong:
                    faults += 1
                    print(f"{what} {number}:{wrong}", flush=True)
            print(f"{times} kills of the {what}: at most {most} samples lost, at 1 kHz", flush=True)
    raise SystemExit(1 if faults else 0)


if __name__ == "__main__":
    main()
