"""A log of the made-up kind, and a sensor that has it."""

from __future__ import annotations

import json
import time
from typing import Any

import numpy as np

HELD = [(1.0, 9.0, "empty", 0.0), (11.0, 19.0, "two", 2.0), (21.0, 29.0, "five", 5.0)]


def log() -> bytes:
    """Three loads, 20 lines a second; the cells read 57 counts when empty, 91 a kilogram."""
    rng = np.random.default_rng(4)
    rows = ["t_ms,left_cell,right_cell"]
    for n in range(600):
        kilograms = HELD[n // 200][3]
        total = 57.0 + 91.0 * kilograms + rng.normal(0.0, 1.0)
        rows.append(f"{50 * n},{0.4 * total:.0f},{0.6 * total:.0f}")
    return ("\n".join(rows) + "\n").encode()


def asked(client: Any, method: str, path: str, body: Any = None) -> Any:
    answer = client.request(method, path, json=body)
    assert answer.status_code < 300, (path, answer.text)
    return answer.json() if answer.content else None


def sensor_with_recording(client: Any) -> tuple[int, int]:
    """A family of one's own that names the kind, a sensor of it, and a log brought in."""
    family = asked(client, "GET", "/api/families/device/hall_analogue")["document"]
    family |= {"name": "load_tray", "label": "load tray", "chain": "tray"}
    asked(client, "POST", "/api/families/device", {"text": json.dumps(family)})
    sensor = asked(client, "POST", "/api/rigs/1/sensors", {"name": "Tray", "family": "load_tray"})
    sent = client.post("/api/rigs/1/files", params={"source_name": "tray.csv"}, content=log())
    key = sent.json()["key"]
    columns = [
        {"number": n, "sensor_id": sensor["id"], "role": "cells", "form": "counts"} for n in (0, 1)
    ]
    asked(client, "POST", f"/api/files/{key}/read", {"name": "loads", "columns": columns})
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        state = asked(client, "GET", f"/api/files/{key}")
        if state["state"] == "done":
            return sensor["id"], state["recordings"][str(sensor["id"])]
        assert state["state"] == "reading", state["problem"]
        time.sleep(0.02)
    raise AssertionError("the reading never ended")
