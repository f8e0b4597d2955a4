"""One file and one line: a kind that the product never heard of walks through all of it."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from typer.testing import CliRunner

from tests.kinds.loads import HELD, asked, log, sensor_with_recording
from tests.kinds.tray import Tray
from tickstone.api.app import make_app
from tickstone.cli.main import app
from tickstone.core.chains import CHAINS


@pytest.fixture(autouse=True)
def tray(monkeypatch: pytest.MonkeyPatch) -> None:
    """The one line: an entry in the table of kinds."""
    monkeypatch.setitem(CHAINS, "tray", Tray())


@pytest.fixture
def client(planted_engine: Engine, tmp_path: Path) -> Iterator[TestClient]:
    made = make_app(planted_engine, tmp_path)
    with TestClient(made, base_url="http://localhost", raise_server_exceptions=False) as client:
        yield client


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
    assert set(fill["states"]["state"]) == {"free", "full", "over"}
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
