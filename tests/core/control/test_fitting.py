"""Steps that were made up are found again, within their ±; what is no step is refused."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tickstone.core.control.fitting import fit_step


def made(gain: float, lag: float, delay: float, noise: float, seed: int, rolling: bool = False):  # type: ignore[no-untyped-def]
    t = np.arange(0.0, 2.0 + 8.0 * (lag + delay), (lag + delay) / 40.0)
    at = t[20] - 1e-9
    u = np.where(t >= at, 3.0, 1.0)
    since = np.maximum(t - t[20] - delay, 0.0)
    settled = 1.0 - np.exp(-since / lag)
    y = 5.0 + 2.0 * gain * (since - lag * settled if rolling else settled)
    return t, u, y + np.random.default_rng(seed).normal(0.0, noise, len(t))


@settings(max_examples=20, deadline=None)
@given(
    st.floats(0.2, 20.0), st.floats(0.1, 5.0), st.floats(0.02, 2.0), st.booleans(),
    st.integers(0, 10_000), st.booleans(),
)  # fmt: skip
def test_what_was_made_up_is_found_again(
    gain: float, lag: float, delay: float, down: bool, seed: int, rolling: bool
) -> None:
    gain = -gain if down else gain
    t, u, y = made(gain, lag, delay, 0.01 * abs(gain), seed, rolling)
    fit = fit_step(t, u, y, "rolling" if rolling else "lag")
    for found, true, said in zip(
        (fit.plant.gain, fit.plant.lag_s, fit.plant.delay_s), (gain, lag, delay), fit.us,
        strict=True,
    ):  # fmt: skip
        assert abs(found - true) < 6.0 * said + 1e-6


def test_doubts_cover_the_truth_as_often_as_they_say() -> None:
    inside = 0
    for seed in range(60):
        fit = fit_step(*made(2.0, 1.0, 0.3, 0.05, seed))
        inside += abs(fit.plant.lag_s - 1.0) < 2.0 * fit.us[1]
    assert 51 <= inside <= 60


def test_one_lag_on_what_rolls_on_says_so() -> None:
    t, u, y = made(2.0, 0.5, 0.1, 0.001, 1, rolling=True)
    assert fit_step(t, u, y).remarks
    assert not fit_step(t, u, y, "rolling").remarks


T = np.arange(0.0, 5.0, 0.05)
STEP = (T >= 1.0) * 1.0


@pytest.mark.parametrize(
    ("u", "y", "says"),
    [
        (np.ones_like(T), T, "the output never changes"),
        (STEP, np.random.default_rng(1).normal(0, 1, len(T)), "no more than it scatters"),
        (np.where(T >= 0.05, 1.0, 0.0), STEP, "the rest before the step"),
        (np.arange(1000.0) // 2 % 2 * (np.arange(1000.0) > 9), np.arange(1000.0), "single steps"),
        (STEP[:5], STEP[:5], "too few"),
        (np.full_like(T, np.nan), STEP, "too few"),
    ],
)
def test_what_is_no_step_says_why(u: np.ndarray, y: np.ndarray, says: str) -> None:
    t = np.arange(len(u)) * 0.05
    with pytest.raises(ValueError, match=says):
        fit_step(t, u, y)
