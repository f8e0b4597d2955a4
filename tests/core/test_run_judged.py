"""A run of a rig that stops, against what was told of it."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from tickstone.core.quantity import DISTANCE
from tickstone.core.rules.stop_and_go import StopAndGo, StopAndGoEvidence, StopAndGoParameters
from tickstone.core.signal import Signal
from tickstone.core.stages.two_thresholds import TwoThresholds
from tickstone.core.stopping import (
    StoppingInputs,
    braking_from_skid,
    greatest_speed_m_per_s,
    stopping_distance,
)

PARAMETERS = StopAndGoParameters(0.42, 0.5)


def run(v: float, a: float, late_s: float) -> tuple[Signal, Signal]:
    """Driven up to 0.42 m at v, then on for `late_s`, then braked with a; 50 readings a second."""
    t = np.arange(0.0, 6.0, 0.02)
    at_s = (1.5 - 0.42) / v
    braked_s = np.clip(t - at_s - late_s, 0.0, v / a)
    d = 1.5 - v * np.minimum(t, at_s + late_s) - (v * braked_s - a * braked_s**2 / 2.0)
    taken = Signal.of(t, d, DISTANCE)
    stage = StopAndGo().stage(PARAMETERS, _chain())
    assert isinstance(stage, TwoThresholds)
    return taken, stage.run(stage.begin(), taken)[0]


def _chain():  # type: ignore[no-untyped-def]
    from tickstone.core.chains.echo_ranger import RangerParameters

    return RangerParameters()


@pytest.mark.parametrize(("v", "a", "late_s"), [(0.5, 1.5, 0.05), (0.8, 2.0, 0.10)])
def test_a_run_as_it_was_told_is_not_off(v: float, a: float, late_s: float) -> None:
    evidence = StopAndGoEvidence(v, a, loop_s=0.0, actuate_s=late_s)
    taken, decided = run(v, a, late_s)
    came, ran_on = StopAndGo().judge_run(PARAMETERS, evidence, taken, decided, 0.003)
    assert came.measured == pytest.approx(v, abs=0.02)
    assert ran_on.measured == pytest.approx(v * late_s + v * v / (2 * a), abs=0.02)
    assert not came.is_off
    assert not ran_on.is_off


def test_worn_brakes_are_off() -> None:
    evidence = StopAndGoEvidence(0.8, 2.0, loop_s=0.0, actuate_s=0.05)
    _, ran_on = StopAndGo().judge_run(PARAMETERS, evidence, *run(0.8, 1.0, 0.05), 0.003)
    assert ran_on.is_off


def test_without_evidence_nothing_was_told() -> None:
    figures = StopAndGo().judge_run(PARAMETERS, None, *run(0.5, 1.5, 0.05), 0.003)
    assert all(math.isnan(one.predicted) and not one.is_off for one in figures)


def test_something_that_comes_at_a_rig_that_stands_is_no_run() -> None:
    t = np.arange(0.0, 4.0, 0.02)
    taken = Signal.of(t, np.where(t < 2.0, 1.0, 0.3), DISTANCE)
    stage = StopAndGo().stage(PARAMETERS, _chain())
    decided = stage.run(stage.begin(), taken)[0]
    assert StopAndGo().judge_run(PARAMETERS, StopAndGoEvidence(), taken, decided, 0.003) == ()


def inputs(v: float, **more: float) -> StoppingInputs:
    return StoppingInputs(v, 1.2, 0.05, 0.02, 0.02, 0.03, 0.004, 0.05, **more)


def test_faster_never_needs_less_room_nor_downhill() -> None:
    """And the two directions are each other's inverse, on every slope."""
    for slope in (-0.1, 0.0, 0.1):
        told = [stopping_distance(inputs(v, slope_rad=slope)).total_m for v in np.arange(0, 2, 0.1)]
        assert all(a < b for a, b in itertools.pairwise(told))
        for v, d in zip(np.arange(0, 2, 0.1), told, strict=True):
            assert greatest_speed_m_per_s(d, inputs(v, slope_rad=slope)) == pytest.approx(
                v, abs=1e-9
            )
    flat, down = inputs(0.8), inputs(0.8, slope_rad=math.radians(3))
    assert stopping_distance(down).total_m > stopping_distance(flat).total_m


def test_stopping_on_a_slope_is_what_stepping_through_it_gives() -> None:
    """Against Newton, in steps of 10 µs: grip a on the level, gravity along the slope."""
    v, theta = 0.9, math.radians(4.0)
    one = StoppingInputs(v, 1.6, 0.0, 0.0, 0.0, 0.2, 0.0, 0.0, slope_rad=theta)
    dt, x, speed = 1e-5, 0.2 * v, v
    while speed > 0.0:
        x += speed * dt
        speed -= (1.6 * math.cos(theta) - 9.80665 * math.sin(theta)) * dt
    assert stopping_distance(one).total_m == pytest.approx(x, rel=1e-4)


def test_braking_from_a_skid_doubts_what_it_should() -> None:
    """By drawing speeds and lengths: Monte Carlo as in JCGM 101."""
    rng = np.random.default_rng(5)
    v, length = rng.normal(0.6, 0.02, 200_000), rng.normal(0.225, 0.006, 200_000)
    drawn = v**2 / (2.0 * length)
    a, u = braking_from_skid(0.6, 0.225, 0.02, 0.006)
    assert a == pytest.approx(drawn.mean(), rel=0.01)
    assert u == pytest.approx(drawn.std(), rel=0.02)
    with pytest.raises(ValueError, match="skid_m"):
        braking_from_skid(0.0, 0.2)
