"""Conditions in words and numbers."""

from __future__ import annotations

import math
import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.machines.trials import conditions

from tickstone.core.machines.conditions import InputNames, read_condition
from tickstone.core.status import Status

NAMES = InputNames(
    {
        "front": ("m", ()),
        "left": ("m", ()),
        "lean": ("rad", ()),
        "line": ("", ("line", "lost", "bar")),
        "a": ("", ()), "b": ("", ()), "c": ("", ()),
    }
)  # fmt: skip


def told(text: str, **readings: float) -> int:
    condition = read_condition(text, NAMES)
    truths = []
    for atom in condition.atoms:
        value = readings.get(atom.input, math.nan)
        status = Status.OK if atom.input in readings else Status.NO_ECHO
        truths.append(atom.told(value, status, status == Status.OK))
    return condition.told(truths)


@pytest.mark.parametrize(
    ("text", "readings", "expected"),
    [
        ("front < 42 cm", {"front": 0.41}, 1),
        ("front < 420mm", {"front": 0.42}, 0),
        ("front <= 0.42", {"front": 0.42}, 1),
        ("front > 0.42", {"front": 0.42}, 0),
        ("front >= 0.42 m", {"front": 0.42}, 1),
        ("lean > 12°", {"lean": math.radians(12.5)}, 1),
        ("lean above 12 deg", {"lean": math.radians(11.5)}, 0),
        ("front between 0.2 and 0.4", {"front": 0.2}, 1),
        ("front between 0.2 and 0.4", {"front": 0.4}, 0),
        ("line is lost", {"line": 1}, 1),
        ("line is not lost", {"line": 1}, 0),
        ("front says no_echo", {}, 1),
        ("front says not ok", {"front": 1.0}, 0),
        ("front < 0.4 or line is bar", {"line": 2}, 1),
        ("front < 0.4 and line is bar", {"line": 1}, 0),
        ("front < 0.4 and line is bar", {"line": 2}, 2),
        ("not front < 0.4", {}, 2),
        ("any of front, left < 0.3", {"left": 0.2}, 1),
        ("all of front, left < 0.3", {"left": 0.2}, 2),
        ("all of front, left < 0.3", {"left": 0.4}, 0),
        ("2 of a, b, c > 1", {"a": 2.0, "b": 0.0, "c": 3.0}, 1),
        ("2 of a, b, c > 1", {"a": 2.0}, 2),
        ("2 of a, b, c > 1", {"a": 0.0, "b": 0.0}, 0),
        ("a < 1 or b < 1 and c < 1", {"a": 0.0, "b": 5.0, "c": 5.0}, 1),
        ("a < −1", {"a": -2.0}, 1),
    ],
)  # fmt: skip
def test_what_is_written_is_what_counts(
    text: str, readings: dict[str, float], expected: int
) -> None:
    assert told(text, **readings) == expected


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "says nothing"),
        ("frnt < 1", "there is no input “frnt”; there are front"),
        ("front", "is expected after front"),
        ("front < ", "stands where a number is expected"),
        ("front < 3 kg", "“kg” is no unit of it; write m, cm, mm, in"),
        ("line < 3", "line is a decision"),
        ("line is gone", "line is never “gone”; it is one of line, lost, bar"),
        ("front is lost", "front is an amount"),
        ("front says hello", "“hello” is no status"),
        ("front < 1 front < 2", "“front” is no unit of it"),
        ("front < 1 m front < 2", "“front” is not expected there"),
        ("(front < 1", "a bracket is not closed"),
        ("front < 1 & left < 2", "cannot be read"),
        ("3 of front, left < 1", "3 of 2 cannot be"),
        ("front between 3 and 2", "lies nothing"),
        ("front < 1e999", "not finite"),
        ("(" * 60 + "front < 1" + ")" * 60, "nested too deep"),
        ("not " * 60 + "front < 1", "nested too deep"),
        ("front < 1 or " * 60 + "front < 1", "400 characters at most"),
    ],
)
def test_what_cannot_be_read_says_why(text: str, says: str) -> None:
    with pytest.raises(ValueError, match=re.escape(says)):
        read_condition(text, NAMES)


@given(conditions, st.data())
def test_what_is_said_reads_the_same(text: str, data: Any) -> None:
    """A condition said again, as pages show it, is the same condition."""
    one = read_condition(text, NAMES)
    again = read_condition(one.said, NAMES)
    truths = data.draw(
        st.lists(st.integers(0, 2), min_size=len(one.atoms), max_size=len(one.atoms))
    )
    assert again.atoms == one.atoms
    assert again.told(truths) == one.told(truths)
