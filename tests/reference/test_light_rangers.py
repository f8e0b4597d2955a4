"""The curve of a triangulating ranger against SciPy’s own fit and an orthogonal one."""

from __future__ import annotations

import numpy as np
import pytest
from odrpack import odr_fit
from scipy.optimize import curve_fit

from tickstone.core.calibration.inverse_distance import InverseDistanceKind
from tickstone.core.calibration.kind import Span
from tickstone.core.calibration.offset_cover import OffsetCoverKind
from tickstone.core.signal import Signal


def law(d, a, d0, b):
    return a / (d + d0) + b


def held(level: float, spread: float, rng: np.random.Generator, n: int = 60) -> Signal:
    return Signal.of(np.arange(n) * 0.05, level + spread * rng.normal(0.0, 1.0, n))


def marks(rng: np.random.Generator, u: float) -> tuple[list[Span], np.ndarray, np.ndarray]:
    true = np.sort(rng.uniform(0.1, 0.8, 7))
    placed = true + rng.normal(0.0, u, 7)
    spans = [
        Span(f"{d:.3f}", held(law(x, 0.29, 0.03, 0.05), 0.01, rng), float(d), u)
        for d, x in zip(true, placed, strict=True)
    ]
    return spans, true, np.array([span.signal.value.mean() for span in spans])


@pytest.mark.parametrize("seed", range(12))
def test_the_curve_is_that_of_scipy_when_the_marks_are_placed_exactly(seed: int) -> None:
    rng = np.random.default_rng(seed)
    spans, true, volts = marks(rng, 1e-6)
    fit = InverseDistanceKind().fit(spans, None)
    sigma = np.array([span.signal.value.std(ddof=1) / np.sqrt(60) for span in spans])
    found, covariance = curve_fit(
        law, true, volts, p0=[0.25, 0.02, 0.05], sigma=sigma, absolute_sigma=True, xtol=1e-12
    )
    told = [fit.parameters[name] for name in ("a", "d0", "b")]
    assert told == pytest.approx(found.tolist(), rel=2e-4, abs=2e-6)
    widened = max(1.0, fit.statistics["chi_square"] / fit.statistics["degrees"])
    np.testing.assert_allclose(
        np.sqrt(np.diag(fit.covariance) / widened), np.sqrt(np.diag(covariance)), rtol=5e-3
    )


@pytest.mark.parametrize("seed", range(12))
def test_the_curve_is_that_of_an_orthogonal_fit_when_a_ruler_is_only_so_good(seed: int) -> None:
    """Both coordinates uncertain: effective variance comes close to orthogonal distance."""
    rng = np.random.default_rng(100 + seed)
    spans, true, volts = marks(rng, 0.002)
    fit = InverseDistanceKind().fit(spans, None)
    sigma = np.array([span.signal.value.std(ddof=1) / np.sqrt(60) for span in spans])
    found = odr_fit(
        lambda x, beta: law(x, *beta), true, volts, np.array([0.25, 0.02, 0.05]),
        weight_x=np.full(7, 0.002**-2), weight_y=sigma**-2,
    )  # fmt: skip
    told = np.array([fit.parameters[name] for name in ("a", "d0", "b")])
    off = np.abs(told - found.beta) / np.sqrt(np.diag(fit.covariance))
    assert (off < 0.35).all()


def test_offset_and_cross_talk_come_back() -> None:
    rng = np.random.default_rng(4)
    spans = [
        Span(str(d), held(0.012 + d / (1 + 0.15 * d * d), 0.001, rng), d, 0.0005)
        for d in (0.1, 0.3, 0.6, 0.9, 1.2)
    ]
    fit = OffsetCoverKind().fit(spans, None)
    u = np.sqrt(np.diag(fit.covariance))
    assert abs(fit.parameters["offset"] - 0.012) < 3 * u[0]
    assert abs(fit.parameters["per_m2"] - 0.15) < 3 * u[1]
    alone = OffsetCoverKind().fit(spans[:1], None)
    assert alone.parameters["per_m2"] == 0.0
    assert alone.statistics["cover_fitted"] == 0.0
