"""Programs by the API: written, kept once, run, and refused with a reason."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tickstone.targets.target import is_as_written

BRAMBLE, PIPIT = "/api/rigs/1/programs", "/api/rigs/2/programs"


def test_a_rig_without_a_board_is_told_what_comes_first(client: TestClient) -> None:
    rig = client.post("/api/rigs", json={"name": "Bare"}).json()
    assert client.get(f"/api/rigs/{rig['id']}/programs").json() == {"board": "", "targets": []}
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


@pytest.mark.parametrize("kind", ["listen", "convert"])
@pytest.mark.parametrize("rig", [BRAMBLE, PIPIT])
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
