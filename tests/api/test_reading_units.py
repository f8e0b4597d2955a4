"""Whoever reads in inches reads everything in inches: cells, findings, stones, sheet."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

IMPERIAL = {"tickstone-units": "imperial"}
PAGES = ("/api/rigs/1", "/api/rigs/2", "/api/sensors/2", "/api/rigs/1/wiring", "/api/sensors/1")
# In words, not in names of formats or of what a sensor family is.
METRIC = re.compile(r"\d[\d\s.]*\s?(?:mm|cm|m|m/s|°C)(?![\w/²])")
TYPED_BY_PEOPLE = {"name", "place", "description", "note", "label", "what", "why", "source"}


def sentences(answer: Any, under: str = "") -> list[tuple[str, str]]:
    """Every text of an answer with where it stands, but for what people typed or families say."""
    if isinstance(answer, dict):
        return [
            one
            for name, inner in answer.items()
            if name not in ("bench", "recordings", "family_label", "steps")
            for one in sentences(inner, f"{under}.{name}")
        ]
    if isinstance(answer, list):
        return [one for inner in answer for one in sentences(inner, under)]
    return [(under, answer)] if isinstance(answer, str) else []


def view(client: TestClient, recording: int, headers: dict[str, str] | None = None) -> Any:
    seen = client.post(f"/api/recordings/{recording}/look", json={}, headers=headers).json()
    return {"working": seen["outputs"][0]["working"], "findings": seen["findings"]}


@pytest.mark.parametrize("page", PAGES)
def test_no_sentence_keeps_its_metres(client: TestClient, page: str) -> None:
    answer = client.get(page, headers=IMPERIAL).json()
    left = [
        (where, text)
        for where, text in sentences(answer)
        if where.rsplit(".", 1)[-1] not in TYPED_BY_PEOPLE and METRIC.search(text)
    ]
    assert left == []


def test_the_working_line_adds_up_in_inches(client: TestClient) -> None:
    recording = client.get("/api/sensors/2").json()["recordings"][0]["id"]
    metric, imperial = view(client, recording), view(client, recording, IMPERIAL)
    said = json.dumps([imperial["working"], imperial["findings"]], ensure_ascii=False)
    said = re.sub(r'"(?:source|formula)": "[^"]*"', "", said)
    assert METRIC.findall(said) == []
    steps = {one["stage"]: one for one in imperial["working"]}
    speed = float(steps["air"]["operand_shown"].replace("\u202f", ""))
    assert steps["air"]["operand_unit"] == "in/s"
    half_us = next(one for one in metric["working"] if one["stage"] == "half")["value"]
    assert speed * half_us * 1e-6 == pytest.approx(steps["air"]["value"] / 0.0254, rel=1e-3)
    # Numbers are SI whatever the words are.
    for one, other in zip(metric["working"], imperial["working"], strict=True):
        assert (one["value"], one["u"], one["unit"]) == (other["value"], other["u"], other["unit"])


def test_units_nobody_knows_are_metric(client: TestClient) -> None:
    usual = client.get("/api/sensors/2").json()
    for odd in ("cubits", "", "imperial, metric"):
        asked = client.get("/api/sensors/2", headers={"tickstone-units": odd}).json()
        assert asked["stones"] == usual["stones"]
    stale = usual["stones"][2]["reason"]
    assert "14 °C warmer (limit 5 °C)" in stale
    warmer = client.get("/api/sensors/2", headers=IMPERIAL).json()["stones"][2]["reason"]
    assert "It was made at 36.5 °F; the air is now 60.8 °F, 24 °F warmer (limit 9 °F)." in warmer
