"""A trip in a few figures, and its laps."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.pulses import EDGE, PulseParameters, Pulses
from tickstone.core.digests.kind import laps
from tickstone.core.digests.trip import Trip
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings

AROUND_M = np.pi * 0.15


def run_of(times: np.ndarray, until_s: float) -> dict[str, Signal]:
    """Speed and distance of edges at these times, one a turn."""
    chain = Pulses().build(
        PulseParameters(method="period"), Surroundings(AirConditions(20.0)),
        forms={"pulses": "edges"},
    )  # fmt: skip
    edges = Signal.of(times, np.ones(len(times)), EDGE, until_s=until_s)
    return {name: chain.apply(edges, name) for name in ("speed", "distance")}


def told(results: dict[str, Signal], from_s: float, to_s: float) -> dict[str, float]:
    figures = Trip().figures(results, from_s, to_s, lambda output, at: 0.01 * at, None)
    return {one.name: one.value for one in figures}


def test_two_rides_with_a_rest_between() -> None:
    """10 s at 2 turns a second, 20 s of rest, 10 s at 4."""
    first, second = 0.5 * np.arange(21), 30.0 + 0.25 * np.arange(41)
    trip = told(run_of(np.concatenate((first, second)), 60.0), 0.0, 60.0)
    assert trip["distance"] == pytest.approx(61 * AROUND_M)
    assert trip["moving"] == pytest.approx(20.0, abs=0.6)
    assert trip["mean_all"] == pytest.approx(61 * AROUND_M / 60.0)
    assert trip["mean_moving"] == pytest.approx(61 * AROUND_M / 20.0, rel=0.05)
    assert trip["greatest"] == pytest.approx(4.0 * AROUND_M)


def test_one_wild_gap_is_not_the_greatest_speed() -> None:
    times = np.sort(np.append(0.5 * np.arange(40), 7.3))
    trip = told(run_of(times, 20.0), 0.0, 20.0)
    assert trip["greatest"] < 2.0 * 2.0 * AROUND_M


@given(st.lists(st.floats(0.5, 39.5), max_size=5))
def test_laps_add_up_to_the_whole(ends: list[float]) -> None:
    results = run_of(0.3 * np.arange(130), 40.0)
    whole = told(results, 0.0, 40.0)
    parts = [told(results, *lap) for lap in laps(0.0, 40.0, ends)]
    if parts:
        for name in ("distance", "moving", "all"):
            assert sum(part[name] for part in parts) == pytest.approx(whole[name])


def test_standing_all_the_time_is_told_as_such() -> None:
    trip = told(run_of(np.empty(0), 30.0), 0.0, 30.0)
    assert (trip["distance"], trip["moving"]) == (0.0, 0.0)
    assert np.isnan(trip["mean_moving"])
    assert np.isnan(trip["greatest"])
