"""The calibration fit against general least-squares routines."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import curve_fit, least_squares

from tickstone.core.calibration.kind import Span
from tickstone.core.calibration.offset_scale import fit_offset_scale
from tickstone.core.chains.echo_ranger import LENGTHS
from tickstone.core.signal import Signal


def marks_and_arrays(seed: int) -> tuple[list[Span], np.ndarray, np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    true = np.array([0.15, 0.4, 0.8, 1.4, 2.1])
    placed = true + rng.normal(0, 0.0015, len(true))
    ruler = np.array([0.001, 0.001, 0.002, 0.003, 0.003])
    readings = [1.004 * d + 0.006 + rng.normal(0, 0.002, 80) for d in placed]
    marks = [
        Span(str(d), Signal.of(np.arange(80), r), d, u)
        for d, u, r in zip(true, ruler, readings, strict=True)
    ]
    return marks, true, ruler, np.array([r.mean() for r in readings])


@pytest.mark.parametrize("seed", range(8))
def test_against_weighted_curve_fit(seed: int) -> None:
    marks, true, _, read = marks_and_arrays(seed)
    fit = fit_offset_scale(marks, LENGTHS)
    scale = fit.parameters["scale"]
    sigma = np.array(
        [np.hypot(m.u, scale * np.std(m.signal.value, ddof=1) / np.sqrt(80)) for m in marks]
    )
    best, covariance = curve_fit(
        lambda x, a, s: a + s * x, read, true, sigma=sigma, absolute_sigma=True
    )
    assert fit.parameters["offset"] == pytest.approx(best[0], abs=1e-8)
    assert fit.parameters["scale"] == pytest.approx(best[1], abs=1e-8)
    widening = max(1.0, fit.statistics["chi_square"] / fit.statistics["degrees"])
    assert fit.covariance[0, 0] == pytest.approx(covariance[0, 0] * widening, rel=1e-4)
    assert fit.covariance[1, 1] == pytest.approx(covariance[1, 1] * widening, rel=1e-4)
    assert fit.covariance[0, 1] == pytest.approx(covariance[0, 1] * widening, rel=1e-4)


@pytest.mark.parametrize("seed", range(4))
def test_against_a_fit_with_errors_in_both_coordinates(seed: int) -> None:
    """The true readings as unknowns of their own, solved by a general non-linear routine."""
    marks, true, ruler, read = marks_and_arrays(seed)
    fit = fit_offset_scale(marks, LENGTHS)
    u_read = np.array([np.std(m.signal.value, ddof=1) / np.sqrt(80) for m in marks])

    def misfit(unknowns: np.ndarray) -> np.ndarray:
        offset, scale, *xs = unknowns
        x = np.array(xs)
        return np.concatenate([(x - read) / u_read, (offset + scale * x - true) / ruler])

    best = least_squares(misfit, [0.0, 1.0, *read], x_scale="jac", xtol=1e-14, ftol=1e-14).x
    assert fit.parameters["offset"] == pytest.approx(best[0], abs=2e-6)
    assert fit.parameters["scale"] == pytest.approx(best[1], abs=2e-6)
