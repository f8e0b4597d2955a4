"""``tickstone convert FILE`` and ``tickstone calibrate``: whole logs."""

from __future__ import annotations

import csv
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from typer.testing import CliRunner

from tickstone.cli.main import app
from tickstone.demo.logs import FRONT_RULER, log_path

RUNNER = CliRunner()
RATE_HZ = 6.0
TURNS = 20


def run(*words: str) -> dict[str, Any]:
    outcome = RUNNER.invoke(app, [*words, "--json"])
    assert outcome.exit_code == 0, outcome.stderr
    return json.loads(outcome.stdout)


@pytest.fixture
def wheel(tmp_path: Path) -> Path:
    """Four even pulses a turn at 90 RPM, polled 50 times a second, the gap timed by the board."""
    rows = []
    for n in range(1_000):
        t = n * 0.02
        pulses = int(t * RATE_HZ)
        rows.append(f"{n * 20},{pulses % 65536},{1e6 / RATE_HZ:.0f}")
    path = tmp_path / "wheel.csv"
    path.write_text("t_ms,hall_count,hall_gap_us\n" + "\n".join(rows) + "\n")
    return path


def test_a_log_of_a_count_and_its_gap(wheel: Path, tmp_path: Path) -> None:
    out = tmp_path / "rpm.csv"
    summary = run(
        *("convert", str(wheel), "--kind", "pulses", "--input", "pulses=hall_count"),
        *("--input", "gap=hall_gap_us", "--set", "per_turn=4", "--set", "spacing_percent=0"),
        *("--output", "rpm", "--out", str(out)),
    )
    rpm = summary["outputs"]["rpm"]
    assert set(rpm) == {"unit", "samples", "good", "mean", "min", "max", "u"}
    assert rpm["unit"] == "RPM"
    assert rpm["mean"] == pytest.approx(90.0, rel=1e-4)
    assert rpm["u"] == pytest.approx(90.0 * RATE_HZ * 4e-6 / 6**0.5, rel=0.01)
    assert sum(summary["statuses"].values()) == rpm["samples"]
    assert any("direction" in remark for remark in summary["remarks"])
    with out.open() as file:
        rows = list(csv.DictReader(file))
    assert list(rows[0]) == ["time_s", "pulses", "gap_s", "rpm", "status"]
    assert float(rows[-1]["rpm"]) == pytest.approx(90.0, rel=1e-4)


def test_each_form_of_the_same_pulses_gives_the_same_turns(wheel: Path, tmp_path: Path) -> None:
    edges = tmp_path / "edges.csv"
    times = np.arange(1, 121) / RATE_HZ
    edges.write_text("edge_us\n" + "\n".join(f"{t * 1e6:.0f}" for t in times) + "\n")
    gate = tmp_path / "gate.csv"
    gate.write_text("t_s,n\n" + "\n".join(f"{t},6" for t in range(1, 60)) + "\n")
    vcd = tmp_path / "hall.vcd"
    changes = "".join(f"#{t * 1e6:.0f}\n1!\n#{t * 1e6 + 9000:.0f}\n0!\n" for t in times)
    vcd.write_text(
        "$timescale 1 us $end\n$scope module it $end\n$var wire 1 ! hall $end\n$upscope $end\n"
        f"$enddefinitions $end\n#0\n0!\n{changes}"
    )
    per_turn = ("--set", "per_turn=4", "--output", "rpm", "--kind", "pulses")
    means = [
        run("convert", str(wheel), *per_turn, "--input", "count=hall_count"),
        run("convert", str(edges), *per_turn, "--input", "edges=edge_us"),
        run("convert", str(gate), *per_turn, "--input", "gate=n"),
        run("convert", str(vcd), *per_turn, "--input", "pulses=hall"),
    ]
    for summary, within in zip(means, (1.0, 1e-3, 1e-9, 1e-3), strict=True):
        assert summary["outputs"]["rpm"]["mean"] == pytest.approx(90.0, abs=within)
    exact, counted = means[3]["outputs"]["rpm"], means[0]["outputs"]["rpm"]
    assert exact["u"] < counted["u"]


def test_the_example_log_of_a_ranger_gives_its_marks(tmp_path: Path) -> None:
    inputs = ("--input", "echo=echo_us", "--set", "mount_m=0.008")
    fitted = run(
        *("calibrate", "offset-scale", str(log_path(FRONT_RULER)), *inputs),
        *("--span", "0.300=1:11", "--span", "0.600=14:22.5", "--span", "1.000=33:40"),
    )
    assert fitted["kind"] == "offset-scale"
    assert set(fitted) == {"kind", "parameters", "covariance", "statistics", "remarks"}
    kept = tmp_path / "cal.json"
    kept.write_text(json.dumps(fitted))
    raw = ("convert", str(log_path(FRONT_RULER)), "--kind", "echo", *inputs)
    plain, put_right = run(*raw), run(*raw, "--calibration", str(kept))
    assert plain["outputs"]["distance"]["min"] != put_right["outputs"]["distance"]["min"]
    assert put_right["outputs"]["distance"]["min"] == pytest.approx(0.300, abs=0.012)


def test_a_roll_out_along_a_tape(wheel: Path) -> None:
    """18 pulses a lap of tape, 4 a turn: 4.5 turns on 2.12 m."""
    answer = run(
        *("calibrate", "roll-out", str(wheel), "--input", "pulses=hall_count"),
        *("--set", "per_turn=4", "--span", "tape=3.0:6.0:2.12:0.004"),
        *("--span", "again=8.0:11.0", "--set", "again=2.12"),
    )
    roll_out = answer["parameters"]["roll_out"]
    u = answer["covariance"][0][0] ** 0.5
    assert roll_out == pytest.approx(2.12 / 4.5, abs=3 * u)
    assert 0.001 < u < 0.02


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["convert", "{}"], "--kind"),
        (["convert", "{}", "--kind", "nose"], "no kind"),
        (["convert", "{}", "--kind", "pulses"], "pulses=COLUMN"),
        (["convert", "{}", "--kind", "pulses", "--input", "pulses=nix"], "no column"),
        (["convert", "{}", "--kind", "pulses", "--input", "ears=hall_count"], "no input"),
        (
            [
                *("convert", "{}", "--kind", "pulses", "--input", "pulses=hall_count"),
                *("--input", "pulses=hall_gap_us"),
            ],
            "given twice",
        ),
        (
            [
                *("convert", "{}", "--kind", "pulses", "--input", "pulses=hall_count"),
                *("--set", "per_turn=0"),
            ],
            "per_turn",
        ),
        (["convert", "{}", "--kind", "echo", "--input", "echo=hall_count", "--set", "x"], "NAME="),
        (["convert", "/nowhere.csv", "--kind", "echo", "--input", "echo=e"], "no file"),
        (["calibrate", "roll-out", "{}", "--input", "pulses=hall_count"], "length"),
        (
            ["calibrate", "roll-out", "{}", "--input", "pulses=hall_count", "--span", "a=1:2:0"],
            "cannot be",
        ),
        (["calibrate", "wishes", "{}"], "no calibration"),
    ],
)
def test_bad_input_exits_with_2_and_a_sentence(words: list[str], said: str, wheel: Path) -> None:
    outcome = RUNNER.invoke(app, [word.format(wheel) for word in words])
    assert outcome.exit_code == 2
    assert said in outcome.stderr
    assert "Traceback" not in outcome.stderr
