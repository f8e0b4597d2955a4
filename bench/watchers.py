"""A hundred pages that watch a line, and a fuzz beside them, while it is recorded: no sample lost.

python -m bench.watchers --watchers 100 --seconds 60
"""

from __future__ import annotations

import argparse
import asyncio
import json
import shutil
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import Event, Thread

import websockets
from tests.server import Server

from bench.fuzz import Fuzz
from bench.recorded import LINE, Recorded, rack, record

WARM_UP_S = 2.0


@contextmanager
def watched(server: Server, watchers: int) -> Iterator[list[int]]:
    """So many pages watch the line as long as this lasts; how many frames each was sent."""
    frames = [0] * watchers
    over = Event()
    address = f"ws://127.0.0.1:{server.port}{LINE}/watch"

    async def watch(number: int) -> None:
        async with websockets.connect(address, max_size=None) as socket:
            await socket.send(json.dumps({"window_s": 10, "columns": 900, "focus": number % 12}))
            while not over.is_set():
                with suppress(TimeoutError):
                    message = json.loads(await asyncio.wait_for(socket.recv(), 0.5))
                    if message["kind"] == "frame":
                        await socket.send(json.dumps({"seen": message["body"]["samples"]}))
                        frames[number] += 1

    async def all_of_them() -> None:
        await asyncio.gather(*(watch(number) for number in range(watchers)))

    thread = Thread(target=lambda: asyncio.run(all_of_them()))
    thread.start()
    try:
        yield frames
    finally:
        over.set()
        thread.join()


@contextmanager
def fuzzed(server: Server, seconds: float, seed: int = 1) -> Iterator[Fuzz]:
    """Everything is asked for meanwhile, but for what would close or stop the line itself."""
    with urllib.request.urlopen(f"{server.address}/api/openapi.json", timeout=60) as answer:
        description = json.load(answer)
    description["paths"] = {
        path: methods
        for path, methods in description["paths"].items()
        if "/line" not in path and "/boards" not in path and "delete" not in methods
    }
    fuzz = Fuzz(server.port, description, seed)
    thread = Thread(target=fuzz.run, args=(seconds,))
    thread.start()
    try:
        yield fuzz
    finally:
        thread.join()


def crowd(server: Server, watchers: int, seconds: float) -> tuple[Recorded, list[int]]:
    """Record the rack of twelve channels before a crowd. What came of it, and frames a watcher."""
    with rack(server), watched(server, watchers) as frames:
        time.sleep(WARM_UP_S)

        def meanwhile() -> None:
            with fuzzed(server, seconds):
                time.sleep(seconds)

        kept = record(server, meanwhile)
    return kept, frames


def main() -> None:
    reader = argparse.ArgumentParser(description=__doc__)
    reader.add_argument("--watchers", type=int, default=100)
    reader.add_argument("--seconds", type=float, default=60.0)
    asked = reader.parse_args()
    work = Path(tempfile.mkdtemp(prefix="tickstone-crowd-"))
    work.chmod(0o755)
    server = Server(work / "data")
    server.start()
    try:
        kept, frames = crowd(server, asked.watchers, asked.seconds)
        each = [one / (WARM_UP_S + kept.seconds) for one in frames]
        print(f"{kept}; {min(each):.1f} to {max(each):.1f} pictures/s to each of {len(each)} pages")
    finally:
        server.stop()
        shutil.rmtree(work, ignore_errors=True)


if __name__ == "__main__":
    main()
