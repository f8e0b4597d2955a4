"""The whole work on the front ranger, through the API."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

MARKS = [
    {"name": "first nail", "start_s": 1, "end_s": 10, "value": 0.3},
    {"name": "second nail", "start_s": 15, "end_s": 22, "value": 0.6},
    {"name": "door frame", "start_s": 33, "end_s": 41, "value": 1.0},
]


KIND = {"kind": "offset-scale"}


def look(client: TestClient, recording: int, **asked: Any) -> dict[str, dict]:
    """The outputs of a look, by name."""
    answer = client.post(f"/api/recordings/{recording}/look", json=asked)
    assert answer.status_code == 200, answer.text
    return {one["name"]: one for one in answer.json()["outputs"]}


def in_use(client: TestClient, sensor: int = 1) -> int | None:
    rows = client.get(f"/api/sensors/{sensor}").json()["calibrations"]
    return next((row["id"] for row in rows if row["is_in_use"]), None)


def stones(client: TestClient, sensor: int = 1) -> dict[str, dict]:
    row = client.get(f"/api/sensors/{sensor}").json()["stones"]
    return {stone["stage"]: stone for stone in row}


def finish(client: TestClient, recording: int) -> None:
    for mark in MARKS:
        assert client.post(f"/api/recordings/{recording}/marks", json=mark).status_code == 201
    kept = client.post(f"/api/recordings/{recording}/calibrations", json=KIND)
    assert kept.status_code == 201, kept.text
    rig = {"air": {"temperature_c": 14.0, "relative_humidity": 0.62}}
    assert client.patch("/api/rigs/1", json=rig).status_code == 200


def test_from_echo_to_stop(client: TestClient, ruler: int) -> None:
    assert stones(client)["heard"]["state"] == "ticked"

    seen = look(client, ruler)["distance"]
    (line,) = seen["lines"]
    assert seen["samples"] == line["samples"] == 832
    assert seen["counts"]["no_echo"] == 31
    assert line["flag"].count("no_echo") == 31
    assert None in line["low"]

    draft = {"air": {"temperature_c": 26.0}}
    warmer = look(client, ruler, draft=draft)["distance"]["working"][-1]["value"]
    assert warmer / seen["working"][-1]["value"] == pytest.approx(1.021, abs=0.002)

    finish(client, ruler)
    fit = client.post(f"/api/recordings/{ruler}/fit", json=KIND).json()
    assert fit["parameters"]["scale"] == pytest.approx(1 / 1.0032, abs=0.004)
    assert [abs(span["residual"]) < 0.002 for span in fit["spans"]] == [True] * 3
    assert stones(client)["calibrated"]["state"] == "ticked"

    evidence = {"speed_m_per_s": 0.6, "deceleration_m_per_s2": 1.5}
    asked = {"kind": "stop-and-go", "evidence": evidence}
    worked = client.post("/api/sensors/1/suggestion", json=asked).json()
    assert worked["taken"]["sample_s"] == pytest.approx(1 / 19.77, rel=0.01)
    rule = {**asked, "parameters": worked["parameters"]}
    assert client.post("/api/sensors/1/rules", json=rule).status_code == 201
    assert stones(client)["tuned"]["state"] == "ticked"

    decided = look(client, ruler)["way"]["states"]["state"]
    assert decided[:2] == ["stop", "clear"]
    assert "blind" in decided

    client.patch("/api/rigs/1", json={"air": {"temperature_c": 26.0, "relative_humidity": 0.62}})
    assert stones(client)["calibrated"]["state"] == "stale"
    assert "12 °C warmer" in stones(client)["calibrated"]["reason"]
    assert stones(client)["tuned"]["short"] == "follows"
    findings = client.get("/api/sensors/1").json()["findings"]
    assert findings[0]["title"] == "The calibration may no longer hold: air +12 °C."


def test_calibrated_readings_come_out_at_the_ruler(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    for at_s, true_m in ((5.0, 0.3), (18.0, 0.6), (40.0, 1.0)):
        step = look(client, ruler, at_s=at_s)["distance"]["working"][-1]
        assert abs(step["value"] - true_m) <= 2 * step["u"]


def test_undo_and_restore(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    marks = f"/api/recordings/{ruler}/marks"
    mark = client.get(marks).json()[1]
    assert client.delete(f"/api/marks/{mark['id']}").status_code == 204
    assert len(client.get(marks).json()) == 2
    client.post(f"/api/marks/{mark['id']}/restore")
    assert [m["name"] for m in client.get(marks).json()] == [m["name"] for m in MARKS]

    client.delete(f"/api/recordings/{ruler}")
    assert client.get(f"/api/recordings/{ruler}").status_code == 404
    assert client.post(f"/api/recordings/{ruler}/restore").json()["samples"] == 832

    first, second = (
        client.post(
            "/api/sensors/1/rules",
            json={"kind": "stop-and-go", "parameters": {"stop_m": stop, "go_m": stop + 0.1}},
        ).json()
        for stop in (0.4, 0.6)
    )
    client.delete(f"/api/rules/{second['id']}")
    assert client.get("/api/sensors/1").json()["rules"][0]["id"] == first["id"]

    for path in ("sensors/1", "rigs/1"):
        client.delete(f"/api/{path}")
        assert client.get(f"/api/{path}").status_code == 404
        assert client.post(f"/api/{path}/restore").status_code == 200


def test_an_earlier_calibration_can_be_chosen_again(client: TestClient, ruler: int) -> None:
    finish(client, ruler)
    first = in_use(client)
    client.post(f"/api/recordings/{ruler}/calibrations", json=KIND)
    assert in_use(client) != first
    path = "/api/sensors/1/calibrations/offset-scale"
    assert len(client.put(path, json={"calibration_id": first}).json()) == 2
    assert in_use(client) == first
    client.put(path, json={"calibration_id": None})
    assert in_use(client) is None
    assert client.put(path, json={"calibration_id": in_use(client, 2)}).status_code == 422


def test_a_trial_goes_through_everything_and_what_is_kept_of_it_says_so(
    client: TestClient, ruler: int
) -> None:
    """Marks and fit go through the very chain that the working line shows."""
    for mark in MARKS:
        client.post(f"/api/recordings/{ruler}/marks", json=mark)
    path = f"/api/recordings/{ruler}"
    plain = client.post(f"{path}/fit", json=KIND).json()
    draft = {"air": {"temperature_c": 30.0}, "parameters": {"mount_m": 0.05}}
    tried = client.post(f"{path}/fit", json={**KIND, "draft": draft}).json()
    assert tried["parameters"]["offset"] - plain["parameters"]["offset"] > 0.03
    assert plain["parameters"]["scale"] - tried["parameters"]["scale"] > 0.02
    fitted = {**draft, "calibrations": {"offset-scale": "fit"}}
    for at_s, true_m in ((5.0, 0.3), (18.0, 0.6), (40.0, 1.0)):
        seen = look(client, ruler, at_s=at_s, draft=fitted)["distance"]
        assert seen["working"][-1]["value"] == pytest.approx(true_m, abs=0.01)
    kept = client.post(f"{path}/calibrations", json={**KIND, "draft": draft}).json()
    assert kept["air"]["temperature_c"] == 30.0
    assert kept["parameters"] == tried["parameters"]
    assert stones(client)["calibrated"]["short"] == "mount changed"


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
    asked = {"kind": "stop-and-go", "evidence": {"speed_m_per_s": 0.5}}
    worked = client.post(f"/api/sensors/{sensor['id']}/suggestion", json=asked).json()
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
    assert len(lines) == 833
    assert lines[0] == "time_s,echo_us,distance_m,status"
    assert 'filename="ruler-by-the-bench.csv"' in answer.headers["content-disposition"]


def test_a_window_of_a_long_recording_is_drawn_from_few_points(
    client: TestClient, bring_in
) -> None:
    lines = b"".join(b"%d,%d\n" % (50 * n, 1800 + n % 700 if n % 97 else 0) for n in range(120_000))
    done = bring_in(b"t_ms,echo_us\n" + lines)
    whole = look(client, done["recordings"]["1"], points=1000)["distance"]
    (line,) = whole["lines"]
    assert whole["samples"] == 120_000
    assert len(line["time_s"]) < 1_100
    assert len(line["flag"]) <= 1_000
    part = look(client, done["recordings"]["1"], points=1000, from_s=100, to_s=110)["distance"]
    assert part["lines"][0]["samples"] == 201
    assert part["lines"][0]["time_s"][0] >= 100
