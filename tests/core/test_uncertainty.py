"""Propagation against brute force, and numbers as they are printed."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.sound_speed import sound_speed_from_air
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.display import THIN_SPACE, decimals_for, grouped
from tickstone.core.signal import Signal
from tickstone.core.stages.offset_scale import OffsetScale
from tickstone.core.uncertainty import rectangular


def test_the_chain_agrees_with_a_monte_carlo_run_of_itself() -> None:
    """JCGM 101 in small: draw every input, run the arithmetic, compare the scatter."""
    rng = np.random.default_rng(11)
    runs = 4_000
    echo_us = 5831.0
    parameters = RangerParameters(mount_m=0.008, median_n=1)
    air = AirConditions(20.0, 0.5)
    stated = ranger_chain(parameters, air).explain(Signal.of([0.0], [echo_us]), 0)[-1].u
    half = np.array([2.0, 0.05, 3000.0, 1.0, 12.5, 0.001])
    draws = rng.uniform(-1, 1, (runs, 6)) * half
    model = rng.normal(0, 0.0003, runs)
    distances = np.empty(runs)
    for k, (dt, dh, dp, tick, wave, mount) in enumerate(draws):
        c = sound_speed_from_air("cramer", AirConditions(20 + dt, 0.5 + dh, 101_325 + dp)).value
        slant = 0.5e-6 * (echo_us + tick + wave) * c * (1 + model[k])
        distances[k] = np.sqrt(slant**2 - 0.013**2) - 0.008 - mount
    assert stated == pytest.approx(float(np.std(distances)), rel=0.05)


def test_a_calibration_in_the_same_air_takes_in_what_all_readings_share() -> None:
    echo = Signal.of([0.0], [5831.0])
    air = AirConditions(20.0, 0.5)
    plain = ranger_chain(RangerParameters(), air).explain(echo, 0)[-1]
    fit = (-0.004, 0.998, 1e-6, 1e-6, -9e-7)
    same = ranger_chain(RangerParameters(), air, OffsetScale(*fit, True, "3 marks"))
    other = ranger_chain(RangerParameters(), air, OffsetScale(*fit, False, "3 marks"))
    assert same.explain(echo, 0)[-1].u < plain.u
    assert other.explain(echo, 0)[-1].u > same.explain(echo, 0)[-1].u
    names = {part.name for part in same.explain(echo, 0)[-1].components}
    assert names == {"timer tick", "echo detection", "calibration"}


@given(st.floats(1e-7, 1e4))
def test_printed_decimals_never_hide_or_feign_the_uncertainty(u: float) -> None:
    decimals = decimals_for(u)
    step = 10.0**-decimals
    assert step <= 2 * u * 1.001 or decimals == 0
    assert decimals == 0 or step > 2 * u / 31


def test_digits_are_grouped_and_signs_are_true() -> None:
    assert grouped(-0.0004, 3) == "0.000"
    assert grouped(-0.0006, 3) == "−0.001"
    assert grouped(1_234_567.891, 2) == f"1{THIN_SPACE}234{THIN_SPACE}567.89"


def test_rectangular_is_the_spread_of_a_uniform_draw() -> None:
    draws = np.random.default_rng(3).uniform(-2, 2, 200_000)
    assert rectangular(2.0) == pytest.approx(float(np.std(draws)), rel=0.01)
