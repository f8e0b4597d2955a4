"""``tickstone convert pulses`` and what it says of gaps, ticks, counts and timers."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from tickstone.cli.main import app

RUNNER = CliRunner()


def convert(*words: str) -> dict[str, Any]:
    outcome = RUNNER.invoke(app, ["convert", "pulses", *words, "--json"])
    assert outcome.exit_code == 0, outcome.stderr
    return json.loads(outcome.stdout)


@pytest.mark.parametrize(
    ("words", "rpm", "within"),
    [
        # Common practice: 3.9 Hz is 234 RPM, 94 Hz is 5 640 RPM, with one pulse a turn.
        (["--gap-us", "256410", "--per-turn", "1"], 234.0, 0.01),
        (["--ticks", "8013", "--tick-hz", "31250"], 234.0, 0.02),
        (["--count", "39", "--gate-s", "10"], 234.0, 1e-9),
        (["--count", "94"], 5640.0, 1e-9),
        (["--count", "94", "--edges", "both"], 2820.0, 1e-9),
        (["--gap-us", "62500", "--per-turn", "4"], 240.0, 1e-6),
        (["--gap-us", "5000000"], 12.0, 1e-6),
    ],
)
def test_turns_a_minute(words: list[str], rpm: float, within: float) -> None:
    answer = convert(*words)
    assert answer["kind"] == "pulses"
    assert answer["status"] == "ok"
    assert answer["results"]["rpm"]["value"] == pytest.approx(rpm, abs=within)
    assert [answer["results"][name]["unit"] for name in ("frequency", "rpm", "speed")] == [
        "Hz",
        "RPM",
        "m/s",
    ]
    assert all(
        set(step) == {"stage", "formula", "value", "unit", "u"} for step in answer["working"]
    )


@given(st.floats(400, 1e7), st.floats(1e3, 1e7))
def test_a_period_doubts_one_tick_and_a_gate_one_pulse(gap_us: float, tick_hz: float) -> None:
    """Closed forms: f²·tick/√6 of a period told in whole ticks, 1/(√6·T) of a gate."""
    ticks = max(1, round(gap_us * tick_hz / 1e6))
    rate = convert("--ticks", str(ticks), "--tick-hz", repr(tick_hz), "--method", "period")
    frequency = rate["results"]["frequency"]
    expected = frequency["value"] ** 2 / tick_hz / 6**0.5
    assert frequency["u"] == pytest.approx(expected, rel=2e-3)
    gate_s = gap_us / 1e5 + 0.01
    counted = convert("--count", "7", "--gate-s", repr(gate_s))["results"]["frequency"]
    assert counted["u"] == pytest.approx(1.0 / gate_s / 6**0.5)


def test_the_timer_says_the_slowest_and_the_fastest() -> None:
    # Common practice: 16 bits at 8 MHz ÷ 256, one pulse a turn.
    results = convert("--timer-bits", "16", "--tick-hz", "31250")["results"]
    assert results["slowest_rpm"]["value"] == pytest.approx(28.61, abs=0.005)
    assert results["fastest_rpm"]["value"] == pytest.approx(1_875_000)
    four = convert("--timer-bits", "16", "--tick-hz", "62500", "--per-turn", "4")["results"]
    assert four["slowest_rpm"]["value"] == pytest.approx(14.305, abs=0.005)


def test_a_measured_roll_out_brings_its_doubt_into_the_speed() -> None:
    plain = convert("--gap-us", "250000", "--roll-out-m", "2.0")["results"]["speed"]
    assert plain["value"] == pytest.approx(8.0)
    doubted = convert("--gap-us", "250000", "--roll-out-m", "2.0", "--roll-out-u-m", "0.01")[
        "results"
    ]["speed"]
    assert doubted["u"] == pytest.approx(0.04, rel=1e-3)


def test_no_pulse_in_a_gate_is_slow_and_only_bounds() -> None:
    answer = convert("--count", "0", "--gate-s", "2")
    assert answer["status"] == "slow"
    assert answer["results"]["rpm"] == {"value": None, "unit": "RPM", "u": None, "below": 30.0}


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ([], "--gap-us"),
        (["--gap-us", "0"], "gap of 0"),
        (["--gap-us", "-5"], "outside 0"),
        (["--gap-us", "nan"], "outside 0"),
        (["--gap-us", "5", "--count", "3"], "exclude each other"),
        (["--ticks", "100"], "--tick-hz"),
        (["--ticks", "70000", "--tick-hz", "31250", "--timer-bits", "16"], "do not fit"),
        (["--timer-bits", "16"], "--tick-hz"),
        (["--count", "2.5"], "no whole number"),
        (["--gap-us", "1000", "--per-turn", "0"], "Pulses a turn"),
        (["--gap-us", "1000", "--per-turn", "-3"], "Pulses a turn"),
        (["--gap-us", "1000", "--roll-out-m", "0"], "Rolls in a turn"),
        (["--gap-us", "1000", "--edges", "some"], "none of one, both"),
    ],
)
def test_bad_input_exits_with_2_and_a_sentence(words: list[str], said: str) -> None:
    outcome = RUNNER.invoke(app, ["convert", "pulses", *words])
    assert outcome.exit_code == 2
    assert said in outcome.stderr
    assert "Traceback" not in outcome.stderr
    assert outcome.stdout == ""


def test_help_lists_every_setting_of_the_kind() -> None:
    said = RUNNER.invoke(app, ["convert", "pulses", "--help"], env={"COLUMNS": "200"}).stdout
    for option in ("--gap-us", "--per-turn", "--gate-s", "--roll-out-m", "--timer-bits"):
        assert option in said
