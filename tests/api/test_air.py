"""The rig's own thermometer against the air that was typed."""

from __future__ import annotations

import time
from typing import Any

import pytest
from fastapi.testclient import TestClient


def with_thermometer(client: TestClient, celsius: float) -> int:
    """A log of the front ranger and the thermometer in the shed."""
    rows = [f"{50 * n},{5800 + n % 5},{celsius:.1f}" for n in range(200)]
    text = "\n".join(["t_ms,front_us,temp_C", *rows]) + "\n"
    sent = client.post(
        "/api/rigs/1/files", params={"source_name": "air.csv"}, content=text.encode()
    )
    columns = [
        {"number": 0, "sensor_id": 1, "role": "echo", "form": "time"},
        {"number": 1, "sensor_id": 6},
    ]
    key = sent.json()["key"]
    client.post(f"/api/files/{key}/read", json={"name": "air", "columns": columns})
    while (state := client.get(f"/api/files/{key}").json())["state"] == "reading":
        time.sleep(0.02)
    recording: int = state["recordings"]["1"]
    return recording


def said(client: TestClient, recording: int, **draft: Any) -> Any:
    return client.post(f"/api/recordings/{recording}/look", json={"draft": draft}).json()["air"]


def test_a_thermometer_that_disagrees_is_heard_until_it_is_believed(client: TestClient) -> None:
    recording = with_thermometer(client, 24.0)
    typed = client.get("/api/rigs/1").json()["air"]["temperature_c"]
    assert said(client, recording) == {"heard_c": 24.0, "typed_c": typed}
    # It has no say where the speed of sound is a fixed number.
    fixed = client.get("/api/sensors/1").json()["parameters"] | {"air_model": "fixed"}
    assert said(client, recording, parameters=fixed) is None
    air = client.get(f"/api/recordings/{recording}").json()["air"] | {"temperature_c": 24.0}
    assert said(client, recording, air=air) is None
    client.patch(f"/api/recordings/{recording}", json={"air": air})
    assert said(client, recording) is None


@pytest.mark.parametrize("celsius", [16.4, -127.0])
def test_one_that_agrees_or_is_dead_says_nothing(client: TestClient, celsius: float) -> None:
    assert said(client, with_thermometer(client, celsius)) is None
