"""Allan deviation against its published test series and a package."""

from __future__ import annotations

import allantools
import numpy as np
import pytest

from tickstone.core.allan import noise_of, overlapping


def nist_series() -> np.ndarray:
    """The 1 000-point series of NIST SP 1065, section 12.4: a congruential generator."""
    values, n = [], 1_234_567_890
    for _ in range(1000):
        values.append(n / 2_147_483_647)
        n = 16_807 * n % 2_147_483_647
    return np.array(values)


@pytest.mark.parametrize(
    ("size", "expected"), [(1, 2.922319e-01), (10, 9.159953e-02), (100, 3.241343e-02)]
)
def test_the_published_overlapping_deviations(size: int, expected: float) -> None:
    """NIST SP 1065, table 31."""
    _, deviation = overlapping(nist_series(), 1.0, np.array([size]))
    assert deviation[0] == pytest.approx(expected, rel=1e-6)


def test_it_is_that_of_allantools() -> None:
    rng = np.random.default_rng(1)
    rate = rng.normal(0, 1, 5000) + np.cumsum(rng.normal(0, 0.01, 5000))
    sizes = np.array([1, 3, 10, 40, 200, 1000])
    tau_s, ours = overlapping(rate, 0.02, sizes)
    taus, theirs, _, _ = allantools.oadev(rate, rate=50.0, data_type="freq", taus=sizes * 0.02)
    np.testing.assert_allclose(tau_s, taus)
    np.testing.assert_allclose(ours, theirs, rtol=1e-9)


def test_it_tells_white_noise_from_what_wanders() -> None:
    rng = np.random.default_rng(2)
    white = noise_of(rng.normal(0, 0.5, 50_000), 0.01)
    assert white.walk == pytest.approx(0.05, rel=0.03)
    assert (white.instability, white.ramble, white.is_flat) == (0.0, 0.0, False)
    wandering = rng.normal(0, 0.5, 50_000) + np.cumsum(rng.normal(0, 0.01, 50_000))
    told = noise_of(wandering, 0.01)
    assert told.is_flat
    assert told.walk == pytest.approx(0.05, rel=0.1)
    # σ of a step each 10 ms is 0.1 for each √s; the mean is best where both weigh the same.
    assert told.ramble == pytest.approx(0.1, rel=0.3)
    assert 0.4 < told.best_s < 2.0


def test_flicker_is_found_and_below_what_it_is_where_it_is_not() -> None:
    # IEEE 952: S(f) = B² / (2π f), two-sided, so B² / (π f) over f > 0; flat at 0.664 B.
    rng, n, rate, flicker = np.random.default_rng(3), 2**18, 100.0, 0.02
    f = np.fft.rfftfreq(n, 1.0 / rate)[1:]
    half = np.sqrt(flicker**2 / (np.pi * f) * n * rate / 4.0)
    lines = half * (rng.normal(size=len(f)) + 1j * rng.normal(size=len(f)))
    wander = np.fft.irfft(np.concatenate(([0.0], lines)), n)
    seen = noise_of(wander + rng.normal(0, 0.3, n), 1.0 / rate)
    assert seen.instability == pytest.approx(flicker, rel=0.2)
    assert seen.instability_at_most == seen.instability
    white = noise_of(rng.normal(0, 0.3, 20_000), 0.01)
    assert white.instability == 0.0
    assert white.instability_at_most == pytest.approx(0.03 / white.best_s**0.5 / 0.664, rel=0.05)


def test_too_few_are_refused_and_what_never_changes_has_no_noise() -> None:
    with pytest.raises(ValueError, match="50 at least"):
        noise_of(np.zeros(20), 0.01)
    assert noise_of(np.ones(200), 0.01).walk == 0.0
