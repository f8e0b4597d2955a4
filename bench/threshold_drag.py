"""A threshold that is dragged over 100 k samples of five sensors: what the page asks at each step.

Both questions of the page, the look and what is said of the thresholds, by the real server over
the real database. The drawing itself is local and does not wait for either.
"""

from __future__ import annotations

import statistics
import time
from typing import Any

import numpy as np
from fastapi.testclient import TestClient

from bench.own_database import own_database
from tickstone.api.app import make_app
from tickstone.core.line_row import Row, even_places_m

SENSORS = 5
SAMPLES = 100_000
STEPS = 40
BUDGET_MS = 150


def run() -> str:
    with (
        own_database() as (engine, folder),
        TestClient(make_app(engine, folder), base_url="http://localhost") as client,
    ):
        sensor, recording = _row(client)
        looks, sayings = [], []
        for step in range(STEPS):
            at = [0.3 + 0.4 * step / STEPS, 0.5, 0.5, 0.5, 0.5]
            rule = {"kind": "line-thresholds", "parameters": {"at": at, "half": [0.1] * SENSORS}}
            draft = {"draft": {"rule": rule}}
            looks.append(_ms(client, f"/api/recordings/{recording}/look", draft))
            sayings.append(
                _ms(client, f"/api/sensors/{sensor}/suggestion",
                    {"kind": rule["kind"], "tried": rule["parameters"]})
            )  # fmt: skip
    look, saying = (f"{statistics.median(one):.0f} ms, at most {max(one):.0f}"
                    for one in (looks[1:], sayings[1:]))  # fmt: skip
    return (
        f"A dragged threshold, {SENSORS} × {SAMPLES // 1000} k samples: look {look}; "
        f"what is said of it {saying} (budget {BUDGET_MS})"
    )


def _row(client: TestClient) -> tuple[int, int]:
    """A row that has its black and white, and its recording."""
    rig = _asked(client, "/api/rigs", {"name": "Row"})["id"]
    new = {"name": "Strip", "family": "reflective_array_5"}
    sensor: int = _asked(client, f"/api/rigs/{rig}/sensors", new)["id"]
    rng = np.random.default_rng(1)
    row = Row(even_places_m(SENSORS, 0.0095), 0.019, 0.006)
    line_m = 0.03 * np.sin(np.arange(SAMPLES) * 0.01)
    counts = np.rint(200 + 600 * row.covered(line_m) + rng.normal(0, 4, (SENSORS, SAMPLES)))
    cells = np.vstack([5 * np.arange(SAMPLES), counts]).astype(int).T.tolist()
    heads = ",".join(["t_ms", *(f"s{n + 1}" for n in range(SENSORS))])
    data = "\n".join([heads, *(",".join(map(str, line)) for line in cells)]).encode()
    sent = client.post(f"/api/rigs/{rig}/files", params={"source_name": "r.csv"}, content=data)
    key = sent.json()["key"]
    columns = [
        {"number": n, "sensor_id": sensor, "role": "light", "form": "counts"}
        for n in range(SENSORS)
    ]
    _asked(client, f"/api/files/{key}/read", {"name": "run", "columns": columns})
    while (state := client.get(f"/api/files/{key}").json())["state"] == "reading":
        time.sleep(0.1)
    recording: int = state["recordings"][str(sensor)]
    mark = {"calibration": "black-white", "pose": "wave", "start_s": 0.0, "end_s": 60.0}
    _asked(client, f"/api/recordings/{recording}/marks", mark)
    _asked(client, f"/api/recordings/{recording}/calibrations", {"kind": "black-white"})
    return sensor, recording


def _asked(client: TestClient, path: str, body: dict[str, Any]) -> Any:
    answer = client.post(path, json=body)
    assert answer.status_code < 300, answer.text
    return answer.json()


def _ms(client: TestClient, path: str, body: dict[str, Any]) -> float:
    began = time.perf_counter()
    _asked(client, path, body)
    return 1e3 * (time.perf_counter() - began)


if __name__ == "__main__":
    print(run())
