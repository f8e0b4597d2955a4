"""Acceleration: the slope of a speed, and by how much it lags."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.pulses import EDGE, PulseParameters, Pulses
from tickstone.core.quantity import ACCELERATION, SPEED
from tickstone.core.signal import Signal
from tickstone.core.stages.rate_of_change import RateOfChange
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

over = st.floats(0.1, 2.0)


@given(over, st.floats(-5.0, 5.0))
def test_a_steady_slope_is_told_as_it_is(over_s: float, slope: float) -> None:
    stage = RateOfChange(over_s, ACCELERATION)
    times = np.cumsum(np.random.default_rng(3).uniform(0.01, 0.09, 200))
    found, _ = stage.run(stage.begin(), Signal.of(times, slope * times, SPEED))
    np.testing.assert_allclose(found.value[found.ok], slope, atol=1e-9)
    assert found.ok[times >= times[0] + over_s + 0.1].all()
    assert (found.flag[times < times[0] + over_s] == Status.NOT_YET).all()


@given(over)
def test_it_lags_by_half_the_time_it_looks_over(over_s: float) -> None:
    """A slope that itself rises steadily is told as it was half that time ago."""
    stage = RateOfChange(over_s, ACCELERATION)
    times = np.arange(0.0, 6.0, 0.01)
    found, _ = stage.run(stage.begin(), Signal.of(times, times**2 / 2.0, SPEED))
    lag = times[found.ok] - found.value[found.ok]
    np.testing.assert_allclose(lag, over_s / 2.0, atol=0.006)


def test_nothing_is_compared_across_a_stop() -> None:
    """Rolling, standing for long, rolling on: no slope spans the stop."""
    times = np.concatenate((np.arange(0.0, 3.0, 0.1), np.arange(20.0, 23.0, 0.1)))
    chain = Pulses().build(
        PulseParameters(method="period"),
        Surroundings(AirConditions(20.0)),
        forms={"pulses": "edges"},
    )
    edges = Signal.of(times, np.ones(len(times)), EDGE)
    found = chain.apply(edges, "acceleration")
    again = found.time_s[found.ok & (found.time_s > 19.0)]
    assert again[0] == pytest.approx(20.6, abs=0.11)
    assert np.abs(found.value[found.ok]).max() < 1e-9
    steps = chain.explain(edges, int(np.flatnonzero(found.ok)[0]), "acceleration")
    assert steps[-1].below == "lags 250 ms"
    assert steps[-1].u > 0.0
