"""The API describes itself completely, with examples that work."""

from __future__ import annotations

import re
from typing import Any

from fastapi.testclient import TestClient

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


def test_every_body_has_an_example_and_it_is_accepted(client: TestClient, ruler: int) -> None:
    tried = 0
    for path, method, operation in operations():
        content = operation.get("requestBody", {}).get("content", {})
        if "application/json" not in content or "imports" in path:
            continue
        name = content["application/json"]["schema"]["$ref"].rsplit("/", 1)[-1]
        example = DOCUMENT["components"]["schemas"][name]["examples"][0]
        if "marks/{mark_id}" in path:
            client.post(f"/api/recordings/{ruler}/marks", json=example)
        address = re.sub(r"\{recording_id\}", str(ruler), path)
        address = re.sub(r"\{\w+_id\}", "1", address)
        address = address.replace("{kind}", "device")
        address = address.replace("{name}", "led-resistor" if "parts" in path else "shed_button")
        answer = client.request(method.upper(), address, json=example)
        assert answer.status_code in (200, 201), (path, answer.text)
        tried += 1
    assert tried >= 18
