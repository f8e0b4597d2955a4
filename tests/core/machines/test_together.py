"""Several sensors as one: the nearest, the farthest, by trust; who decided, and who disagrees."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import Runner
from tickstone.core.machines.together import FARTHEST, NEAREST, TRUST, put_together
from tickstone.core.signal import Signal
from tickstone.core.status import Status

T = np.arange(6) / 10


def told(values: list[float], status: list[int] | None = None) -> Signal:
    return Signal.of(T[: len(values)], values, status=status)


def test_the_nearest_and_the_farthest_say_whose_they_are() -> None:
    front, left = told([1.0, 0.5, 0.9]), told([0.8, 0.8, 0.8])
    near = put_together([front, left], [1.0, 1.0], NEAREST)
    far = put_together([front, left], [1.0, 1.0], FARTHEST)
    assert near.signal.value.tolist() == [0.8, 0.5, 0.8]
    assert near.who.tolist() == [1, 0, 1]
    assert far.signal.value.tolist() == [1.0, 0.8, 0.9]
    assert far.who.tolist() == [0, 1, 0]


def test_trust_is_by_what_each_is_worth_until_they_disagree() -> None:
    one, other = told([1.0, 1.0, 1.0]), told([1.05, 1.2, 1.0], [0, 0, int(Status.NO_ECHO)])
    both = put_together([one, other], [1.0, 1.0], TRUST, (0.01, 0.02))
    # 1/u²: 4 parts of the first, 1 of the second. Apart by more than 3·√(u₁² + u₂²): the nearest.
    assert both.signal.value.tolist() == pytest.approx([1.01, 1.0, 1.0])
    assert both.signal.flag.tolist() == [0, Status.AT_ODDS, Status.ONE_ALONE]
    assert both.who.tolist() == [-1, 0, 0]


def test_an_old_reading_counts_for_nothing() -> None:
    front = told([0.5])
    left = Signal.of([0.0, 0.4, 0.8], [0.9, 0.9, 0.9])
    both = put_together([front, left], [0.3, 0.5], NEAREST)
    assert both.signal.value.tolist() == [0.5, 0.9, 0.9]
    assert both.signal.flag.tolist() == [0, Status.ONE_ALONE, Status.ONE_ALONE]


def test_where_none_measures_there_is_nothing() -> None:
    flags = [int(Status.NO_ECHO)] * 3
    both = put_together([told([1.0] * 3, flags), told([1.0] * 3, flags)], [1.0, 1.0], NEAREST)
    assert np.isnan(both.signal.value).all()
    assert both.signal.flag.tolist() == flags


@given(
    st.lists(st.floats(0.1, 5.0), min_size=6, max_size=6),
    st.lists(st.floats(0.1, 5.0), min_size=6, max_size=6),
    st.floats(0.001, 1.0), st.floats(0.001, 1.0),
)  # fmt: skip
def test_what_is_told_lies_between_what_they_say(
    a: list[float], b: list[float], ua: float, ub: float
) -> None:
    made = put_together([told(a), told(b)], [1.0, 1.0], TRUST, (ua, ub)).signal
    low, high = np.minimum(a, b), np.maximum(a, b)
    assert np.all(made.value >= low - 1e-9)
    assert np.all(made.value <= high + 1e-9)


def test_a_machine_stops_for_whichever_is_nearer() -> None:
    machine = Machine.of(
        {
            "inputs": [
                {"name": "front", "unit": "m"}, {"name": "left", "unit": "m"},
                {"name": "near", "unit": "m", "together": "nearest", "of": ["front", "left"]},
            ],
            "states": [{"name": "go"}, {"name": "stop"}, {"name": "odd"}],
            "transitions": [
                {"leaves": "go", "to": "stop", "when": "near < 0.4 m"},
                {"leaves": "go", "to": "odd", "when": "near says one_alone"},
            ],
        }
    )  # fmt: skip
    heard = {"front": told([1.0] * 6), "left": told([1.0, 1.0, 0.3, 0.3, 1.0, 1.0])}
    visits = Runner(machine).replay(heard)
    assert [machine.states[n].name for n in visits.state] == ["go", "stop"]
    assert visits.from_s[1] == pytest.approx(0.2)


@pytest.mark.parametrize("status", [Status.SLOW, Status.ONE_ALONE, Status.AT_ODDS])
def test_what_bears_no_measurement_is_never_near(status: Status) -> None:
    """Nothing of several measures: what the first says of itself is not taken for a value."""
    machine = Machine.of(
        {
            "inputs": [
                {"name": "front"}, {"name": "left"},
                {"name": "near", "together": "nearest", "of": ["front", "left"]},
            ],
            "states": [{"name": "go"}, {"name": "stop"}],
            "transitions": [{"leaves": "go", "to": "stop", "when": "near < 0.4"}],
        }
    )  # fmt: skip
    front = Signal.of(np.arange(6) / 10, np.full(6, 2.0), status=[int(status)] * 6)
    heard = {"front": front, "left": told([np.nan] * 6)}
    assert Runner(machine).replay(heard).state.tolist() == [0]
