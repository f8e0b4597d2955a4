"""Programs by the API: written, kept once, run, and refused with a reason."""

from __future__ import annotations

import re

import pytest
from fastapi.testclient import TestClient

from tickstone.targets.target import is_as_written

BRAMBLE, PIPIT = "/api/rigs/1/programs", "/api/rigs/2/programs"


def test_a_rig_without_a_board_is_told_what_comes_first(client: TestClient) -> None:
    rig = client.post("/api/rigs", json={"name": "Bare"}).json()
    assert client.get(f"/api/rigs/{rig['id']}/programs").json() == {
        "board": "", "decides": [], "targets": [],
    }  # fmt: skip
    answer = client.post(f"/api/rigs/{rig['id']}/programs", json={})
    assert answer.status_code == 422
    assert "choose it first" in answer.json()["detail"]


def test_the_same_program_is_the_same_and_another_rate_is_another(client: TestClient) -> None:
    first, again, slower = (
        client.post(BRAMBLE, json={"rate_hz": rate}).json() for rate in (10, 10, 5)
    )
    assert first["identity"] == again["identity"] != slower["identity"]
    assert first["written_at"] == again["written_at"]
    assert is_as_written(first["text"])
    assert is_as_written(first["text"].replace("\n", "\r\n"))
    assert is_as_written(first["text"].replace("pinMode(7", "pinMode(6")) is False
    assert first["rate_hz"] == 10.0
    assert [one["header"] for one in first["columns"]][:2] == ["t[us]", "front_ranger[us]"]
    assert any("only pulls down" in one for one in first["wiring_errors"])


def test_wiring_it_otherwise_makes_another_program(client: TestClient) -> None:
    before = client.post(PIPIT, json={}).json()
    wiring = client.get("/api/rigs/2/wiring").json()
    ranger = next(one for one in wiring["devices"] if one["name"] == "Side ranger")
    assert client.delete(f"/api/sensors/{ranger['id']}").status_code < 300
    after = client.post(PIPIT, json={}).json()
    assert before["identity"] != after["identity"]
    assert "side_ranger" not in after["text"]


def test_a_rig_that_decides_nothing_has_nothing_to_write(asker: TestClient) -> None:
    assert asker.get(PIPIT).json()["decides"] == []
    answer = asker.post(PIPIT, json={"kind": "rules"})
    assert answer.status_code == 422
    assert "nothing is decided on this rig yet" in answer.json()["detail"]


def test_rules_come_as_code_behind_their_sensors(asker: TestClient) -> None:
    assert "Bramble’s rule" in asker.get(BRAMBLE).json()["decides"]
    found = asker.post(BRAMBLE, json={"kind": "rules"}).json()
    assert [one["name"] for one in found["columns"]].count("rules_state") == 1
    assert "case RULES_IS_BRAKE:  // stop" in found["text"]
    sums = found["beside"][0]["text"]
    assert "RULES_FRONT_BELOW = 0.42f;" in sums
    assert "m; front below 0.42 m, kept" in sums
    assert is_as_written(found["text"])


@pytest.mark.parametrize(
    ("rig", "kind"),
    [(BRAMBLE, "listen"), (BRAMBLE, "convert"), (BRAMBLE, "rules"), (PIPIT, "listen"),
     (PIPIT, "convert")],
)  # fmt: skip
def test_a_program_is_run_and_does_what_it_says(asker: TestClient, rig: str, kind: str) -> None:
    proof = asker.post(f"{rig}/proof", json={"kind": kind}).json()
    assert proof["missing"] == []
    assert proof["differs"] == []
    assert proof["told"] > 40
    assert bool(proof["cost"]) == (rig == BRAMBLE)


def test_constants_come_with_what_they_rest_on(asker: TestClient) -> None:
    told = asker.get("/api/rigs/1/constants").json()
    left = next(one for one in told["sensors"] if one["label"] == "Left ranger")
    scale = next(one for one in left["constants"] if one["name"] == "calibration_scale")
    assert scale["rests_on"].startswith("4 marks")
    assert 0.0 < scale["u"] < 0.01
    assert {one["name"] for one in told["texts"]} == {"cpp", "small-python", "json"}
    assert all(f"{scale['value']:.4f}"[:5] in one["text"] for one in told["texts"])
    stop = next(one for one in left["constants"] if one["name"] == "threshold_alarm_at")
    assert re.search(r"set \d+ \w+ 20\d\d$", stop["rests_on"])
    rules = next(one for one in told["sensors"] if one["label"] == "“Bramble’s rule”")
    below = next(one for one in rules["constants"] if one["name"] == "front_below")
    assert (below["value"], below["unit"]) == (0.42, "m")
    assert re.search(r"front below 0.42 m, kept \d+ \w+ 20\d\d$", below["rests_on"])
    assert not any(one["name"] == "is_drive" for one in rules["constants"])


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"rate_hz": 0}, "outside"),
        ({"rate_hz": 1e9}, "outside"),
        ({"target": "small-python"}, "does not run"),
        ({"target": "x" * 40}, "there is no"),
        ({"target": "x" * 41}, "at most 40"),
        ({"kind": "dance"}, "listen"),
        ({"baud": 10}, "300"),
        ({"speed": 1}, "speed"),
    ],
)
def test_what_cannot_be_written_is_refused_with_a_reason(
    asker: TestClient, body: dict, says: str
) -> None:
    answer = asker.post(BRAMBLE, json=body)
    assert answer.status_code == 422
    assert says in answer.text


def test_a_program_is_held_against_the_rig(client: TestClient) -> None:
    evidence = {"speed_m_per_s": 0.6, "deceleration_m_per_s2": 1.5, "margin_m": 0.03}
    rule = {"kind": "stop-and-go", "parameters": {"stop_m": 0.6, "go_m": 0.7}}
    client.post("/api/sensors/1/rules", json={**rule, "evidence": evidence})
    text = (
        "void setup() { Serial.begin(9600); pinMode(7, OUTPUT); }\n"
        "void loop() {\n"
        "  long t = pulseIn(8, HIGH, 30000);\n"
        "  float cm = t * 0.034;\n"
        "  if (cm > 0 && cm < 99) digitalWrite(51, LOW);\n"
        "  delay(1000);\n"
        "}\n"
    )
    seen = client.post(f"{BRAMBLE}/look-over", json={"text": text}).json()
    assert [(one["id"], one["line"]) for one in seen["findings"]] == [
        ("missing-half", 4),
        ("other-pin", 5),
        ("other-threshold", 5),
        ("long-delay", 6),
    ]
    assert seen["language"] == "C++"
    assert [one for one in seen["not_looked_for"] if "baud is not known" in one]
    said = {one["id"]: one["message"] for one in seen["findings"]}
    assert "at 0.6 m/s that is 60 cm; its stopping distance has 3 cm" in said["long-delay"]


def test_a_program_written_here_is_known_and_without_a_finding(asker: TestClient) -> None:
    for kind in ("listen", "convert"):
        text = asker.post(BRAMBLE, json={"kind": kind}).json()["text"]
        seen = asker.post(f"{BRAMBLE}/look-over", json={"text": text, "name": "a.ino"}).json()
        assert seen["as_written_here"] is True
        assert seen["findings"] == []
        changed = text.replace("Serial.begin(", "Serial.begin( ")
        seen = asker.post(f"{BRAMBLE}/look-over", json={"text": changed}).json()
        assert seen["as_written_here"] is False


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"text": ""}, "empty"),
        ({"text": "x" * 600_000}, "512 kB"),
        ({"text": "Dear all, it went well. " * 30}, "neither as C++ nor as Python"),
        ({}, "text"),
    ],
)
def test_what_is_no_program_is_refused(asker: TestClient, body: dict, says: str) -> None:
    answer = asker.post(f"{BRAMBLE}/look-over", json=body)
    assert answer.status_code == 422
    assert says in answer.text


def test_ten_megabytes_are_not_even_read(asker: TestClient) -> None:
    answer = asker.post(f"{BRAMBLE}/look-over", json={"text": "x" * 10_000_000})
    assert answer.status_code == 413
