"""``tickstone serve``: what happens when something is in its way."""

from __future__ import annotations

import asyncio
import signal
import socket
import subprocess
import sys
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from tests.server import Server

from tickstone.cli.listener import listen


def serve(*words: str) -> subprocess.CompletedProcess[str]:
    program = [sys.executable, "-m", "tickstone.cli.main", "serve", *words]
    return subprocess.run(program, capture_output=True, text=True, timeout=60, check=False)


def test_a_second_server_on_the_same_folder_leaves_the_first_alone(planted_folder: Path) -> None:
    first = Server(planted_folder)
    first.start()
    try:
        second = serve("--data", str(planted_folder), "--port", str(first.port + 1))
        assert second.returncode == 1
        assert "another Tick Stone already serves" in second.stderr
        answer = urllib.request.urlopen(f"{first.address}/api/rigs", timeout=10).read()
        assert b"Bramble" in answer
    finally:
        first.stop()


def test_small_answers_are_sent_at_once() -> None:
    """And not when the other side acknowledges what came before them, which takes 40 ms."""

    async def accepted_sends_at_once() -> bool:
        said: asyncio.Future[bool] = asyncio.get_running_loop().create_future()

        def accept(_: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            mine = writer.get_extra_info("socket")
            said.set_result(bool(mine.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)))
            writer.close()

        listener = listen(0)
        async with await asyncio.start_server(accept, sock=listener):
            _, writer = await asyncio.open_connection(*listener.getsockname())
            writer.close()
            return await said

    with ThreadPoolExecutor(1) as elsewhere:  # a browser's events may have this thread
        assert elsewhere.submit(asyncio.run, accepted_sends_at_once()).result()


def test_a_port_that_is_taken_is_told(folder: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        refused = serve("--data", str(folder), "--port", str(taken.getsockname()[1]))
    assert refused.returncode == 1
    assert "is taken. Choose another with --port." in refused.stderr
    assert not (folder / "postgresql").exists()


def test_a_folder_that_cannot_be_is_told() -> None:
    refused = serve("--data", "/proc/nowhere")
    assert refused.returncode == 1
    assert "could not start" in refused.stderr
    assert "Traceback" not in refused.stderr


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGINT])
def test_a_server_asked_to_end_takes_its_database_with_it(
    planted_folder: Path, how: signal.Signals
) -> None:
    server = Server(planted_folder)
    server.start()
    lock = planted_folder / "postgresql" / "data" / "postmaster.pid"
    assert lock.exists()
    server.stop(how)
    assert not lock.exists(), "PostgreSQL takes it away when it has ended in good order"
