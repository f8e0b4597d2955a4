"""Logs of axes already worked out that say no unit: told by gravity, or left as they are."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.lines.axis_units import Axis, guess_axis_units
from tickstone.core.lines.shape import learn_shape

TURNS = st.tuples(st.floats(-math.pi, math.pi), st.floats(-1.5, 1.5))


def axes(roll: float, pitch: float, size: float) -> list[Axis]:
    felt = (
        -size * math.sin(pitch),
        size * math.cos(pitch) * math.sin(roll),
        size * math.cos(pitch) * math.cos(roll),
    )
    return [Axis("acceleration", "", [one, one + 1e-6]) for one in felt]


@given(TURNS, st.sampled_from([(1.0, "g"), (9.81, "m/s²")]))
def test_however_it_lies_gravity_tells_the_unit(
    lies: tuple[float, float], given: tuple[float, str]
) -> None:
    size, unit = given
    assert guess_axis_units(axes(*lies, size)) == [unit] * 3


@given(TURNS, st.sampled_from([0.1, 3.0, 40.0, 1000.5]))
def test_what_is_neither_is_left_open(lies: tuple[float, float], size: float) -> None:
    assert guess_axis_units(axes(*lies, size)) == [""] * 3


def test_whole_numbers_are_codes_and_what_is_said_stays_said() -> None:
    codes = [Axis("acceleration", "", [one]) for one in (0.0, 0.0, 1.0)]
    assert guess_axis_units(codes) == [""] * 3
    said = [Axis("acceleration", "mg", [one]) for one in (0.01, 0.0, 0.99)]
    assert guess_axis_units(said) == ["mg"] * 3
    two = axes(0.1, 0.1, 1.0)[:2]
    assert guess_axis_units(two) == ["", ""]


@pytest.mark.parametrize(
    ("line", "units"),
    [
        ("0.012,-0.004,0.998,0.31,-0.20,0.05", ["g"] * 3 + ["°/s"] * 3),
        ("0.11,-0.04,9.79,0.005,-0.003,0.001", ["m/s²"] * 3 + ["rad/s"] * 3),
        ("196,-65,16350,40,-26,6", [""] * 6),
    ],
)
def test_a_log_without_units_is_read_with_them(line: str, units: list[str]) -> None:
    rows = [f"{20 * n},{line}" for n in range(30)]
    shape = learn_shape(["t_ms,ax,ay,az,gx,gy,gz", *rows])
    assert shape is not None
    columns = {one.name: one.unit for one in shape.columns}
    assert [columns[name] for name in ("ax", "ay", "az", "gx", "gy", "gz")] == units
