"""``tickstone tune threshold``: from a log to thresholds, and what it says when it cannot."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from tickstone.cli.main import app
from tickstone.demo.logs import NOSE_WAVE, log_path

RUNNER = CliRunner()


def log_of(tmp_path: Path, black: float, white: float, sd: float = 4.0, n: int = 200) -> Path:
    """Three sensors over black for 5 s, then over white from the 6th second on."""
    rng = np.random.default_rng(7)
    rows = ["t_ms,ir1,ir2,ir3"]
    for t in range(0, 11_000, 11_000 // n):
        level = black if t < 5_500 else white
        counts = np.clip(np.rint(rng.normal(level + np.array([0, 20, -20]), sd)), 0, 1023)
        rows.append(f"{t}," + ",".join(f"{one:.0f}" for one in counts))
    path = tmp_path / "strip.csv"
    path.write_text("\n".join(rows) + "\n")
    return path


def run(*arguments: str) -> tuple[int, str]:
    found = RUNNER.invoke(app, ["tune", "threshold", *arguments])
    return found.exit_code, found.output


def test_labelled_spans_give_a_threshold_for_every_sensor(tmp_path: Path) -> None:
    spans = ("--span", "black=0:5", "--span", "white=6:11")
    code, text = run(str(log_of(tmp_path, 800, 250)), *spans, "--json")
    assert code == 0, text
    told = json.loads(text)
    assert [one["column"] for one in told["sensors"]] == ["ir1", "ir2", "ir3"]
    for one in told["sensors"]:
        assert one["polarity"] == "dark_is_high"
        assert one["white"]["mean"] < one["threshold"] < one["black"]["mean"]
        assert one["misread_rate"] == 0.0
        assert one["misread_low"] == 0.0 < one["misread_high"] < 0.05
        assert one["d_prime"] > 50
        assert set(one["all"]) >= {"midpoint", "equal_error", "otsu"}
        assert one["black"]["n"] > 50
        assert 0.0 < one["hysteresis"] < 100.0


def test_without_spans_the_heaps_are_found(tmp_path: Path) -> None:
    code, text = run(str(log_path(NOSE_WAVE)), "--json")
    assert code == 0, text
    told = json.loads(text)
    assert len(told["sensors"]) == 5
    assert all(one["d_prime"] > 20 for one in told["sensors"])
    assert any("on the edge were left out" in one for one in told["remarks"])


def test_a_method_may_be_chosen(tmp_path: Path) -> None:
    path = str(log_of(tmp_path, 800, 250))
    _, guessed = run(path, "--json")
    assert any("is a guess" in one for one in json.loads(guessed)["remarks"])
    spans = ("--span", "black=0:5", "--span", "white=6:11")
    _, text = run(path, *spans, "--method", "fixed", "--fixed", "450", "--json")
    assert {one["threshold"] for one in json.loads(text)["sensors"]} == {450.0}
    _, cheap = run(path, *spans, "--method", "least-cost", "--cost-missed", "100", "--json")
    _, dear = run(path, *spans, "--method", "least-cost", "--cost-false", "100", "--json")
    for one, other in zip(json.loads(cheap)["sensors"], json.loads(dear)["sensors"], strict=True):
        assert one["threshold"] < other["threshold"]


@pytest.mark.parametrize(
    ("black", "white", "arguments", "why"),
    [
        (800, 250, ("--span", "black=0:5"), "only black was held"),
        (800, 250, ("--span", "black=0:0.2", "--span", "white=6:11"), "10 at least"),
        (500, 500, (), "one heap"),
        (800, 250, ("--method", "fixed"), "give --fixed"),
        (800, 250, ("--method", "guess"), "there is no method"),
        (800, 250, ("--span", "black=5:0"), "has to be NAME=FROM:TO"),
        (800, 250, ("--span", "black=70:80"), "no sample lies"),
        (2000, 1900, (), "every sample is the same"),
    ],
)
def test_what_cannot_be_told_is_refused_with_the_reason(
    tmp_path: Path, black: float, white: float, arguments: tuple[str, ...], why: str
) -> None:
    code, text = run(str(log_of(tmp_path, black, white)), *arguments)
    assert code == 2
    assert why in text


def test_a_dead_sensor_does_not_take_the_others_along(tmp_path: Path) -> None:
    path = log_of(tmp_path, 800, 250)
    dead = [line.rsplit(",", 1)[0] + ",790" for line in path.read_text().splitlines()[1:]]
    path.write_text("\n".join(["t_ms,ir1,ir2,ir3", *dead]) + "\n")
    code, text = run(str(path), "--json")
    assert code == 0, text
    told = json.loads(text)
    first, _, last = told["sensors"]
    assert 250 < first["threshold"] < 800
    assert set(last) == set(first)
    assert (last["column"], last["threshold"], last["black"]) == ("ir3", None, None)
    assert last["why"] == "every sample is the same"
    assert "ir3: every sample is the same" in told["remarks"]
    assert "ir3          no threshold" in run(str(path))[1]


def test_overlapping_heaps_are_hedged(tmp_path: Path) -> None:
    spans = ("--span", "black=0:5", "--span", "white=6:11")
    code, text = run(str(log_of(tmp_path, 520, 500, sd=25.0)), *spans, "--json")
    assert code == 0
    assert any("no threshold can do here" in one for one in json.loads(text)["remarks"])
