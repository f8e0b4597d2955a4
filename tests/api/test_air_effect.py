"""What a thermometer’s air does to the distances of its rig, through the API."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.kinds.loads import asked
from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.cramer import speed_of_sound


def effect_of(client: TestClient) -> dict[str, Any]:
    rig = asked(client, "GET", "/api/rigs/1")
    row = next(one for one in rig["sensors"] if one["name"] == "Shed air")
    sensor = asked(client, "GET", f"/api/sensors/{row['id']}")
    assert sensor["tells_air"]
    recording = sensor["recordings"][0]["id"]
    told: dict[str, Any] = asked(client, "GET", f"/api/recordings/{recording}/air-effect")
    return told


def test_every_distance_moves_as_the_speed_of_sound_does(client: TestClient) -> None:
    told = effect_of(client)
    assert told["told"]["temperature_c"] == pytest.approx(8.3, abs=0.2)
    assert told["told"]["temperature_tolerance_c"] < told["typed"]["temperature_tolerance_c"]
    typed_air, told_air = (AirConditions(**told[name]) for name in ("typed", "told"))
    ratio = speed_of_sound(told_air) / speed_of_sound(typed_air)
    rows = {one["sensor"]: one for one in told["distances"]}
    assert set(rows) == {"Front ranger", "Left ranger"}
    for one in rows.values():
        assert one["is_heard"]
        assert one["rests"]
        # What is not the echo's way, such as where it is mounted, does not move.
        assert one["told_m"] / one["typed_m"] == pytest.approx(ratio, abs=1e-3)
        assert one["u_told_m"] < one["u_typed_m"]


def test_once_it_is_taken_nothing_moves_any_more(client: TestClient) -> None:
    told = effect_of(client)
    asked(client, "PATCH", "/api/rigs/1", {"air": told["told"]})
    after = effect_of(client)
    assert after["typed"] == after["told"] == told["told"]
    for one in after["distances"]:
        assert one["told_m"] == one["typed_m"]
        assert one["u_told_m"] == one["u_typed_m"]


def test_a_sensor_that_tells_no_air_has_no_effect_on_it(client: TestClient) -> None:
    recording = asked(client, "GET", "/api/sensors/2")["recordings"][0]["id"]
    refused = client.get(f"/api/recordings/{recording}/air-effect")
    assert refused.status_code == 404
    assert "tells none" in refused.json()["detail"]
