"""Numbers as people type them, on the command line and in lists of parts."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from tickstone.cli.main import app
from tickstone.core.part_benches.values import listed, part_value, short_value
from tickstone.core.typed_numbers import typed_number

RUNNER = CliRunner()
CASES = json.loads(Path(__file__).parents[1].joinpath("typed_numbers.json").read_text("utf-8"))
"""Tried by the pages as well, so that both read alike."""


@pytest.mark.parametrize(("text", "unit", "value"), CASES["read"])
def test_a_number_is_read_in_the_unit_that_is_asked_for(text: str, unit: str, value: float) -> None:
    assert typed_number(text, unit) == pytest.approx(value)


@pytest.mark.parametrize(("text", "unit", "words"), [*CASES["refused"], ("", "V", "is no number")])
def test_what_reads_in_two_ways_or_none_is_refused_with_the_readings(
    text: str, unit: str, words: str
) -> None:
    with pytest.raises(ValueError, match=re.escape(words)):
        typed_number(text, unit)


@given(st.floats(1e-12, 9e9).filter(lambda one: one > 0.0))
def test_a_short_value_reads_back_in_both_readers(value: float) -> None:
    text = short_value(value)
    assert part_value(text) == pytest.approx(value, rel=1e-12)
    assert typed_number(text, "Ω") == pytest.approx(value, rel=1e-12)


def test_a_row_of_values_with_decimal_commas() -> None:
    assert listed("10k,4k7,220") == ["10k", "4k7", "220"]
    assert listed("4,7k; 10k") == ["4,7k", "10k"]
    with pytest.raises(ValueError, match=r"may be 4\.7k or 4; 7k"):
        listed("4,7k")


def test_commands_take_suffixes_and_short_names_and_end_with_1_on_an_error() -> None:
    fine = RUNNER.invoke(app, ["parts", "divider", "--mode", "level", "--input-v", "5V", "--json"])
    assert fine.exit_code == 0, fine.stderr
    results = json.loads(fine.stdout)["results"]
    assert results["upper resistor"]["value"] == 1_800.0
    assert results["low at the tap, at most"]["value"] < 0.4
    assert 0.0 < results["heat of the lower resistor"]["value"] < 0.01
    said = ["parts", "divider", "--mode", "analyse", "--top-ohm", "4,7k", "--bottom-ohm", "10k"]
    bad = RUNNER.invoke(app, said)
    assert bad.exit_code == 1
    assert "error: It can reach 3.68 V" in bad.stdout
    unclear = RUNNER.invoke(app, ["parts", "divider", "--top-ohm", "10,000"])
    assert unclear.exit_code == 2
    assert "--top-ohm: “10,000” may be 10000 or 10.000" in unclear.stderr


def test_an_led_is_told_the_corners_of_its_current() -> None:
    said = ["parts", "led-resistor", "--current-ma", "15mA", "--json"]
    results = json.loads(RUNNER.invoke(app, said).stdout)["results"]
    low, high = (results[f"{which} current"]["value"] for which in ("lowest", "highest"))
    assert low == pytest.approx((4.75 - 2.2) / 231.0)
    assert high == pytest.approx((5.25 - 1.8) / 209.0)


def test_spacings_that_go_round_more_than_once_are_told() -> None:
    said = ["parts", "commutation", "--magnets", "4", "--json"]
    assert (
        json.loads(RUNNER.invoke(app, said).stdout)["results"]["spacings above 120°"]["value"] == 2
    )
