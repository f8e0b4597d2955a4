"""Counts, dwell, chatter, and told against true: by hand, and by packages made for it."""

from __future__ import annotations

import itertools
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import binomtest
from statsmodels.stats.proportion import proportion_confint

from tickstone.core.machines.machine import Machine
from tickstone.core.machines.measures import Rate, Truth, confusion, reaction_said, stays
from tickstone.core.machines.running import Visits

NAMES = ("go", "stop", "turn")
MACHINE = Machine.of(
    {"inputs": [{"name": "x"}], "transitions": [], "states": [{"name": one} for one in NAMES]}
)


def visits(*parts: tuple[str, float, float]) -> Visits:
    names, from_s, to_s = zip(*parts, strict=True)
    return Visits(
        np.array(from_s), np.array(to_s), np.array([NAMES.index(n) for n in names]),
        np.zeros(len(parts), dtype=np.int64),
    )  # fmt: skip


def test_chatter_is_what_leads_straight_back() -> None:
    seen = visits(
        ("go", 0.0, 1.0), ("stop", 1.0, 1.1), ("go", 1.1, 1.2), ("stop", 1.2, 3.0),
        ("turn", 3.0, 3.1), ("go", 3.1, 5.0),
    )  # fmt: skip
    told = {one.state: one for one in stays(MACHINE, seen)}
    # Stop of 0.1 s between two goes, and go of 0.1 s between two stops; turn leads elsewhere.
    assert {name: one.chatter for name, one in told.items()} == {"go": 1, "stop": 1, "turn": 0}
    assert told["go"].total_s == pytest.approx(1.0 + 0.1 + 1.9)
    assert sum(one.share for one in told.values()) == pytest.approx(1.0)


@st.composite
def runs(draw: st.DrawFn) -> tuple[Visits, list[Truth]]:
    """Visits side by side, and truths anywhere, in quarters of a second."""
    edges = sorted(draw(st.sets(st.integers(1, 79), max_size=12)))
    bounds = [0, *edges, 80]
    parts = [(draw(st.sampled_from(NAMES)), a / 4, b / 4) for a, b in itertools.pairwise(bounds)]
    marks = sorted(draw(st.sets(st.integers(0, 80), min_size=2, max_size=8)))
    truths = [
        Truth(draw(st.sampled_from(NAMES)), a / 4, b / 4)
        for a, b in zip(marks[::2], marks[1::2], strict=False)
    ]
    return visits(*parts), truths


@settings(max_examples=200)
@given(runs())
def test_confusion_is_what_counting_every_sample_gives(run: tuple[Visits, list[Truth]]) -> None:
    seen, truths = run
    sample_s = np.arange(0, 20, 0.1) + 0.05
    told = confusion(MACHINE, seen, truths, sample_s)
    expected = np.zeros((3, 3), dtype=int)
    for t in sample_s:
        true = [one.state for one in truths if one.from_s <= t < one.to_s]
        if true:
            expected[NAMES.index(true[0]), seen.state[seen.at(t)]] += 1
    assert np.array(told.samples).tolist() == expected.tolist()
    lasted = sum(one.to_s - one.from_s for one in truths)
    assert np.sum(told.seconds) == pytest.approx(lasted)
    assert told.right.of == expected.sum()


def test_reactions_and_what_was_missed() -> None:
    seen = visits(("go", 0.0, 2.3), ("stop", 2.3, 4.0), ("go", 4.0, 9.0), ("stop", 9.0, 9.5),
                  ("go", 9.5, 20.0))  # fmt: skip
    truths = [Truth("stop", 2.0, 4.0), Truth("stop", 8.0, 9.2), Truth("stop", 12.0, 13.0)]
    told = confusion(MACHINE, seen, truths, np.arange(0, 20, 0.05))
    held = next(one for one in told.held if one.state == "stop")
    assert held.recall_stretches == Rate(2, 3)
    assert held.precision_visits == Rate(2, 2)
    assert held.missed == (12.0,)
    assert reaction_said(held) == {"median_s": pytest.approx(0.65), "longest_s": 1.0}
    assert {one.from_s for one in told.worst[:2]} == {12.0, 8.0}


@given(st.integers(1, 400), st.data())
def test_intervals_are_those_of_two_packages(of: int, data: st.DataObject) -> None:
    hits = data.draw(st.integers(0, of))
    low, high = Rate(hits, of).interval
    exact = binomtest(hits, of).proportion_ci(0.95, method="exact")
    assert (low, high) == pytest.approx((exact.low, exact.high), abs=1e-9)
    again = proportion_confint(hits, of, 0.05, method="beta")
    assert (low, high) == pytest.approx([np.nan_to_num(again[0]), min(1.0, again[1])], abs=1e-9)


@pytest.mark.parametrize(
    ("truths", "says"),
    [
        ([Truth("fly", 0, 1)], "is no state of these rules; there are go, stop, turn"),
        ([Truth("go", 1, 1)], "has no length"),
        ([Truth("go", 0, 2), Truth("stop", 1, 3)], "lasts to 2 s, but stop begins at 1 s"),
    ],
)
def test_truths_that_cannot_be(truths: list[Truth], says: str) -> None:
    with pytest.raises(ValueError, match=re.escape(says)):
        confusion(MACHINE, visits(("go", 0.0, 5.0)), truths, np.arange(5.0))
