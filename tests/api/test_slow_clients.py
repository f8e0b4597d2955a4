"""Clients that stall: they hold no connection to the store, and the pages stay quick."""

from __future__ import annotations

import contextlib
import json
import socket
import time
import urllib.request

from sqlalchemy import Engine

from tests.inner_server import InnerServer

STALLED = 200


def asked(server: InnerServer, path: str) -> tuple[int, float]:
    began = time.monotonic()
    with urllib.request.urlopen(server.address + path, timeout=60) as answer:
        answer.read()
        return answer.status, time.monotonic() - began


def stalled(server: InnerServer, head: str, body: bytes) -> socket.socket:
    one = socket.create_connection(("127.0.0.1", server.port))
    one.sendall(f"{head} HTTP/1.1\r\nhost: 127.0.0.1:{server.port}\r\n".encode() + body)
    return one


def test_uploads_that_stall_leave_the_pages_quick(
    server: InnerServer, planted_engine: Engine
) -> None:
    part = b"content-length: 100000\r\n\r\nt,x\n"
    with contextlib.ExitStack() as stack:
        for n in range(STALLED):
            path = "/api/rigs/1/files" if n % 2 else "/api/archives"
            stack.enter_context(stalled(server, f"POST {path}", part))
        time.sleep(1.0)
        for path in ("/api/rigs", "/api/rigs/1", "/api/sensors/1", "/api/rigs/1/takes"):
            status, took = asked(server, path)
            assert status == 200
            assert took < 10.0, (path, took)
        assert planted_engine.pool.checkedout() == 0


def test_answers_that_nobody_reads_hold_no_connection(
    server: InnerServer, planted_engine: Engine
) -> None:
    body = json.dumps({"channels": [{"channel": 0}], "points": 8_000}).encode()
    head = f"content-type: application/json\r\ncontent-length: {len(body)}\r\n\r\n".encode()
    with contextlib.ExitStack() as stack:
        for n in range(60):
            if n % 2:
                stack.enter_context(stalled(server, "GET /api/takes/1/file", b"\r\n"))
            else:
                stack.enter_context(stalled(server, "POST /api/takes/1/plot", head + body))
        time.sleep(1.0)
        assert asked(server, "/api/rigs")[0] == 200
        deadline = time.monotonic() + 30.0
        while planted_engine.pool.checkedout() and time.monotonic() < deadline:
            time.sleep(0.1)
        assert planted_engine.pool.checkedout() == 0
