"""The API describes itself completely, with examples that work."""

from __future__ import annotations

import re
from typing import Any

from fastapi.testclient import TestClient

from tests.api.conftest import BringIn
from tests.api.test_wiring import do_by_hand
from tickstone.api.app import describe_api

DOCUMENT = describe_api().openapi()


def operations() -> list[tuple[str, str, dict[str, Any]]]:
    return [
        (path, method, operation)
        for path, methods in DOCUMENT["paths"].items()
        for method, operation in methods.items()
    ]


def test_every_operation_says_what_it_does_and_how_it_fails() -> None:
    for path, method, operation in operations():
        assert operation["description"], (path, method)
        problem = operation["responses"]["4XX"]["content"]["application/problem+json"]
        assert problem, (path, method)


NOT_WITHOUT_A_LINE = ("/line", "/guides/", "/ports/speed", "/api/boards/")
"""Addresses whose examples name a port, and a port has to be there; `test_line` opens one."""


def test_every_body_has_an_example_and_it_is_accepted(
    client: TestClient, ruler: int, bring_in: BringIn
) -> None:
    tried = 0
    take = client.get("/api/rigs/1/takes").json()[0]["id"]
    for path, method, operation in operations():
        content = operation.get("requestBody", {}).get("content", {})
        if "application/json" not in content or "imports" in path or "/files/" in path:
            continue
        name = content["application/json"]["schema"]["$ref"].rsplit("/", 1)[-1]
        example = DOCUMENT["components"]["schemas"][name]["examples"][0]
        if any(part in path for part in NOT_WITHOUT_A_LINE):
            continue
        if path.endswith("/takes/join"):
            # No two of the demo have the same channels.
            alike = [bring_in(again=True)["take_id"] for _ in range(2)]
            example = {**example, "take_ids": alike}
        if "marks/{mark_id}" in path:
            client.post(f"/api/recordings/{ruler}/marks", json=example)
        if "{take_id}" in path:
            # Trimming and splitting put the take away that they work on.
            client.post(f"/api/takes/{take}/restore")
        if path.endswith("/wiring/sign"):
            do_by_hand(client, 1)
        address = re.sub(r"\{recording_id\}", str(ruler), path)
        address = re.sub(r"\{take_id\}", str(take), address)
        address = re.sub(r"\{\w+_id\}", "1", address)
        kind = "offset-scale" if "calibrations" in path else "device"
        address = address.replace("{kind}", kind)
        address = address.replace("{number}", "0")
        if "/digests/" in path:
            wheel = client.get("/api/sensors/4").json()["recordings"][0]["id"]
            address = f"/api/recordings/{wheel}/digests/trip"
        if "/programs" in path:
            address = address.replace("/rigs/1/", "/rigs/2/")  # still wired
        if path.endswith("/checks"):
            address = address.replace("/sensors/1/", "/sensors/4/")
        if path.endswith("/studies"):
            address = address.replace("/sensors/1/", "/sensors/3/")
        if "/cells/" in path:
            heights = client.get("/api/sensors/3").json()["recordings"][-1]["id"]
            example = {**example, "recording_id": heights, "last_s": None}
            address = address.replace("{key}", "0.006 on")
        address = address.replace("{name}", "led-resistor" if "parts" in path else "shed_button")
        answer = client.request(method.upper(), address, json=example)
        assert answer.status_code in (200, 201), (path, answer.text)
        tried += 1
    assert tried >= 24


def test_the_line_has_examples_too(client: TestClient) -> None:
    """They fit their bodies, whatever the machine says to them."""
    for path, method, operation in operations():
        content = operation.get("requestBody", {}).get("content", {})
        if "application/json" in content and any(part in path for part in NOT_WITHOUT_A_LINE):
            name = content["application/json"]["schema"]["$ref"].rsplit("/", 1)[-1]
            example = DOCUMENT["components"]["schemas"][name]["examples"][0]
            address = re.sub(r"\{\w+_id\}", "1", path).replace("{name}", "nothing")
            answer = client.request(method.upper(), address, json=example)
            said = answer.json() if answer.content else {}
            # The lines of a replay may not be built as the example says; the body itself fits.
            messages = [one["message"] for one in said.get("fields", [])]
            fields = [message for message in messages if "last lines" not in message]
            assert fields == [], (path, answer.text)
