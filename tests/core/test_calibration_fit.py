"""The fit: what it finds, and what it refuses to pretend."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.calibration.kind import Fit, Span
from tickstone.core.calibration.offset_scale import fit_offset_scale
from tickstone.core.calibration.stillness import still_stretches
from tickstone.core.chains.echo_ranger import LENGTHS, EchoRanger
from tickstone.core.quantity import DISTANCE
from tickstone.core.signal import Signal
from tickstone.core.status import Status

KIND = EchoRanger().calibrations[0]


def mark(true_m: float, read_m: float, n: int = 60, noise: float = 0.001, seed: int = 1) -> Span:
    rng = np.random.default_rng(seed + int(true_m * 1000))
    return held(f"{true_m:g} m", true_m, 0.001, read_m + rng.normal(0, noise, n))


def held(name: str, true_m: float, u_m: float, readings: np.ndarray, flagged: int = 0) -> Span:
    values = np.concatenate([readings, np.full(flagged, np.nan)])
    status = [Status.OK] * len(readings) + [Status.NO_ECHO] * flagged
    return Span(name, Signal.of(np.arange(len(values)), values, DISTANCE, status), true_m, u_m)


def fit_calibration(spans: list[Span]) -> Fit:
    return fit_offset_scale(spans, LENGTHS)


def titles(fit: Fit, severity: str) -> list[str]:
    return [remark.title for remark in fit.remarks if remark.severity == severity]


@given(
    st.floats(-0.05, 0.05),
    st.floats(0.95, 1.05),
    st.lists(st.floats(0.05, 3.5), min_size=3, max_size=8, unique_by=lambda d: round(d, 1)),
)
def test_it_finds_the_offset_and_scale_that_were_put_in(
    offset: float, scale: float, distances: list[float]
) -> None:
    marks = [held(str(d), d, 0.0005, np.full(50, (d - offset) / scale)) for d in distances]
    fit = fit_calibration(marks)
    if not fit.statistics["scale_fitted"]:
        assert np.ptp(distances) < 0.2
        return
    assert fit.parameters["scale"] == pytest.approx(scale, rel=1e-9)
    assert fit.parameters["offset"] == pytest.approx(offset, abs=1e-9)
    assert titles(fit, "error") == []


def test_the_stated_uncertainty_covers_the_truth_as_often_as_it_says() -> None:
    inside = 0
    for seed in range(300):
        rng = np.random.default_rng(seed)
        marks = [
            held(str(d), d + rng.normal(0, 0.001), 0.001, 1.01 * d + rng.normal(0, 0.002, 40))
            for d in (0.2, 0.5, 0.9, 1.4)
        ]
        fit = fit_calibration(marks)
        corrected = fit.parameters["offset"] + fit.parameters["scale"] * 1.01
        inside += abs(corrected - 1.0) <= 2 * KIND.u_at(fit, 1.01)
    assert 0.90 <= inside / 300 <= 1.0


def test_one_mark_gives_an_offset_and_says_so() -> None:
    fit = fit_calibration([mark(0.5, 0.506)])
    assert not fit.statistics["scale_fitted"]
    assert fit.parameters["scale"] == 1.0
    assert fit.parameters["offset"] == pytest.approx(-0.006, abs=0.001)
    assert titles(fit, "warning") == ["One mark gives an offset only."]


def test_two_marks_side_by_side_cannot_give_a_scale() -> None:
    fit = fit_calibration([mark(0.50, 0.506), mark(0.51, 0.516)])
    assert not fit.statistics["scale_fitted"]
    assert "Two marks this close together cannot give a scale." in titles(fit, "warning")


def test_two_marks_at_the_same_place_do_not_break_it() -> None:
    same = np.full(30, 0.5)
    fit = fit_calibration([held("a", 0.5, 0.001, same), held("b", 0.5, 0.001, same)])
    assert not fit.statistics["scale_fitted"]


def test_two_marks_far_apart_fit_but_cannot_warn() -> None:
    fit = fit_calibration([mark(0.3, 0.303), mark(1.2, 1.206)])
    assert fit.statistics["scale_fitted"]
    assert titles(fit, "warning") == ["Two marks fit any line."]


def test_three_marks_at_odds_are_told_without_blaming_one() -> None:
    fit = fit_calibration([mark(0.3, 0.3), mark(0.6, 0.65), mark(1.0, 1.0)])
    assert titles(fit, "error") == ["The three marks do not lie on one line."]


def test_with_four_marks_the_odd_one_is_named() -> None:
    fit = fit_calibration(
        [mark(0.3, 0.3), mark(0.6, 0.6), mark(1.0, 1.03), mark(1.4, 1.4), mark(1.8, 1.8)]
    )
    assert titles(fit, "error") == ["“1 m” is out of line."]


def test_a_target_that_moved_is_named() -> None:
    moving = held("sliding", 0.6, 0.001, np.linspace(0.58, 0.62, 60))
    fit = fit_calibration([mark(0.3, 0.3), moving, mark(1.0, 1.0)])
    assert "The readings under “sliding” were not still." in titles(fit, "error")
    assert not fit.spans[1].is_still


def test_one_wild_reading_neither_moves_the_mean_nor_spoils_the_mark() -> None:
    clean = mark(0.6, 0.6)
    spoilt = clean.signal.value.copy()
    spoilt[20] = 0.31
    look = fit_calibration([mark(0.3, 0.3), held("b", 0.6, 0.001, spoilt)]).spans[1]
    assert (look.wild, look.is_still) == (1, True)
    assert look.read == pytest.approx(0.6, abs=0.0005)


def test_a_mark_without_good_readings_is_left_out_and_said() -> None:
    silent = held("curtain", 0.9, 0.001, np.empty(0), flagged=40)
    fit = fit_calibration([mark(0.3, 0.3), silent, mark(1.0, 1.0)])
    assert "Nothing was heard under “curtain”." in titles(fit, "error")
    assert fit.spans[1].residual is None
    with pytest.raises(ValueError, match="no mark has a good reading"):
        fit_calibration([silent])


def test_few_readings_are_warned_of() -> None:
    fit = fit_calibration([mark(0.3, 0.3), mark(0.6, 0.6, n=4), mark(1.0, 1.0)])
    assert "“0.6 m” rests on 4 readings." in titles(fit, "warning")


@pytest.mark.parametrize(("true_m", "u"), [(-0.1, 0.001), (float("nan"), 0.001), (0.3, 0.0)])
def test_impossible_marks_are_refused(true_m: float, u: float) -> None:
    with pytest.raises(ValueError, match="mark “x”"):
        fit_calibration([held("x", true_m, u, np.full(20, 0.3))])


def test_a_wrong_unit_is_suspected() -> None:
    fit = fit_calibration([mark(0.3, 0.3 * 2), mark(0.6, 0.6 * 2), mark(1.0, 1.0 * 2)])
    assert "The scale is 0.500, far from 1." in titles(fit, "warning")


@given(
    levels=st.lists(st.floats(0.1, 3.0), min_size=1, max_size=5),
    noise_m=st.floats(0.0, 0.004),
    seed=st.integers(0, 2**16),
)
def test_still_stretches_lie_where_nothing_moved(
    levels: list[float], noise_m: float, seed: int
) -> None:
    """Six seconds at each level, two seconds of a ramp between; never a stretch over a ramp."""
    rng = np.random.default_rng(seed)
    corners_s, corners_m = [], []
    for number, level in enumerate(levels):
        corners_s += [8.0 * number, 8.0 * number + 6.0]
        corners_m += [level, level]
    time_s = np.arange(0.0, corners_s[-1], 0.05)
    truth = np.interp(time_s, corners_s, corners_m)
    signal = Signal.of(time_s, truth + rng.normal(0.0, noise_m, len(time_s)))
    for start, end in still_stretches(signal, 0.01):
        inside = truth[(time_s >= start) & (time_s <= end)]
        assert inside.max() - inside.min() <= 2 * max(0.01, 8 * noise_m) + 1e-9
    far_apart = all(abs(b - a) > 0.2 for a, b in itertools.pairwise(levels))
    if far_apart and noise_m < 0.001:
        assert len(still_stretches(signal, 0.01)) == len(levels)
