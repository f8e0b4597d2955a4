"""Thresholds, misread rates and intervals against outside packages and closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.optimize import brentq, minimize_scalar
from scipy.special import ndtr
from scipy.stats import norm
from skimage.filters import threshold_otsu
from statsmodels.stats.proportion import proportion_confint

from tickstone.core.heaps.heap import Heap, d_prime
from tickstone.core.heaps.misread import misread
from tickstone.core.heaps.parting import otsu_place
from tickstone.core.intervals import clopper_pearson
from tickstone.core.thresholds import METHODS
from tickstone.core.thresholds.method import Wanted


def heaps_of(rng: np.random.Generator) -> tuple[Heap, Heap]:
    """Two random heaps of converter counts, dark above light or below it."""
    means = rng.permutation([rng.uniform(60, 480), rng.uniform(520, 960)])
    dark, light = (
        Heap.of(name, np.rint(rng.normal(mean, rng.uniform(1.5, 60), rng.integers(20, 400))))
        for name, mean in zip(("dark", "light"), means, strict=True)
    )
    return dark, light


def test_otsu_parts_two_thousand_heaps_as_an_image_package_does() -> None:
    rng = np.random.default_rng(12)
    for _ in range(2_000):
        together = np.concatenate([one.samples() for one in heaps_of(rng)])
        values, counts = np.unique(together, return_counts=True)
        place = otsu_place(values, counts)
        assert values[place] == threshold_otsu(hist=(counts, values))


def test_intervals_are_those_of_a_statistics_package() -> None:
    rng = np.random.default_rng(3)
    for _ in range(500):
        trials = int(rng.integers(1, 3_000))
        hits = int(rng.integers(0, trials + 1))
        low, high = proportion_confint(hits, trials, alpha=0.05, method="beta")
        # That package leaves the ends open where nothing, or everything, hit.
        low, high = (0.0 if hits == 0 else low), (1.0 if hits == trials else high)
        assert clopper_pearson(hits, trials) == pytest.approx((low, high), abs=1e-9)


def test_gaussian_misreads_are_the_tails_of_normal_heaps() -> None:
    rng = np.random.default_rng(5)
    for _ in range(300):
        dark, light = heaps_of(rng)
        at = rng.uniform(200, 800)
        high = dark.mean > light.mean
        found = misread(dark, light, at)
        of_dark = norm.cdf(at, dark.mean, dark.sd)
        of_light = norm.cdf(at, light.mean, light.sd)
        assert found.missed_gaussian == pytest.approx(of_dark if high else 1 - of_dark, abs=1e-12)
        assert found.false_gaussian == pytest.approx(1 - of_light if high else of_light, abs=1e-12)
        dark_above = np.count_nonzero(dark.samples() > at)
        light_above = np.count_nonzero(light.samples() > at)
        assert found.missed == (dark.n - dark_above if high else dark_above)
        assert found.false == (light_above if high else light.n - light_above)


def test_equal_error_is_where_a_root_finder_finds_equal_tails() -> None:
    rng = np.random.default_rng(8)
    for _ in range(300):
        dark, light = heaps_of(rng)
        low, high = sorted((dark, light), key=lambda one: one.mean)
        root = brentq(
            lambda t, low=low, high=high: (t - low.mean) / low.sd - (high.mean - t) / high.sd,
            low.mean,
            high.mean,
        )
        assert METHODS["equal-error"].at(dark, light, Wanted()) == pytest.approx(root, abs=1e-6)


def test_least_cost_is_where_a_minimiser_finds_it() -> None:
    rng = np.random.default_rng(21)
    compared = 0
    for _ in range(120):
        dark, light = heaps_of(rng)
        if d_prime(dark, light) < 3.0:
            continue
        wanted = Wanted(None, *np.exp(rng.uniform(-2, 2, 2)), rng.uniform(0.1, 0.9))
        high = dark.mean > light.mean

        def cost(t, dark=dark, light=light, wanted=wanted, high=high):
            missed = ndtr((t - dark.mean) / dark.sd)
            false = ndtr((t - light.mean) / light.sd)
            missed, false = (missed, 1 - false) if high else (1 - missed, false)
            return (
                wanted.dark_share * wanted.cost_missed * missed
                + (1 - wanted.dark_share) * wanted.cost_false * false
            )

        at = METHODS["least-cost"].at(dark, light, wanted)
        ends = sorted((dark.mean, light.mean))
        best = minimize_scalar(cost, bounds=ends, method="bounded", options={"xatol": 1e-9})
        assert cost(at) <= min(best.fun, cost(np.linspace(*ends, 400)).min()) * (1 + 1e-6) + 1e-15
        compared += 1
    assert compared > 80


def test_common_practice_a_mid_threshold_does_for_dark_and_light_of_a_floor() -> None:
    """Dark 16 to 19 %, light 67 % reflected: common practice, and 50 % lies between."""
    dark = Heap.of("dark", np.linspace(16, 19, 50))
    light = Heap.of("light", np.full(50, 67.0))
    found = misread(dark, light, 50.0)
    assert (found.missed, found.false) == (0, 0)
    assert found.interval == pytest.approx((0.0, 1 - 0.025 ** (1 / 100)))
    assert math.isclose(METHODS["midpoint"].at(dark, light, Wanted()), 42.25)
