"""The page of a rig of fifty sensors, each wired, recorded and calibrated or not: server time."""

from __future__ import annotations

import statistics
import time
from typing import Any

import numpy as np
from fastapi.testclient import TestClient

from bench.own_database import own_database
from tickstone.api.app import make_app

SENSORS = 50
ROWS = 20_000
LOOKS = 30


def run() -> str:
    with (
        own_database() as (engine, folder),
        TestClient(make_app(engine, folder), base_url="http://localhost") as client,
    ):
        rig = _rig(client)
        took = [_look(client, rig) for _ in range(LOOKS)]
    return (
        f"Page of a rig of {SENSORS} sensors: first {1e3 * took[0]:.0f} ms, then "
        f"{1e3 * statistics.median(took[1:]):.0f} ms, at most {1e3 * max(took[1:]):.0f} ms "
        "(budget 300)"
    )


def _look(client: TestClient, rig: int) -> float:
    began = time.perf_counter()
    answer = client.get(f"/api/rigs/{rig}")
    took = time.perf_counter() - began
    assert answer.status_code == 200, answer.text
    return took


def _rig(client: TestClient) -> int:
    rig: int = _asked(client, "/api/rigs", {"name": "Rack"})["id"]
    rng = np.random.default_rng(5)
    heads, columns, cells = ["t_ms"], [], [50 * np.arange(ROWS)]
    for number in range(SENSORS):
        is_wheel = number % 2 == 1
        family = "hall_switch_unipolar" if is_wheel else "ultrasonic_ranger"
        new = {"name": f"Sensor {number + 1}", "family": family}
        sensor = _asked(client, f"/api/rigs/{rig}/sensors", new)["id"]
        role, form = ("pulses", "count") if is_wheel else ("echo", "time")
        columns.append({"number": number, "sensor_id": sensor, "role": role, "form": form})
        heads.append(f"s{number}")
        cells.append(
            np.cumsum(rng.integers(0, 3, ROWS))
            if is_wheel
            else rng.normal(5_800, 20, ROWS).astype(int)
        )
    lines = [",".join(map(str, row)) for row in np.stack(cells).T.tolist()]
    data = "\n".join([",".join(heads), *lines]).encode()
    sent = client.post(f"/api/rigs/{rig}/files", params={"source_name": "r.csv"}, content=data)
    key = sent.json()["key"]
    _asked(client, f"/api/files/{key}/read", {"name": "all", "columns": columns})
    while client.get(f"/api/files/{key}").json()["state"] == "reading":
        time.sleep(0.1)
    return rig


def _asked(client: TestClient, path: str, body: dict[str, Any]) -> Any:
    answer = client.post(path, json=body)
    assert answer.status_code < 300, answer.text
    return answer.json()


if __name__ == "__main__":
    print(run())
