"""``tickstone convert echo`` as a person or a script runs it."""

from __future__ import annotations

import json
import subprocess
import sys

import pytest
from typer.testing import CliRunner

from tickstone.cli.main import app

RUNNER = CliRunner()


def convert(*words: str) -> dict:
    outcome = RUNNER.invoke(app, ["convert", "echo", *words, "--json"])
    assert outcome.exit_code == 0, outcome.stderr
    return json.loads(outcome.stdout)


def test_the_object_it_prints() -> None:
    answer = convert("--us", "5831", "--air-c", "20", "--rh", "50", "--kpa", "101.325")
    assert answer["kind"] == "echo"
    assert answer["status"] == "ok"
    assert answer["results"]["speed_of_sound"]["value"] == pytest.approx(343.99, abs=0.01)
    assert answer["results"]["distance"]["value"] == pytest.approx(1.00291, abs=2e-5)
    assert answer["results"]["distance"]["unit"] == "m"
    assert 0.001 < answer["results"]["distance"]["u"] < 0.004
    assert [set(step) for step in answer["working"]] == [
        {"stage", "formula", "value", "unit", "u"}
    ] * len(answer["working"])
    assert answer["working"][-1]["value"] == answer["results"]["distance"]["value"]


def test_dry_air_agrees_with_a_fluid_property_library() -> None:
    from CoolProp.CoolProp import PropsSI  # it takes five seconds, which few tests need

    answer = convert("--us", "10000", "--air-c", "20", "--rh", "0", "--kpa", "101.325")
    library = PropsSI("A", "T", 293.15, "P", 101_325, "Air")
    assert answer["results"]["distance"]["value"] == pytest.approx(library * 0.005, rel=3e-4)


@pytest.mark.parametrize(
    ("words", "metres"),
    [
        (["--us", "5800", "--rule", "us58"], 1.0),
        (["--us", "1480", "--rule", "us148"], 0.254),
        (["--us", "2910", "--rule", "us29"], 0.5),
        (["--us", "10000", "--speed", "343"], 1.715),
        (["--us", "10000", "--speed", "343", "--offset-mm", "8"], 1.707),
        (["--us", "10000", "--air-c", "20", "--model", "linear"], 1.7171),
        (["--us", "10000", "--air-c", "15", "--model", "ideal"], 1.70147),
    ],
)
def test_rules_speeds_and_models(words: list[str], metres: float) -> None:
    assert convert(*words)["results"]["distance"]["value"] == pytest.approx(metres, abs=2e-6)


def test_the_triangle_and_the_mount() -> None:
    plain = convert("--us", "200", "--speed", "343")["results"]["distance"]["value"]
    triangle = convert("--us", "200", "--speed", "343", "--baseline-mm", "26")
    expected = (plain**2 - 0.013**2) ** 0.5
    assert triangle["results"]["distance"]["value"] == pytest.approx(expected)


@pytest.mark.parametrize(
    ("us", "status"),
    [
        ("5831", "ok"),
        ("0", "no_echo"),
        ("60", "too_near"),
        ("30000", "too_far"),
        ("50000", "timed_out"),
    ],
)
def test_statuses(us: str, status: str) -> None:
    answer = convert("--us", us, "--air-c", "20", "--min-cm", "2", "--max-cm", "400")
    assert answer["status"] == status
    silent = status in ("no_echo", "timed_out")
    assert (answer["results"]["distance"]["value"] is None) == silent


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--us", "abc"], "--us"),
        (["--us", "-3"], "outside 0"),
        (["--us", "nan"], "outside 0"),
        (["--us", "5831", "--air-c", "999"], "air temperature"),
        (["--us", "5831", "--rh", "120"], "humidity"),
        (["--us", "5831", "--rule", "us99"], "no rule"),
        (["--us", "5831", "--model", "guess"], "no model"),
        (["--us", "5831", "--rule", "us58", "--air-c", "20"], "exclude each other"),
        (["--us", "5831", "--rule", "us58", "--speed", "343"], "exclude each other"),
        (["--us", "5831", "--speed", "3"], "250 to 450 m/s"),
        (["--us", "5831", "--min-cm", "50", "--max-cm", "20"], "range"),
        (["--us", "5831", "--baseline-mm", "-4"], "Emitter to receiver"),
        ([], "--us"),
    ],
)
def test_bad_input_exits_with_2_and_a_sentence(words: list[str], said: str) -> None:
    outcome = RUNNER.invoke(app, ["convert", "echo", *words])
    assert outcome.exit_code == 2
    assert said in outcome.stderr
    assert "Traceback" not in outcome.stderr
    assert outcome.stdout == ""


def test_text_shows_the_working_and_what_the_doubt_is_made_of() -> None:
    outcome = RUNNER.invoke(app, ["convert", "echo", "--us", "5831", "--air-c", "20"])
    assert outcome.exit_code == 0
    assert "1.003 m ± 0.005 m" in outcome.stdout
    assert "thermometer" in outcome.stdout
    silent = RUNNER.invoke(app, ["convert", "echo", "--us", "0"]).stdout
    assert "nan" not in silent
    assert "does not mean that something touches" in silent


def test_it_runs_as_a_program_of_its_own() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "tickstone.cli.main", "convert", "echo", "--us", "5831", "--json"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert json.loads(done.stdout)["status"] == "ok"
