"""Heaps found without labels, and the threshold that is recommended for them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.heaps.heap import MOST_VALUES, Heap
from tickstone.core.heaps.parting import part
from tickstone.core.thresholds import METHODS
from tickstone.core.thresholds.choosing import choose
from tickstone.core.thresholds.method import Wanted

SAMPLES = st.lists(st.integers(0, 1023), min_size=10, max_size=80)


@given(SAMPLES, SAMPLES)
def test_the_recommended_threshold_is_never_worse_than_midpoint(dark, light) -> None:
    one, other = Heap.of("dark", dark), Heap.of("light", light)
    if one.mean == other.mean:
        with pytest.raises(ValueError, match="read the same"):
            choose(one, other, METHODS, Wanted())
        return
    chosen = choose(one, other, METHODS, Wanted())
    assert chosen.taken.misread.rate <= chosen.candidates["midpoint"].misread.rate
    low, high = sorted((one.mean, other.mean))
    assert low <= chosen.taken.at - chosen.half_band
    assert chosen.taken.at + chosen.half_band <= high


@given(
    st.floats(100, 400), st.floats(600, 950), st.floats(0.5, 12), st.floats(0.5, 12),
    st.integers(30, 200), st.integers(30, 200), st.integers(0, 20), st.integers(0, 2**32 - 1),
)  # fmt: skip
def test_a_wave_gives_both_heaps_and_leaves_the_edge_out(a, b, sa, sb, na, nb, edge, seed) -> None:
    rng = np.random.default_rng(seed)
    low, high = np.rint(rng.normal(a, sa, na)), np.rint(rng.normal(b, sb, nb))
    between = np.linspace(a, b, edge + 2)[1:-1]
    found = part(rng.permutation(np.concatenate([low, high, between])))
    assert found.why_one == ""
    assert found.low.mean == pytest.approx(low.mean(), abs=4 * sa / np.sqrt(na) + 6)
    assert found.high.mean == pytest.approx(high.mean(), abs=4 * sb / np.sqrt(nb) + 6)
    assert found.low.n + found.high.n + found.between == na + nb + edge


@pytest.mark.parametrize(
    ("samples", "why"),
    [
        (np.full(200, 512), "every sample is the same"),
        (np.arange(5), "too few"),
        (np.random.default_rng(2).normal(500, 20, 400), "one heap"),
        (np.linspace(200, 800, 400), "one heap"),
        (np.concatenate([np.random.default_rng(2).normal(500, 4, 400), [1023] * 3]), "fewer than"),
    ],
)
def test_one_heap_is_called_one(samples, why) -> None:
    assert why in part(samples).why_one


def test_heaps_that_no_threshold_parts_are_called_so() -> None:
    rng = np.random.default_rng(4)
    dark, light = (
        Heap.of("dark", rng.normal(500, 30, 400)),
        Heap.of("light", rng.normal(540, 30, 400)),
    )
    chosen = choose(dark, light, METHODS, Wanted())
    assert "one look in" in chosen.why_not
    few = Heap.of("light", [1, 2, 3])
    with pytest.raises(ValueError, match="3 samples"):
        choose(dark, few, METHODS, Wanted())


def test_a_missed_line_that_costs_more_moves_the_threshold_towards_light() -> None:
    rng = np.random.default_rng(4)
    dark, light = (
        Heap.of("dark", rng.normal(700, 20, 400)),
        Heap.of("light", rng.normal(300, 30, 400)),
    )
    places = [
        METHODS["least-cost"].at(dark, light, Wanted(cost_missed=cost))
        for cost in (0.01, 1.0, 100.0)
    ]
    assert places == sorted(places, reverse=True)


def test_heaps_of_many_values_are_put_on_a_grid_and_keep_their_mean() -> None:
    samples = np.random.default_rng(9).normal(0.0, 1.0, 20_000)
    heap = Heap.of("volts", samples)
    assert len(heap.values) <= MOST_VALUES
    assert heap.n == 20_000
    assert heap.mean == pytest.approx(samples.mean(), abs=1e-3)
    assert heap.sd == pytest.approx(samples.std(ddof=1), rel=1e-3)


def test_the_usual_surfaces_and_the_usual_thresholds() -> None:
    """Dark tape reflects 16 to 19 %, a light floor 67 %; half does, and with the load at the
    collector, where dark reads high, so do 3.4 of 5 V. Common practice.
    """
    rng = np.random.default_rng(3)
    dark = Heap.of("dark", np.rint(rng.uniform(16.0, 19.0, 200)))
    light = Heap.of("light", np.rint(rng.normal(67.0, 1.0, 200)))
    half = choose(dark, light, METHODS, Wanted(fixed=50.0)).candidates["fixed"]
    assert half.misread.rate == 0.0

    def counts(percent: Heap) -> Heap:
        volts = 5.0 - 0.06 * np.repeat(percent.values, percent.counts)
        return Heap.of(percent.name, np.floor(volts * 1024 / 5.0))

    at = 3.4 * 1024 / 5.0
    chosen = choose(counts(dark), counts(light), METHODS, Wanted(fixed=at))
    assert chosen.candidates["fixed"].misread.rate == 0.0
    assert chosen.why_not == ""
