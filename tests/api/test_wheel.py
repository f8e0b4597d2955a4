"""What a wheel's recording comes to, through the API and on the demo's own run."""

from __future__ import annotations

import csv
import io
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
