"""A client on the whole app, with a database of its own."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from tests.conftest import copied_engine
from tickstone.api.app import make_app
from tickstone.demo.logs import FRONT_RULER, log_path

RULER = log_path(FRONT_RULER).read_bytes()
READ_RULER = {
    "name": "ruler by the bench",
    "air": {"temperature_c": 14.0, "relative_humidity": 0.62},
    "columns": [{"number": 0, "sensor_id": 1}],
}
FILES = "/api/rigs/1/files"


@pytest.fixture
def client(planted_engine: Engine, tmp_path: Path) -> Iterator[TestClient]:
    with _client(planted_engine, tmp_path) as client:
        yield client


@pytest.fixture(scope="module")
def asker(
    cluster_url: str, planted_template: str, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[TestClient]:
    """For what is refused or only read: nothing changes, so one store serves a whole module."""
    with (
        copied_engine(cluster_url, planted_template) as engine,
        _client(engine, tmp_path_factory.mktemp("asker")) as client,
    ):
        yield client


def _client(engine: Engine, folder: Path) -> TestClient:
    app = make_app(engine, folder)
    return TestClient(app, base_url="http://localhost", raise_server_exceptions=False)


BringIn = Callable[..., dict[str, Any]]


@pytest.fixture
def bring_in(client: TestClient) -> BringIn:
    """Send a file, have it read, and wait until it is done; returns what became of it."""

    def run(data: bytes = RULER, **change: Any) -> dict[str, Any]:
        sent = client.post(FILES, params={"source_name": "log.csv"}, content=data)
        assert sent.status_code == 201, sent.text
        key = sent.json()["key"]
        asked = client.post(f"/api/files/{key}/read", json={**READ_RULER, **change})
        assert asked.status_code == 202, asked.text
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            state = client.get(f"/api/files/{key}").json()
            if state["state"] != "reading":
                return state
            time.sleep(0.02)
        raise AssertionError("the reading never ended")

    return run


@pytest.fixture
def ruler(bring_in: BringIn) -> int:
    """The ruler recording of the front ranger."""
    return int(bring_in()["recordings"]["1"])
