"""Families by the API: one's own beside those shipped."""

from __future__ import annotations

import json
from typing import Any

from fastapi.testclient import TestClient


def clone(client: TestClient, kind: str, name: str, **change: Any) -> dict[str, Any]:
    document = client.get(f"/api/families/{kind}/{name}").json()["document"]
    return {**document, "name": f"my_{name}", "label": f"my {name}", **change}


def add(client: TestClient, kind: str, document: dict[str, Any]) -> Any:
    return client.post(f"/api/families/{kind}", json={"text": json.dumps(document)})


def test_clone_change_use_put_away_and_restore(client: TestClient) -> None:
    board = clone(client, "board", "five_volt_8bit")
    assert add(client, "board", board).status_code == 201
    twice = add(client, "board", board)
    assert twice.status_code == 422
    assert "already a board family" in twice.json()["detail"]

    rig = client.post("/api/rigs", json={"name": "Own", "board": board["name"]}).json()
    assert rig["board_label"] == "my five_volt_8bit"
    body = {"name": "Lamp", "family": "indicator_led"}
    client.post(f"/api/rigs/{rig['id']}/sensors", json=body)
    client.post(f"/api/rigs/{rig['id']}/wiring/proposal", json={})
    address = f"/api/rigs/{rig['id']}/wiring"
    assert client.get(address).json()["findings"] == []

    board["pin_classes"][0]["drive_a"] = {"value": 0.001, "source": "my datasheet"}
    changed = client.put(f"/api/families/board/{board['name']}", json={"text": json.dumps(board)})
    assert changed.status_code == 200
    assert {one["id"] for one in client.get(address).json()["findings"]} == {"pin-current"}

    assert client.delete(f"/api/families/board/{board['name']}").status_code == 204
    offered = {one["name"] for one in client.get("/api/families").json()}
    assert board["name"] not in offered
    assert client.get(address).json()["board"]["name"] == board["name"]
    client.post(f"/api/families/board/{board['name']}/restore")
    assert board["name"] in {one["name"] for one in client.get("/api/families").json()}


def test_own_families_travel_in_the_wiring_file(client: TestClient) -> None:
    device = clone(client, "device", "ultrasonic_ranger")
    add(client, "device", device)
    rig = client.post("/api/rigs", json={"name": "A", "board": "five_volt_8bit"}).json()["id"]
    client.post(f"/api/rigs/{rig}/sensors", json={"name": "Eye", "family": device["name"]})
    document = client.get(f"/api/rigs/{rig}/wiring/file").json()
    assert document["devices"][0]["family"]["label"] == "my ultrasonic_ranger"

    document["devices"][0]["family"]["name"] = "their_ranger"
    other = client.post("/api/rigs", json={"name": "B"}).json()["id"]
    taken = client.post(f"/api/rigs/{other}/wiring/import", json={"text": json.dumps(document)})
    assert taken.status_code == 200, taken.text
    assert client.get("/api/families/device/their_ranger").json()["is_own"]

    document["devices"][0]["family"]["label"] = "another thing"
    clash = client.post(f"/api/rigs/{other}/wiring/import", json={"text": json.dumps(document)})
    assert clash.status_code == 422
    assert "their_ranger" in clash.json()["detail"]


def test_an_own_ranger_has_its_benches(client: TestClient) -> None:
    add(client, "device", clone(client, "device", "ultrasonic_ranger"))
    body = {"name": "Eye", "family": "my_ultrasonic_ranger"}
    sensor = client.post("/api/rigs/1/sensors", json=body).json()
    assert sensor["has_chain"]
    assert [one["state"] for one in sensor["stones"]] == ["hollow"] * 5


def test_shipped_families_are_not_changed(client: TestClient) -> None:
    document = client.get("/api/families/board/five_volt_8bit").json()["document"]
    text = {"text": json.dumps({**document, "label": "mine now"})}
    assert client.put("/api/families/board/five_volt_8bit", json=text).status_code == 409
    assert client.delete("/api/families/board/five_volt_8bit").status_code == 409
    assert add(client, "board", document).status_code == 422


def test_bad_descriptions_name_the_field(client: TestClient) -> None:
    board = clone(client, "board", "five_volt_8bit", clock_hz=3)
    answer = add(client, "board", board)
    assert answer.status_code == 422
    assert "clock_hz" in answer.json()["detail"]
    assert client.post("/api/families/board", json={"text": "{{{"}).status_code == 422
    assert client.get("/api/families/board/nothing").status_code == 404
    assert client.get("/api/families/ship/nothing").status_code == 422


def test_schema_and_file_are_there_to_take(client: TestClient) -> None:
    assert client.get("/api/families/schemas/board").json()["title"] == "BoardFamily"
    file = client.get("/api/families/device/buzzer/file")
    assert 'filename="buzzer.json"' in file.headers["content-disposition"]
    assert file.json()["name"] == "buzzer"


def test_labels_that_are_none(client: TestClient) -> None:
    assert client.post("/api/families/recognise", json={"labels": " , "}).status_code == 422
    assert client.post("/api/families/recognise", json={"labels": "QQQ"}).json() == []


def test_parts_by_the_api(client: TestClient) -> None:
    benches = client.get("/api/parts").json()
    assert {"led-resistor", "divider", "commutation"} <= {one["name"] for one in benches}
    worked = client.post("/api/parts/divider", json={"inputs": {"mode": "design for a level"}})
    assert [one["text"].split(" ±")[0] for one in worked.json()["results"]][:2] == [
        "1.8 kΩ",
        "3.3 kΩ",
    ]
    bad = client.post("/api/parts/divider", json={"inputs": {"top_ohm": -1}})
    assert bad.status_code == 422
    assert bad.json()["fields"][0]["field"] == "top_ohm"
    assert client.post("/api/parts/perpetuum", json={"inputs": {}}).status_code == 404
