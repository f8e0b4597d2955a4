"""The whole work on the front ranger, through the API."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

MARKS = [
    {"name": "first nail", "start_s": 1, "end_s": 10, "true_m": 0.3},
    {"name": "second nail", "start_s": 15, "end_s": 22, "true_m": 0.6},
    {"name": "door frame", "start_s": 33, "end_s": 41, "true_m": 1.0},
]


def stones(client: TestClient, sensor: int = 1) -> dict[str, dict]:
    row = client.get(f"/api/sensors/{sensor}").json()["stones"]
    return {stone["stage"]: stone for stone in row}


def finish(client: TestClient, recording: int) -> None:
    for mark in MARKS:
        assert client.post(f"/api/recordings/{recording}/marks", json=mark).status_code == 201
    assert client.post(f"/api/recordings/{recording}/calibrations").status_code == 201
    rig = {"air": {"temperature_c": 14.0, "relative_humidity": 0.62}}
    assert client.patch("/api/rigs/1", json=rig).status_code == 200


def test_from_echo_to_stop(client: TestClient, ruler: int) -> None:
    assert stones(client)["heard"]["state"] == "ticked"

    view = client.post(f"/api/recordings/{ruler}/view", json={}).json()
    assert view["samples"] == 831
    assert view["counts"]["no_echo"] == 31
    assert len([f for f in view["flags"] if f["status"] == "no_echo"]) == 31
    assert None in view["distance_m"]

    warmer = client.post(
        f"/api/recordings/{ruler}/view", json={"air": {"temperature_c": 26.0}}
    ).json()
    moved = warmer["working"][-1]["value"] / view["working"][-1]["value"]
    assert moved == pytest.approx(1.021, abs=0.002)

    finish(client, ruler)
    marks = client.get(f"/api/recordings/{ruler}/marks").json()
    assert marks["fit"]["scale"] == pytest.approx(1 / 1.0032, abs=0.004)
    assert [abs(m["residual_m"]) < 0.002 for m in marks["fit"]["marks"]] == [True] * 3
    assert stones(client)["calibrated"]["state"] == "ticked"

    stopping = {"speed_m_per_s": 0.6, "deceleration_m_per_s2": 1.5}
    worked = client.post("/api/sensors/1/stopping", json=stopping).json()
    assert worked["sample_s"] == pytest.approx(1 / 19.77, rel=0.01)
    threshold = {
        "stop_m": worked["suggested_stop_m"],
        "go_m": worked["suggested_go_m"],
        "stopping": stopping,
    }
    assert client.post("/api/sensors/1/thresholds", json=threshold).status_code == 201
    assert stones(client)["tuned"]["state"] == "ticked"

    decided = client.post(f"/api/recordings/{ruler}/view", json={}).json()["decisions"]
    assert [span["decision"] for span in decided][:2] == ["stop", "clear"]
    assert "blind" in {span["decision"] for span in decided}

    client.patch("/api/rigs/1", json={"air": {"temperature_c": 26.0, "relative_humidity": 0.62}})
    assert stones(client)["calibrated"]["state"] == "stale"
    assert "12 °C warmer" in stones(client)["calibrated"]["reason"]
    assert stones(client)["tuned"]["short"] == "follows"
    findings = client.get("/api/sensors/1").json()["findings"]
    assert findings[0]["title"] == "The calibration may no longer hold: air +12 °C."


def test_calibrated_readings_come_out_at_the_ruler(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    for at_s, true_m in ((5.0, 0.3), (18.0, 0.6), (40.0, 1.0)):
        view = client.post(f"/api/recordings/{ruler}/view", json={"at_s": at_s}).json()
        step = view["working"][-1]
        assert abs(step["value"] - true_m) <= 2 * step["u"]


def test_undo_and_restore(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    mark = client.get(f"/api/recordings/{ruler}/marks").json()["marks"][1]
    assert len(client.delete(f"/api/marks/{mark['id']}").json()["marks"]) == 2
    back = client.post(f"/api/marks/{mark['id']}/restore").json()
    assert [m["name"] for m in back["marks"]] == [m["name"] for m in MARKS]

    client.delete(f"/api/recordings/{ruler}")
    assert client.get(f"/api/recordings/{ruler}").status_code == 404
    assert client.post(f"/api/recordings/{ruler}/restore").json()["samples"] == 831

    first = client.post("/api/sensors/1/thresholds", json={"stop_m": 0.4, "go_m": 0.5}).json()
    second = client.post("/api/sensors/1/thresholds", json={"stop_m": 0.6, "go_m": 0.7}).json()
    client.delete(f"/api/thresholds/{second['id']}")
    assert client.get("/api/sensors/1").json()["threshold"]["id"] == first["id"]

    for path in ("sensors/1", "rigs/1"):
        client.delete(f"/api/{path}")
        assert client.get(f"/api/{path}").status_code == 404
        assert client.post(f"/api/{path}/restore").status_code == 200


def test_an_earlier_calibration_can_be_chosen_again(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    first = client.get("/api/sensors/1").json()["calibration"]["id"]
    client.post(f"/api/recordings/{ruler}/calibrations")
    sensor = client.patch("/api/sensors/1", json={"calibration_id": first}).json()
    assert sensor["calibration"]["id"] == first
    assert len(sensor["calibrations"]) == 2
    assert (
        client.patch("/api/sensors/1", json={"calibration_id": None}).json()["calibration"] is None
    )
    others = client.get("/api/sensors/2").json()["calibration"]["id"]
    assert client.patch("/api/sensors/1", json={"calibration_id": others}).status_code == 422


def test_changing_the_chain_makes_the_calibration_stale(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    client.patch("/api/sensors/1", json={"parameters": {"mount_m": 0.012}})
    assert stones(client)["calibrated"]["short"] == "mount changed"


def test_a_rig_from_nothing(client: TestClient) -> None:
    rig = client.post("/api/rigs", json={"name": "Thistle"}).json()
    assert (rig["next"], rig["sensors"]) == (None, [])
    sensor = client.post(f"/api/rigs/{rig['id']}/sensors", json={"name": "Nose"}).json()
    assert [stone["state"] for stone in sensor["stones"]] == ["hollow"] * 5
    client.post(f"/api/sensors/{sensor['id']}/sign-offs", json={"stage": "wired", "is_right": True})
    home = client.get(f"/api/rigs/{rig['id']}").json()
    assert (home["next"]["stage"], home["ticked"]) == ("heard", 1)
    stopping = {"speed_m_per_s": 0.5, "deceleration_m_per_s2": 1.0}
    worked = client.post(f"/api/sensors/{sensor['id']}/stopping", json=stopping).json()
    assert "no recording yet" in worked["note"]


def test_sign_offs_are_taken_back(client: TestClient) -> None:
    body = {"stage": "driven", "is_right": False, "note": "hit the bench"}
    row = client.post("/api/sensors/1/sign-offs", json=body).json()
    assert stones(client)["driven"]["state"] == "failing"
    client.delete(f"/api/sign-offs/{row['id']}")
    assert stones(client)["driven"]["state"] == "hollow"
    client.post(f"/api/sign-offs/{row['id']}/restore")
    assert stones(client)["driven"]["state"] == "failing"


def test_the_csv_holds_every_reading(client: TestClient, ruler: int) -> None:
    answer = client.get(f"/api/recordings/{ruler}/csv")
    lines = answer.text.splitlines()
    assert len(lines) == 832
    assert lines[0] == "time_s,echo_us,distance_m,status,decision"
    assert 'filename="ruler-by-the-bench.csv"' in answer.headers["content-disposition"]


def test_a_window_of_a_long_recording_is_drawn_from_few_points(
    client: TestClient, bring_in
) -> None:
    lines = b"".join(b"%d,%d\n" % (50 * n, 1800 + n % 700 if n % 97 else 0) for n in range(120_000))
    done = bring_in(b"t_ms,echo_us\n" + lines, header_line=1, width=2)
    path = f"/api/recordings/{done['recording_id']}/view"
    whole = client.post(path, json={"points": 1000}).json()
    assert whole["samples"] == 120_000
    assert len(whole["time_s"]) < 2_100
    assert len(whole["flags"]) <= 2_000
    part = client.post(path, json={"points": 1000, "from_s": 100, "to_s": 110}).json()
    assert part["shown_samples"] == 201
    assert part["time_s"][0] >= 100
