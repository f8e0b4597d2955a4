"""Numbers as people read them: nothing is lost but what is in doubt."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.display import (
    PREFIX_SCALES,
    THIN_SPACE,
    decimals_for,
    grouped,
    measured,
    prefixed,
)
from tickstone.core.uncertainty import expanded

values = st.floats(-1e6, 1e6).filter(lambda value: abs(value) > 1e-6 or value == 0.0)
doubts = st.floats(1e-6, 1e4)


def number(text: str) -> float:
    return float(text.replace(THIN_SPACE, "").replace("−", "-"))


@given(doubts)
def test_the_doubt_shown_is_the_doubt_there_is(u: float) -> None:
    shown = number(grouped(expanded(u), decimals_for(u)))
    assert shown == pytest.approx(expanded(u), rel=0.2, abs=0.5)


@given(values, doubts)
def test_rounding_stays_well_inside_the_doubt(value: float, u: float) -> None:
    shown = number(grouped(value, decimals_for(u)))
    assert abs(shown - value) <= max(0.2 * expanded(u), 0.5 * (u >= 0.5)) + 1e-9


@given(values, st.integers(0, 6))
def test_groups_of_three_read_back(value: float, decimals: int) -> None:
    text = grouped(value, decimals)
    assert number(text) == pytest.approx(round(value, decimals), abs=1e-9)
    whole = text.lstrip("−").split(".")[0].split(THIN_SPACE)
    assert 1 <= len(whole[0]) <= 3
    assert all(len(group) == 3 for group in whole[1:])
    assert text != f"−{grouped(0.0, decimals)}", "nothing is not below nothing"


@given(st.floats(1e-12, 1e9), st.sampled_from(["V", "Ω", "A"]), st.integers(2, 6))
def test_a_prefix_changes_the_words_and_not_the_quantity(
    value: float, unit: str, digits: int
) -> None:
    figure, with_prefix = prefixed(value, unit, digits).split(" ")
    scale = PREFIX_SCALES[with_prefix.removesuffix(unit)]
    assert number(figure) * scale == pytest.approx(value, rel=0.51 * 10.0 ** (1 - digits))
    if value < 900e9 and value >= 1e-12:
        assert 0.99 <= number(figure) < 1000.5


def test_what_is_no_number_is_said_as_it_is() -> None:
    assert prefixed(math.inf, "V") == "inf V"
    assert decimals_for(0.0) == decimals_for(math.nan) == 6


def test_a_result_says_value_and_doubt_alike() -> None:
    assert measured(0.99537, 0.0021, "m") == "0.995 m ± 0.004 m"
    assert measured(-1234.6, 30.0, "mm") == f"−1{THIN_SPACE}235 mm ± 60 mm"
