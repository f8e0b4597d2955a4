"""One file and one line: a kind that the product never heard of walks through all of it."""

from __future__ import annotations

import csv
import io
import json
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import expect
from sqlalchemy import Engine
from typer.testing import CliRunner

from tests.browser.conftest import OpenPage, browser, context, open_page  # noqa: F401
from tests.kinds.tray import Tray
from tickstone.api.app import make_app
from tickstone.cli.main import app
from tickstone.core.chains import CHAINS

HELD = [(1.0, 9.0, "empty", 0.0), (11.0, 19.0, "two", 2.0), (21.0, 29.0, "five", 5.0)]


def log() -> bytes:
    """Three loads, 20 lines a second; the cells read 57 counts when empty, 91 a kilogram."""
    rng = np.random.default_rng(4)
    rows = ["t_ms,left_cell,right_cell"]
    for n in range(600):
        kilograms = HELD[n // 200][3]
        total = 57.0 + 91.0 * kilograms + rng.normal(0.0, 1.0)
        rows.append(f"{50 * n},{0.4 * total:.0f},{0.6 * total:.0f}")
    return ("\n".join(rows) + "\n").encode()


@pytest.fixture(autouse=True)
def tray(monkeypatch: pytest.MonkeyPatch) -> None:
    """The one line: an entry in the table of kinds."""
    monkeypatch.setitem(CHAINS, "tray", Tray())


@pytest.fixture
def client(planted_engine: Engine, tmp_path: Path) -> Iterator[TestClient]:
    made = make_app(planted_engine, tmp_path)
    with TestClient(made, base_url="http://localhost", raise_server_exceptions=False) as client:
        yield client


def asked(client: Any, method: str, path: str, body: Any = None) -> Any:
    answer = client.request(method, path, json=body)
    assert answer.status_code < 300, (path, answer.text)
    return answer.json() if answer.content else None


def sensor_with_recording(client: Any) -> tuple[int, int]:
    """A family of one's own that names the kind, a sensor of it, and a log brought in."""
    family = asked(client, "GET", "/api/families/device/hall_analogue")["document"]
    family |= {"name": "load_tray", "label": "load tray", "chain": "tray"}
    asked(client, "POST", "/api/families/device", {"text": json.dumps(family)})
    sensor = asked(client, "POST", "/api/rigs/1/sensors", {"name": "Tray", "family": "load_tray"})
    sent = client.post("/api/rigs/1/files", params={"source_name": "tray.csv"}, content=log())
    key = sent.json()["key"]
    columns = [
        {"number": n, "sensor_id": sensor["id"], "role": "cells", "form": "counts"} for n in (0, 1)
    ]
    asked(client, "POST", f"/api/files/{key}/read", {"name": "loads", "columns": columns})
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        state = asked(client, "GET", f"/api/files/{key}")
        if state["state"] == "done":
            return sensor["id"], state["recordings"][str(sensor["id"])]
        assert state["state"] == "reading", state["problem"]
        time.sleep(0.02)
    raise AssertionError("the reading never ended")


def test_through_the_api(client: TestClient) -> None:
    sensor, recording = sensor_with_recording(client)
    bench = asked(client, "GET", f"/api/sensors/{sensor}")["bench"]
    assert (bench["kind"], bench["sample"]) == ("tray", "weighings")
    assert [pose["name"] for pose in bench["calibrations"][0]["poses"]] == ["empty", "two", "five"]

    for from_s, to_s, pose, _ in HELD:
        mark = {"name": pose, "calibration": "three-loads", "pose": pose}
        mark |= {"start_s": from_s, "end_s": to_s}
        asked(client, "POST", f"/api/recordings/{recording}/marks", mark)
    fit = asked(client, "POST", f"/api/recordings/{recording}/fit", {"kind": "three-loads"})
    assert fit["problem"] == ""
    assert fit["parameters"]["scale"] == pytest.approx(91.0, rel=0.01)
    kept = f"/api/recordings/{recording}/calibrations"
    asked(client, "POST", kept, {"kind": "three-loads"})
    limits = {"full_kg": 1.5, "over_kg": 4.0}
    rule = {"kind": "fill", "parameters": limits}
    asked(client, "POST", f"/api/sensors/{sensor}/rules", rule)

    stones = asked(client, "GET", f"/api/sensors/{sensor}")["stones"]
    states = {stone["stage"]: stone["state"] for stone in stones}
    assert [states[stage] for stage in ("heard", "calibrated", "tuned")] == ["ticked"] * 3

    seen = asked(client, "POST", f"/api/recordings/{recording}/look", {"at_s": 25.0})["outputs"]
    load, fill = seen
    assert load["samples"] == 60
    assert load["working"][-1]["value"] == pytest.approx(5.0, abs=0.05)
    assert load["working"][0]["others"] == []
    assert {span["state"] for span in fill["states"]} == {"free", "full", "over"}
    text = client.get(f"/api/recordings/{recording}/csv").text
    rows = list(csv.DictReader(io.StringIO(text)))
    assert rows[-1]["fill"] == "over"
    assert float(rows[-1]["load_kg"]) == pytest.approx(5.0, abs=0.1)


def test_on_the_command_line(tmp_path: Path) -> None:
    one = CliRunner().invoke(
        app, ["convert", "tray", "--counts", "150", "--scale", "100", "--json"]
    )
    assert one.exit_code == 0, one.stderr
    assert json.loads(one.stdout)["results"]["load"] == {
        "value": 3.0, "unit": "kg", "u": pytest.approx(0.5 / 3**0.5 / 100.0),
    }  # fmt: skip
    path = tmp_path / "tray.csv"
    path.write_bytes(log())
    cells = ["--input", "cells=left_cell", "--input", "cells=right_cell"]
    spans = [word for a, b, pose, _ in HELD for word in ("--span", f"{pose}={a}:{b}")]
    fitted = CliRunner().invoke(
        app, ["calibrate", "three-loads", str(path), *cells, *spans, "--json"]
    )
    assert fitted.exit_code == 0, fitted.stderr
    (tmp_path / "cal.json").write_text(fitted.stdout)
    whole = CliRunner().invoke(
        app,
        [
            *("convert", str(path), "--kind", "tray", *cells),
            *("--calibration", str(tmp_path / "cal.json"), "--json"),
        ],
    )
    assert whole.exit_code == 0, whole.stderr
    load = json.loads(whole.stdout)["outputs"]["load"]
    assert (load["min"], load["max"]) == (pytest.approx(0, abs=0.1), pytest.approx(5, abs=0.1))


def test_on_its_page(open_page: OpenPage) -> None:  # noqa: F811
    page = open_page("/rigs/1")
    origin = page.url.split("/rigs")[0]

    class Asker:
        def request(self, method: str, path: str, json: Any = None) -> Any:
            answer = page.request.fetch(origin + path, method=method, data=json)
            return Answer(answer)

        def post(self, path: str, params: dict[str, str], content: bytes) -> Any:
            return Answer(page.request.post(origin + path, params=params, data=content))

    class Answer:
        def __init__(self, answer: Any) -> None:
            self.status_code, self.text, self.content = answer.status, answer.text(), answer.body()

        def json(self) -> Any:
            return json.loads(self.text)

    sensor, _ = sensor_with_recording(Asker())
    page.goto(f"{origin}/sensors/{sensor}/heard")
    expect(page.get_by_text("600 weighings")).to_be_visible()
    expect(page.get_by_role("button", name="both cells")).to_be_visible()
    page.keyboard.press("3")
    expect(page.get_by_role("list", name="What to do")).to_contain_text("Put two kilograms on.")
    page.keyboard.press("m")
    page.get_by_label("From", exact=True).fill("1")
    page.get_by_label("To", exact=True).fill("9")
    page.get_by_label("Pose").select_option("empty")
    page.get_by_role("button", name="Keep the mark").click()
    expect(page.get_by_text("two, five is not marked yet")).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="What it carries")).to_be_visible()
    page.get_by_role("button", name="Take 3").click()
    page.get_by_role("button", name="Keep the thresholds").click()
    expect(page.get_by_text("The thresholds are kept.")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("dialog")).to_contain_text("kg")
