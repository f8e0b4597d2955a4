"""A row of sensors by the API: waved, kept, thresholds, table, study, and its archive."""

from __future__ import annotations

import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.kinds.loads import asked
from tickstone.demo.logs import NOSE_HEIGHTS, NOSE_LAP, NOSE_WAVE, STUDY_CELLS_S, log_path


@pytest.fixture
def strip(client: TestClient) -> dict[str, int]:
    """A row of five on a rig of its own, with three recordings."""
    rig = asked(client, "POST", "/api/rigs", {"name": "Row"})
    made = {"name": "Strip", "family": "reflective_array_5"}
    sensor = asked(client, "POST", f"/api/rigs/{rig['id']}/sensors", made)
    settings = {"line_m": 0.038, "pitch_m": 0.019, "spot_m": 0.0066}
    asked(client, "PATCH", f"/api/sensors/{sensor['id']}", {"parameters": settings})
    found = {"rig": rig["id"], "sensor": sensor["id"]}
    for name, log in (("wave", NOSE_WAVE), ("lap", NOSE_LAP), ("heights", NOSE_HEIGHTS)):
        found[name] = bring_in(client, found, log)
    return found


def bring_in(client: TestClient, strip: dict[str, int], log: str, sensors: int = 5) -> int:
    """A log of the row as its recording, of so many of its columns; the number of that."""
    files = f"/api/rigs/{strip['rig']}/files"
    sent = client.post(files, params={"source_name": log}, content=log_path(log).read_bytes())
    key, sensor = sent.json()["key"], strip["sensor"]
    columns = [
        {"number": n, "sensor_id": sensor, "role": "light", "form": "counts"}
        for n in range(sensors)
    ]
    how = {"name": log, "columns": columns, "again": True}
    asked(client, "POST", f"/api/files/{key}/read", how)
    return read_to_end(client, key)[str(sensor)]


def read_to_end(client: TestClient, key: str) -> dict[str, int]:
    """The recordings a file became, by sensor."""
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        state = asked(client, "GET", f"/api/files/{key}")
        if state["state"] == "done":
            return {sensor: int(one) for sensor, one in state["recordings"].items()}
        assert state["state"] == "reading", state
        time.sleep(0.02)
    raise AssertionError("the reading never ended")


def waved(client: TestClient, strip: dict[str, int]) -> dict[str, Any]:
    mark = {"calibration": "black-white", "pose": "wave", "start_s": 2.0, "end_s": 16.0}
    made = client.post(f"/api/recordings/{strip['wave']}/marks", json=mark)
    assert made.status_code == 201, made.text
    kept = client.post(
        f"/api/recordings/{strip['wave']}/calibrations",
        json={"kind": "black-white"},
    )
    assert kept.status_code == 201, kept.text
    return kept.json()


def test_a_wave_is_proposed_fitted_kept_and_decided_on(
    client: TestClient, strip: dict[str, int]
) -> None:
    fit = client.post(f"/api/recordings/{strip['wave']}/fit", json={"kind": "black-white"}).json()
    assert "no mark" in fit["problem"]
    assert fit["next_still"]["from_s"] < 3.0 < fit["next_still"]["to_s"]
    kept = waved(client, strip)
    assert len(kept["heaps"]) == 5
    assert all(one["d_prime"] > 30 for one in kept["heaps"])
    path = f"/api/sensors/{strip['sensor']}"
    told = client.post(f"{path}/suggestion", json={"kind": "line-thresholds"}).json()
    assert len(told["parameters"]["at"]) == 5
    assert all(one["misread"]["rate"] == 0.0 for one in told["lanes"])
    for kind, parameters in (
        ("line-thresholds", told["parameters"]),
        ("line-table", {"table": "F" * 32}),
    ):
        rule = {"kind": kind, "parameters": parameters}
        made = client.post(f"{path}/rules", json=rule)
        assert made.status_code == 201, made.text
    sensor = client.get(path).json()
    assert {one["kind"] for one in sensor["rules"]} == {"line-thresholds", "line-table"}
    look = client.post(f"/api/recordings/{strip['lap']}/look", json={}).json()
    by_name = {one["name"]: one for one in look["outputs"]}
    assert next(iter(by_name)) == "position"
    assert len(by_name["lightness"]["lines"]) == 5
    assert set(by_name["state"]["states"]["lane"]) == {0, 1, 2, 3, 4}
    assert set(by_name["action"]["states"]["state"]) == {"straight"}
    assert by_name["position"]["counts"]["lost"] > 50


def test_a_newer_recording_in_other_light_cracks_the_stone(
    client: TestClient, strip: dict[str, int]
) -> None:
    """What was heard before it was made says nothing of it; what came since does."""
    waved(client, strip)
    path = f"/api/sensors/{strip['sensor']}"

    def stone() -> dict[str, Any]:
        stones = client.get(path).json()["stones"]
        return next(one for one in stones if one["stage"] == "calibrated")

    assert stone()["state"] == "ticked"
    bring_in(client, strip, NOSE_LAP)
    assert stone()["state"] == "stale"
    assert "lighter than it did" in stone()["reason"]


def looked_at(client: TestClient, recording: int) -> tuple[list[str], list[str]]:
    """The outputs of a recording, and what is said of it."""
    seen = asked(client, "POST", f"/api/recordings/{recording}/look", {})
    return [one["name"] for one in seen["outputs"]], [one["title"] for one in seen["findings"]]


def test_what_was_made_for_another_row_is_left_out_and_said(
    client: TestClient, strip: dict[str, int]
) -> None:
    waved(client, strip)
    path = f"/api/sensors/{strip['sensor']}"
    for kind in ("line-thresholds", "line-table"):
        told = asked(client, "POST", f"{path}/suggestion", {"kind": kind})
        rule = {"kind": kind, "parameters": told["parameters"]}
        asked(client, "POST", f"{path}/rules", rule)
    three = bring_in(client, strip, NOSE_LAP, sensors=3)
    outputs, findings = looked_at(client, three)
    assert {"position", "lightness", "volts"} <= set(outputs)
    assert "action" not in outputs
    assert findings[:3] == [
        "Black and white are known of 5 sensors, but 3 are heard.",
        "There are thresholds for 5 sensors, but 3 are heard.",
        "The table is for 5 sensors, but 3 are heard.",
    ]
    said = stones_of(client, strip)
    assert said["calibrated"][:2] == said["tuned"][:2] == ("stale", "another row")
    assert "known of 5 sensors, but 3 are heard. Calibrate again." in said["calibrated"][2]
    assert "thresholds for 5 sensors, but 3 are heard. Set them again." in said["tuned"][2]
    assert "action" in looked_at(client, strip["wave"])[0], "it fits where five are heard"


def stones_of(client: TestClient, strip: dict[str, int]) -> dict[str, tuple[str, str, str]]:
    """State, short word and reason of every stone of the row."""
    sensor = asked(client, "GET", f"/api/sensors/{strip['sensor']}")
    return {one["stage"]: (one["state"], one["short"], one["reason"]) for one in sensor["stones"]}


def test_thresholds_of_another_row_crack_what_is_tuned(
    client: TestClient, strip: dict[str, int]
) -> None:
    waved(client, strip)
    rules = f"/api/sensors/{strip['sensor']}/rules"
    three = {"at": [0.5, 0.5, 0.5], "half": [0.1]}
    asked(client, "POST", rules, {"kind": "line-thresholds", "parameters": three})
    said = stones_of(client, strip)
    assert said["tuned"][:2] == ("stale", "another row")
    assert said["calibrated"][0] == "ticked"
    asked(client, "POST", rules, {"kind": "line-thresholds", "parameters": three | {"at": [0.5]}})
    assert stones_of(client, strip)["tuned"][0] == "ticked", "one may stand for all"


def test_places_of_another_row_take_the_place_away_and_nothing_else(
    client: TestClient, strip: dict[str, int]
) -> None:
    waved(client, strip)
    path = f"/api/sensors/{strip['sensor']}"
    asked(client, "PATCH", path, {"parameters": {"places_m": [-0.02, 0.0, 0.02]}})
    outputs, findings = looked_at(client, strip["wave"])
    assert {"lightness", "state", "volts", "position"} <= set(outputs)
    assert not {"situation", "drift"} & set(outputs)
    assert "Places are told for 3 sensors; the row has another number." in findings
    assert stones_of(client, strip)["heard"][0] == "failing"
    told = asked(client, "POST", f"{path}/suggestion", {"kind": "line-thresholds"})
    assert told["sum"] is None
    for digest in ("line-states", "line-schemes"):
        found = client.post(f"/api/recordings/{strip['wave']}/digests/{digest}", json={})
        assert found.status_code < 500, found.text
    asked(client, "PATCH", path, {"parameters": {"places_m": []}})
    assert "position" in looked_at(client, strip["wave"])[0]


def test_a_table_without_an_entry_is_not_kept(client: TestClient, strip: dict[str, int]) -> None:
    rule = {"kind": "line-table", "parameters": {"table": ""}}
    refused = client.post(f"/api/sensors/{strip['sensor']}/rules", json=rule)
    assert refused.status_code == 422
    assert "there is none yet" in refused.json()["detail"]
    assert looked_at(client, strip["wave"])[0]


def test_a_study_is_led_refused_finished_and_comes_back(
    client: TestClient, strip: dict[str, int]
) -> None:
    path = f"/api/sensors/{strip['sensor']}/studies"
    levels = [0.002, 0.004, 0.006, 0.009, 0.014]
    planned = client.post(path, json={"kind": "height", "plan": {"levels": levels}})
    assert planned.status_code == 201, planned.text
    study = planned.json()
    assert len(study["cells"]) == 11
    cell = f"/api/studies/{study['id']}/cells"
    empty = client.put(
        f"{cell}/0.002 on",
        json={"recording_id": strip["heights"], "start_s": 0.0, "end_s": 0.2},
    )
    assert empty.status_code == 422
    assert "too few" in empty.json()["detail"]
    live = client.put(f"{cell}/0.002 on", json={"last_s": 6})
    assert live.status_code == 409
    assert client.get(path).json()[0]["cells"][0]["is_taken"] is False
    for key, start_s, end_s in STUDY_CELLS_S:
        where = {"recording_id": strip["heights"], "start_s": start_s, "end_s": end_s}
        taken = client.put(f"{cell}/{key}", json=where)
        assert taken.status_code == 200, taken.text
    told = taken.json()
    assert told["best"] in (0.004, 0.006)
    assert told["says"].startswith("Best at")
    again = client.delete(f"{cell}/0.002 on").json()
    assert again["cells"][0]["is_taken"] is False
    assert client.put(f"{cell}/nothing", json={"last_s": 1}).status_code == 404
    assert client.delete(f"/api/studies/{study['id']}").status_code == 204
    assert client.get(path).json() == []
    assert client.post(f"/api/studies/{study['id']}/restore").status_code == 200


def test_heaps_rules_and_studies_survive_an_archive(
    client: TestClient, strip: dict[str, int]
) -> None:
    waved(client, strip)
    path = f"/api/sensors/{strip['sensor']}"
    made = client.post(
        f"{path}/studies",
        json={"kind": "height", "plan": {"levels": [0.002, 0.004]}},
    ).json()
    key, start_s, end_s = STUDY_CELLS_S[0]
    where = {"recording_id": strip["heights"], "start_s": start_s, "end_s": end_s}
    client.put(f"/api/studies/{made['id']}/cells/{key}", json=where)
    archive = client.get(f"/api/rigs/{strip['rig']}/archive")
    assert archive.status_code == 200, archive.text
    back = client.post("/api/archives", content=archive.content)
    assert back.status_code < 300, back.text
    sensors = client.get(f"/api/rigs/{back.json()['rig_id']}").json()["sensors"]
    fresh = client.get(f"/api/sensors/{sensors[0]['id']}").json()
    assert len(fresh["calibrations"][0]["heaps"]) == 5
    studies = client.get(f"/api/sensors/{sensors[0]['id']}/studies").json()
    assert studies[0]["cells"][0]["is_taken"]
    assert studies[0]["cells"][0]["recording_id"] != strip["heights"]


@pytest.mark.parametrize(
    ("plan", "why"),
    [
        ({"levels": [0.002]}, "two at least"),
        ({"levels": [0.002, 9.0]}, "outside"),
        ({"x": 1}, "no such"),
    ],
)
def test_plans_that_cannot_be_are_refused(client: TestClient, strip: dict, plan, why) -> None:
    body = {"kind": "height", "plan": plan}
    made = client.post(f"/api/sensors/{strip['sensor']}/studies", json=body)
    assert made.status_code == 422
    assert why in made.json()["detail"]


def test_two_rangers_of_one_take_are_held_against_each_other(client: TestClient) -> None:
    """Each by its own working, though one counts µs and the other mm."""
    rig = asked(client, "POST", "/api/rigs", {"name": "Two"})["id"]
    sensors = [
        asked(client, "POST", f"/api/rigs/{rig}/sensors", {"name": name, "family": family})["id"]
        for name, family in (("Ear", "ultrasonic_ranger"), ("Eye", "laser_ranger"))
    ]
    rows = ["t_ms,echo_us,tof_mm"]
    rows += [f"{50 * n},{2000 + 10 * n},{2000 // 5.83 + 1.715 * n + 30:.0f}" for n in range(200)]
    sent = client.post(
        f"/api/rigs/{rig}/files",
        params={"source_name": "two.csv"},
        content="\n".join(rows).encode(),
    )
    key = sent.json()["key"]
    columns = [
        {"number": 0, "sensor_id": sensors[0], "role": "echo", "form": "time", "unit": "µs"},
        {"number": 1, "sensor_id": sensors[1], "role": "range", "form": "distance", "unit": "mm"},
    ]
    asked(client, "POST", f"/api/files/{key}/read", {"name": "both", "columns": columns})
    recordings = read_to_end(client, key)
    ear, eye = (recordings[str(one)] for one in sensors)
    told = asked(client, "POST", f"/api/recordings/{ear}/digests/beside-another", {})
    assert told["beside"] == eye
    assert told["others"] == [{"recording_id": eye, "sensor": "Eye"}]
    figures = {one["name"]: one["value"] for one in told["stretches"][0]["figures"]}
    assert figures["near_bias"] == pytest.approx(0.03, abs=0.005)
    assert figures["second_silent"] == 0.0
    wrong = client.post(f"/api/recordings/{ear}/digests/beside-another", json={"beside": ear})
    assert (wrong.status_code, "another sensor" in wrong.text) == (422, True)
    assert client.delete(f"/api/sensors/{sensors[1]}").status_code < 300
    alone = asked(client, "POST", f"/api/recordings/{ear}/digests/beside-another", {})
    assert (alone["stretches"], alone["others"], alone["beside"]) == ([], [], None)
    assert client.get(f"/api/recordings/{ear}/digests/beside-another/csv").status_code == 404


def test_two_rangers_that_vote_have_nothing_to_wire(client: TestClient) -> None:
    new = {"name": "Both", "family": "two_rangers"}
    sensor = asked(client, "POST", "/api/rigs/1/sensors", new)
    wired = next(one for one in sensor["stones"] if one["stage"] == "wired")
    assert (wired["state"], wired["short"]) == ("absent", "nothing to wire")
    wiring = client.get("/api/rigs/1/wiring")
    assert wiring.status_code == 200
    assert "by vote" not in " ".join(line["what"] for line in wiring.json()["bill"])
