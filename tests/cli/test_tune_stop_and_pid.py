"""``tickstone tune stop`` and ``tickstone tune pid``."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from typer.testing import CliRunner

from tickstone.cli.main import app

STOP = [
    "--decel",
    "0.8",
    "--ping-s",
    "0.06",
    "--loop-s",
    "0.02",
    "--actuate-s",
    "0",
    "--u-m",
    "0.01",
    "--margin-m",
    "0.05",
]


def tune(*given: str) -> Any:
    return CliRunner().invoke(app, ["tune", *given])


def told(*given: str) -> Any:
    result = tune(*given, "--json")
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)


def test_a_distance_for_a_speed_and_back() -> None:
    there = told("stop", "--speed-m-s", "0.6", *STOP)
    # 0.6 × 0.08 + 0.36 ÷ 1.6 + 2 × 0.01 + 0.05
    assert there["distance"] == pytest.approx(0.048 + 0.225 + 0.02 + 0.05)
    assert there["parts"] == pytest.approx(
        {"blind": 0.048, "braking": 0.225, "doubt": 0.02, "margin": 0.05}
    )
    back = told("stop", "--distance-m", "0.343", *STOP)
    assert back["speed"] == pytest.approx(0.6)
    assert told("stop", "--distance-m", "0.06", *STOP)["speed"] == 0.0


def test_a_skid_by_tape_says_how_it_brakes() -> None:
    by_tape = told("stop", "--speed-m-s", "0.6", "--skid-m", "0.225", *STOP[2:])
    assert by_tape["distance"] == pytest.approx(0.343)


def test_downhill_takes_longer() -> None:
    level = told("stop", "--speed-m-s", "0.6", *STOP)["distance"]
    assert told("stop", "--speed-m-s", "0.6", "--slope-deg", "2", *STOP)["distance"] > level
    refused = tune("stop", "--speed-m-s", "0.6", "--slope-deg", "6", *STOP)
    assert refused.exit_code == 2
    assert "it never stops" in refused.output


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (["stop", *STOP], "either --speed-m-s or --distance-m"),
        (["stop", "--speed-m-s", "1"], "either --decel or --skid-m"),
        (["stop", "--speed-m-s", "-1", *STOP], "has to be 0 or more"),
        (["stop", "--distance-m", "1", "--skid-m", "1", *STOP[2:]], "--skid-speed-m-s"),
        (["stop", "--speed-m-s", "1", "--decel", "0"], "nothing ever stops"),
        (["pid", "--gain", "2"], "give --gain, --lag and --delay"),
        (["pid", "--gain", "0", "--lag", "1", "--delay", "1"], "gain: 0 cannot be"),
        (["pid", "--gain", "1", "--lag", "1", "--delay", "-1"], "delay_s: -1"),
        (["pid", "--gain", "1", "--lag", "1", "--delay", "1", "--rule", "guess"], "--rule"),
        (["pid", "--gain", "1", "--lag", "1", "--delay", "1", "--terms", "x"], "terms"),
        (["pid", "nowhere.csv"], "no file that is there"),
    ],
)
def test_what_cannot_be_says_why(given: list[str], says: str) -> None:
    result = tune(*given)
    assert result.exit_code == 2
    assert says in result.output


def test_simc_of_a_stated_plant() -> None:
    found = told("pid", "--gain", "2", "--lag", "1.5", "--delay", "0.2", "--rule", "simc")
    assert (found["kp"], found["ki"], found["kd"]) == pytest.approx((1.875, 1.25, 0.0))
    assert found["gain_margin"] == pytest.approx(np.pi, rel=1e-6)
    assert found["delay_margin"] == pytest.approx((np.pi / 2 - 0.5) / 2.5, rel=1e-9)
    slower = told("pid", "--gain", "2", "--lag", "1.5", "--delay", "0.2", "--tau-c", "0.6")
    assert slower["kp"] == pytest.approx(1.5 / (2 * 0.8))


@pytest.fixture
def step(tmp_path: Path) -> Path:
    t = np.arange(0, 10, 0.05)
    u = (t >= 1) * 10.0
    y = np.where(t > 1.2, 20 * (1 - np.exp(-(t - 1.2) / 1.5)), 0.0)
    y += np.random.default_rng(3).normal(0, 0.1, len(t))
    rows = [f"{a:.3f},{b:g},{c:.4f}" for a, b, c in zip(t, u, y, strict=True)]
    path = tmp_path / "step.csv"
    path.write_text("\n".join(["t_s,output,measured", *rows]), encoding="utf-8")
    return path


def test_a_file_is_fitted_first(step: Path) -> None:
    found = told("pid", str(step))
    assert found["plant"]["gain"] == pytest.approx(2.0, abs=0.02)
    assert found["plant"]["lag"] == pytest.approx(1.5, abs=0.04)
    assert found["plant"]["delay"] == pytest.approx(0.2, abs=0.02)
    assert found["kp"] == pytest.approx(1.875, rel=0.1)
    assert 0.0 < found["fit"]["u_lag"] < 0.05


def test_a_file_without_a_step_is_refused(step: Path) -> None:
    step.write_text(step.read_text(encoding="utf-8").replace(",10,", ",0,"), encoding="utf-8")
    result = tune("pid", str(step))
    assert result.exit_code == 2
    assert "there is no step in it" in result.output
    step.write_text(step.read_text(encoding="utf-8").replace("output", "other"), encoding="utf-8")
    assert "--output: say which of the columns other, measured" in tune("pid", str(step)).output
