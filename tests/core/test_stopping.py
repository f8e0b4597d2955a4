"""The stopping distance as a law, not as a list of examples."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.beam import footprint_diameter_m
from tickstone.core.stopping import (
    StoppingInputs,
    greatest_speed_m_per_s,
    stopping_distance,
    suggested_thresholds_m,
)

INPUTS = st.builds(
    StoppingInputs,
    speed_m_per_s=st.floats(0, 10),
    deceleration_m_per_s2=st.floats(0.1, 20),
    sample_s=st.floats(0, 0.5),
    filter_s=st.floats(0, 0.5),
    loop_s=st.floats(0, 0.5),
    actuate_s=st.floats(0, 0.5),
    reading_u_m=st.floats(0, 0.05),
    margin_m=st.floats(0, 1),
    speed_u=st.floats(0, 0.5),
    deceleration_u=st.floats(0, 0.05),
)


@given(INPUTS)
def test_the_sum_is_its_parts_and_the_suggestion_covers_it(inputs: StoppingInputs) -> None:
    stopping = stopping_distance(inputs)
    simulated = simulate(inputs)
    assert stopping.travel_blind_m + stopping.travel_braking_m == pytest.approx(
        simulated, rel=2e-3, abs=2e-4
    )
    stop, go = suggested_thresholds_m(inputs)
    assert stop >= stopping.total_m - 1e-6
    assert go - stop >= 0.05 - 1e-9


def simulate(inputs: StoppingInputs, steps: int = 4000) -> float:
    """Drive on for the blind time, then brake in small steps of speed: no formula of ours."""
    travelled = inputs.speed_m_per_s * inputs.blind_s
    speed_step = inputs.speed_m_per_s / steps
    for k in range(steps):
        speed = inputs.speed_m_per_s - (k + 0.5) * speed_step
        travelled += speed * speed_step / inputs.deceleration_m_per_s2
    return travelled


@given(INPUTS)
def test_the_greatest_speed_for_a_threshold_undoes_the_sum(inputs: StoppingInputs) -> None:
    total = stopping_distance(inputs).total_m
    assert greatest_speed_m_per_s(total, inputs) == pytest.approx(
        inputs.speed_m_per_s, rel=1e-6, abs=1e-5
    )


@given(INPUTS, st.floats(0.01, 1))
def test_faster_or_blinder_is_never_shorter(inputs: StoppingInputs, more: float) -> None:
    total = stopping_distance(inputs).total_m
    faster = replace(inputs, speed_m_per_s=inputs.speed_m_per_s + more)
    blinder = replace(inputs, loop_s=inputs.loop_s + more)
    assert stopping_distance(faster).total_m >= total
    assert stopping_distance(blinder).total_m >= total


def test_a_threshold_smaller_than_doubt_and_margin_is_good_for_nothing() -> None:
    inputs = StoppingInputs(0.5, 1.5, 0.05, 0.05, 0.02, 0.05, 0.002, 0.05)
    assert greatest_speed_m_per_s(0.05, inputs) == 0.0


@pytest.mark.parametrize("field", ["speed_m_per_s", "loop_s", "margin_m"])
def test_the_impossible_is_named(field: str) -> None:
    inputs = StoppingInputs(0.5, 1.5, 0.05, 0.05, 0.02, 0.05, 0.002, 0.05)
    with pytest.raises(ValueError, match=field):
        replace(inputs, **{field: -1.0})
    with pytest.raises(ValueError, match="nothing ever stops"):
        replace(inputs, deceleration_m_per_s2=0.0)


def test_the_beam_widens_with_distance_and_angle() -> None:
    assert footprint_diameter_m(2.0, 0.26) == pytest.approx(2 * footprint_diameter_m(1.0, 0.26))
    assert footprint_diameter_m(1.0, 0.52) > footprint_diameter_m(1.0, 0.26)
    with pytest.raises(ValueError, match="footprint"):
        footprint_diameter_m(-1.0, 0.26)
    with pytest.raises(ValueError, match="180"):
        footprint_diameter_m(1.0, 4.0)
