"""What a wheel's recording comes to, through the API and on the demo's own run."""

from __future__ import annotations

import csv
import io
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

TAPE_M = 2.34


@pytest.fixture
def run(client: TestClient) -> dict[str, Any]:
    """Bramble's run along the tape."""
    sensors = client.get("/api/rigs/1").json()["sensors"]
    wheel = next(one["id"] for one in sensors if one["name"] == "Rear wheel")
    recording: dict[str, Any] = client.get(f"/api/sensors/{wheel}").json()["recordings"][0]
    return recording


def trip(client: TestClient, recording: int, **body: Any) -> list[dict[str, float]]:
    answer = client.post(f"/api/recordings/{recording}/digests/trip", json=body)
    assert answer.status_code == 200, answer.text
    return [
        {one["name"]: one["value"] for one in stretch["figures"]}
        for stretch in answer.json()["stretches"]
    ]


def test_a_trip_and_its_laps(client: TestClient, run: dict[str, Any]) -> None:
    (whole,) = trip(client, run["id"])
    assert whole["all"] == pytest.approx(run["duration_s"])
    for end in (10.0, 18.0):
        mark = {"name": "Lap", "start_s": end, "end_s": end}
        client.post(f"/api/takes/{run['take_id']}/marks", json=mark)
    again, *laps = trip(client, run["id"])
    assert again == whole
    assert sum(lap["distance"] for lap in laps) == pytest.approx(whole["distance"])
    assert laps[0]["distance"] == pytest.approx(TAPE_M, rel=0.1)

    (seen,) = trip(client, run["id"], from_s=12.0, to_s=12.5)
    assert 0.0 < seen["distance"] < laps[0]["distance"]
    doubled = {"draft": {"parameters": {"edges": "both"}}}
    assert trip(client, run["id"], **doubled)[0]["distance"] == pytest.approx(whole["distance"] / 2)

    text = client.get(f"/api/recordings/{run['id']}/digests/trip/csv").text
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [row["lap"] for row in rows] == ["all", "1", "2", "3"]
    assert float(rows[0]["distance"]) == pytest.approx(whole["distance"], rel=1e-5)


@pytest.mark.parametrize("body", [{"from_s": 900.0}, {"from_s": 30.0, "to_s": 2.0}])
def test_no_stretch_at_all_is_no_trip(
    client: TestClient, run: dict[str, Any], body: dict[str, float]
) -> None:
    (whole,) = trip(client, run["id"], **body)
    assert (whole["distance"], whole["mean_all"]) == (0.0, None)


def test_a_ranger_keeps_no_trip(client: TestClient, ruler: int) -> None:
    answer = client.post(f"/api/recordings/{ruler}/digests/trip", json={})
    assert answer.status_code == 404
    assert "kind of sensor" in answer.text


def test_another_tyre_undoes_a_roll_out_until_somebody_says_otherwise(
    client: TestClient, run: dict[str, Any]
) -> None:
    mark = {"name": "tape", "calibration": "roll-out", "start_s": 2.0, "end_s": 9.0}
    mark |= {"value": TAPE_M, "u": 0.005}
    client.post(f"/api/recordings/{run['id']}/marks", json=mark)
    kept = client.post(f"/api/recordings/{run['id']}/calibrations", json={"kind": "roll-out"})
    used = {"calibration_id": kept.json()["id"]}

    def said(undone_by: str) -> tuple[int, str]:
        address = f"/api/sensors/{run['sensor_id']}"
        body = {**used, "undone_by": undone_by}
        answer = client.put(f"{address}/calibrations/roll-out", json=body)
        stones = client.get(address).json()["stones"]
        state = next(one for one in stones if one["stage"] == "calibrated")
        return answer.status_code, f"{state['state']} {state['short']}"

    assert said("another tyre") == (200, "stale another tyre")
    assert said("gone with the wind") == (422, "stale another tyre")
    assert said("")[1].startswith("ticked")


def quadrature_log() -> bytes:
    """Twenty lines a turn, half a turn a second forward, then back."""
    code = (0, 1, 3, 2)
    steps = [*range(200), *range(200, 80, -1)]
    rows = [f"{25 * n},{code[step % 4] & 1},{code[step % 4] >> 1}" for n, step in enumerate(steps)]
    return ("t_ms,a,b\n" + "\n".join(rows) + "\n").encode()


def test_two_channels_tell_the_way(client: TestClient) -> None:
    new = {"name": "Left drive", "family": "quadrature_encoder"}
    sensor = client.post("/api/rigs/1/sensors", json=new).json()["id"]
    sent = client.post(
        "/api/rigs/1/files", params={"source_name": "drive.csv"}, content=quadrature_log()
    )
    key = sent.json()["key"]
    columns = [
        {"number": n, "sensor_id": sensor, "role": "channels", "form": "level"} for n in (0, 1)
    ]
    one = client.post(f"/api/files/{key}/read", json={"name": "drive", "columns": columns[:1]})
    assert one.status_code == 422
    assert "are 2 columns, and 1 is given" in one.text
    client.post(f"/api/files/{key}/read", json={"name": "drive", "columns": columns})
    while (state := client.get(f"/api/files/{key}").json())["state"] == "reading":
        time.sleep(0.02)
    recording = state["recordings"][str(sensor)]
    answer = client.post(f"/api/recordings/{recording}/look", json={})
    assert answer.status_code == 200, answer.text
    seen = answer.json()["outputs"]
    told = {one["name"]: one for one in seen}
    ways = told["direction"]["states"]["state"]
    assert [way for way in ways if way != "unknown"] == ["forward", "backward"]
    assert told["rpm"]["working"][-1]["value"] == pytest.approx(-0.5, rel=0.05)
    text = client.get(f"/api/recordings/{recording}/csv").text
    assert {row["direction"] for row in csv.DictReader(io.StringIO(text))} >= {
        "forward",
        "backward",
    }
    (whole,) = trip(client, recording)
    assert whole["distance"] == pytest.approx(319 / 80 * 3.14159 * 0.15, rel=0.01)
