"""Filters side by side: what is told of each is what it does, on made and on real stretches."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.filters import (
    FILTERS,
    check_words,
    filter_from_words,
    in_words,
    lag_s,
    stage_from_words,
)
from tickstone.core.filters.comparing import Asked, compare, filtered, known_of
from tickstone.core.filters.noise_model import innovations, likeliest, suggest
from tickstone.core.inputs import inputs_of
from tickstone.core.signal import Signal
from tickstone.core.stages.exponential import Exponential
from tickstone.core.stages.value_kalman import ValueKalman, steady_gain
from tickstone.core.status import Status

GAP = 0.05


def noisy(n: int = 4000, noise: float = 0.1, seed: int = 1) -> Signal:
    rng = np.random.default_rng(seed)
    return Signal.of(np.arange(n) * GAP, 1.0 + rng.normal(0.0, noise, n))


def rows(signal: Signal, *words: str, speed: float = 0.0):
    told = compare(signal, [Asked(one, stage_from_words(one)) for one in words], speed)
    return told[1][1:]


@pytest.mark.parametrize(
    ("words", "noise", "delay", "rise"),
    [
        ("mean:n=5", 5**-0.5, 2.0 * GAP, 4.0 * GAP),
        ("mean:n=10", 10**-0.5, 4.5 * GAP, 8.0 * GAP),
        ("exponential:a=0.2", (0.2 / 1.8) ** 0.5, 4.0 * GAP, math.log(9.0) / -math.log(0.8) * GAP),
        ("median:n=5", 0.536, 2.0 * GAP, 0.8 * GAP),
    ],
)
def test_what_a_filter_leaves_and_costs_is_what_its_sum_says(
    words: str, noise: float, delay: float, rise: float
) -> None:
    """σ/√n and (n−1)/2 of a mean, √(a/(2−a)) and (1−a)/a of an exponential; 0.536 of the median of
    five of normal noise."""
    (told,) = rows(noisy(20_000), words, speed=0.5)
    assert told.noise / 0.1 == pytest.approx(noise, rel=0.04)
    assert told.delay_s == pytest.approx(delay, rel=0.01)
    assert told.rise_s == pytest.approx(rise, rel=0.06)
    assert told.costs_m == pytest.approx(0.5 * delay, rel=0.01)
    assert told.overshoot == pytest.approx(0.0, abs=1e-9)


def test_each_is_good_for_what_it_says() -> None:
    median, gate, mean, along, slew = rows(
        noisy(), "median:n=5", "hampel:n=7,k=4,least=0.1", "mean:n=5", "kalman-speed:q=1,r=0.01",
        "slew:per_s=0.5",
    )  # fmt: skip
    assert median.spike == pytest.approx(0.0, abs=1e-9)
    assert gate.spike == pytest.approx(0.0, abs=1e-9)
    assert gate.delay_s == pytest.approx(0.0, abs=0.2)
    assert mean.spike == pytest.approx(0.2)
    assert along.delay_s == pytest.approx(0.0, abs=1e-3)
    assert along.overshoot > 0.05
    assert slew.spike < 0.2


def test_there_and_back_is_late_by_nothing_and_marked() -> None:
    signal = noisy()
    stage = stage_from_words("exponential:a=0.2")
    _, told = compare(signal, [Asked("exponential:a=0.2", stage, is_hindsight=True)])
    assert told[1].is_hindsight
    assert told[1].delay_s == pytest.approx(0.0, abs=0.01)
    rise = Signal.of(np.arange(400) * GAP, np.arange(400.0))
    there = filtered(stage, rise)[200] - 200.0
    both = filtered(stage, rise, is_hindsight=True)[200] - 200.0
    assert there < -3.0
    assert abs(both) < 0.1


def test_what_is_longer_than_can_be_told_is_not_told() -> None:
    (told,) = rows(noisy(), "exponential:a=0.00001")
    assert math.isnan(told.delay_s)
    assert math.isnan(told.rise_s)


def test_noise_is_told_of_what_was_held_still_and_spikes_are_counted() -> None:
    rng = np.random.default_rng(2)
    values = np.concatenate((np.full(400, 1.0), np.linspace(1.0, 3.0, 300), np.full(400, 3.0)))
    values = values + rng.normal(0, 0.01, 1100)
    values[[50, 500, 900]] += 1.0
    known = known_of(Signal.of(np.arange(1100) * GAP, values))
    assert known.noise == pytest.approx(0.01, rel=0.1)
    assert known.spikes == (50, 500, 900)
    assert len(known.stretches_s) >= 2
    shaken = values + np.where(np.arange(1100) > 700, rng.normal(0, 0.5, 1100), 0.0)
    quiet = known_of(Signal.of(np.arange(1100) * GAP, shaken))
    assert quiet.noise == pytest.approx(0.01, rel=0.3)


@given(st.floats(-6.0, 3.0))
def test_a_kalman_filter_becomes_the_exponential_it_is_said_to(log: float) -> None:
    ratio = 10.0**log
    gain = steady_gain(ratio)
    assert gain * gain / (1.0 - gain) == pytest.approx(ratio, rel=1e-6)
    if gain < 0.02:
        return
    step = Signal.of(np.arange(3000.0), np.r_[np.zeros(2000), np.ones(1000)])
    one = ValueKalman(ratio, 1.0).run((), step)[0].value[2000:]
    other = Exponential(gain).run((), step)[0].value[2000:]
    np.testing.assert_allclose(one, other, atol=1e-6)


@pytest.mark.parametrize("seed", range(4))
def test_q_and_r_are_found_again_and_a_good_filter_passes_its_own_check(seed: int) -> None:
    rng = np.random.default_rng(seed)
    walk = np.cumsum(rng.normal(0, 0.2, 8000)) + rng.normal(0, 0.6, 8000)
    q, r = likeliest(walk)
    assert math.sqrt(q) == pytest.approx(0.2, rel=0.12)
    assert math.sqrt(r) == pytest.approx(0.6, rel=0.08)
    signal = Signal.of(np.arange(8000) * GAP, walk)
    assert innovations(signal, ValueKalman(0.04, 0.36)).is_fine
    slow = innovations(signal, ValueKalman(0.0004, 0.36))
    quick = innovations(signal, ValueKalman(4.0, 0.36))
    assert slow.echo > 0.0 > quick.echo
    assert "larger Q" in slow.says
    assert "smaller Q" in quick.says
    loud = innovations(signal, ValueKalman(0.16, 1.44))
    assert loud.ratio == pytest.approx(0.25, rel=0.1)
    assert not loud.is_fine


def test_q_follows_the_fastest_change() -> None:
    rng = np.random.default_rng(3)
    values = np.concatenate((np.full(300, 1.0), np.linspace(1.0, 2.0, 40), np.full(300, 2.0)))
    signal = Signal.of(np.arange(640) * GAP, values + rng.normal(0, 0.002, 640))
    told = suggest(signal, known_of(signal))
    assert told.fastest == pytest.approx(0.5, rel=0.15)
    assert math.sqrt(told.q_fast) == pytest.approx(told.fastest * GAP)


def test_lag_is_that_of_an_even_change() -> None:
    assert lag_s("median:n=7", GAP) == pytest.approx(3.0 * GAP)
    assert lag_s("exponential:a=0.25", GAP) == pytest.approx(3.0 * GAP)
    assert lag_s("", GAP) == 0.0


@pytest.mark.parametrize("name", FILTERS)
def test_every_filter_is_typed_and_read_back(name: str) -> None:
    kind = FILTERS[name]
    words = in_words(kind, {one.name: one.default for one in inputs_of(kind.parameters)})  # type: ignore[misc]
    found, settings = filter_from_words(words)
    assert found is kind
    assert in_words(kind, settings) == words
    stage = stage_from_words(name)
    assert stage is not None
    values = stage.run(stage.begin(), noisy(50))[0].value
    assert np.isfinite(values).all()


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("kallmann", "there is no filter"),
        ("median:n=4", "odd number"),
        ("median:m=5", "has to be one of n=…"),
        ("kalman:q=a", "is no number"),
        ("kalman:q=-1", "outside"),
        ("low-pass:hz=0", "outside"),
        ("mean:n=2.5", "no whole number"),
    ],
)
def test_what_is_no_filter_is_refused_by_name(words: str, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        stage_from_words(words)
    with pytest.raises(ValueError, match=r"^smooth: "):
        check_words(words)


def test_too_little_or_too_many_is_refused() -> None:
    with pytest.raises(ValueError, match="20 at least"):
        compare(noisy(10), [])
    with pytest.raises(ValueError, match="6 filters at most"):
        compare(noisy(), [Asked("slew", stage_from_words("slew"))] * 7)


LINEAR = ("mean:n=5", "exponential:a=0.3", "low-pass:hz=2", "low-pass:hz=2,order=2",
          "kalman:q=0.01,r=0.1", "kalman-speed:q=0.01,r=0.1")  # fmt: skip
LIKE_ITSELF = (*LINEAR, "median:n=5", "hampel:n=7,k=3,least=0")
finite = st.floats(-100.0, 100.0)


def through(words: str, values: np.ndarray, status: np.ndarray | None = None) -> np.ndarray:
    stage = stage_from_words(words)
    assert stage is not None
    given = Signal.of(np.arange(len(values)) * GAP, values, status=status)
    told: np.ndarray = stage.run(stage.begin(), given)[0].value
    return told


@pytest.mark.parametrize("words", [*LINEAR, "median:n=5"])
@given(values=st.lists(finite, min_size=1, max_size=40), by=finite, off=finite)
def test_another_unit_or_another_zero_changes_nothing_else(
    words: str, values: list[float], by: float, off: float
) -> None:
    """What is filtered in mm or in m, from here or from there, is the same."""
    given = np.array(values)
    told = through(words, by * given + off)
    np.testing.assert_allclose(told, by * through(words, given) + off, rtol=1e-6, atol=1e-6)


@given(st.lists(finite, min_size=1, max_size=40), st.sampled_from([0.25, 0.5, 2.0, -1.0, -8.0]))
def test_a_gate_is_as_wide_in_any_unit(values: list[float], by: float) -> None:
    """In powers of two: others round, and a hair decides whether a gate is open."""
    words, given = "hampel:n=7,k=3,least=0", np.array(values)
    np.testing.assert_array_equal(through(words, by * given), by * through(words, given))


@pytest.mark.parametrize("words", LINEAR)
@given(a=st.lists(finite, min_size=30, max_size=30), b=st.lists(finite, min_size=30, max_size=30))
def test_a_sum_goes_through_as_the_sum_of_what_went_through(
    words: str, a: list[float], b: list[float]
) -> None:
    one, other = np.array(a), np.array(b)
    together = through(words, one + other)
    np.testing.assert_allclose(
        together, through(words, one) + through(words, other), rtol=1e-6, atol=1e-6
    )


@pytest.mark.parametrize("words", [one for one in LIKE_ITSELF if "speed" not in one])
@given(values=st.lists(finite, min_size=1, max_size=40))
def test_nothing_is_told_that_lies_beyond_what_was_read(words: str, values: list[float]) -> None:
    told = through(words, np.array(values))
    assert told.min() >= min(values) - 1e-9
    assert told.max() <= max(values) + 1e-9


@pytest.mark.parametrize("name", FILTERS)
@given(
    values=st.lists(finite, min_size=3, max_size=40),
    spoilt=st.sets(st.integers(0, 39)),
    wild=st.floats(-1e6, 1e6),
)
def test_what_is_no_measurement_has_no_say(
    name: str, values: list[float], spoilt: set[int], wild: float
) -> None:
    """A flagged sample goes through as it came, and the others as if it had never been there."""
    n = len(values)
    status = np.zeros(n, np.uint8)
    status[[one for one in spoilt if one < n]] = Status.TIMED_OUT
    good = status == 0
    first, second = np.array(values), np.array(values)
    second[~good] = wild
    told, other = through(name, first, status), through(name, second, status)
    np.testing.assert_array_equal(told[good], other[good])
    np.testing.assert_array_equal(told[~good], first[~good])


def test_rows_stand_in_the_order_they_are_asked_for_and_spikes_are_told_of_each() -> None:
    rng = np.random.default_rng(5)
    values = 1.0 + rng.normal(0.0, 0.01, 2000)
    values[[200, 700, 1500]] += 1.0
    signal = Signal.of(np.arange(2000) * GAP, values)
    words = ("median:n=5", "mean:n=3", "exponential:a=0.9", "slew:per_s=0.1")
    asked = [
        Asked(one, stage_from_words(one), is_hindsight=place == 1)
        for place, one in enumerate(words)
    ]
    known, told = compare(signal, asked)
    assert [one.words for one in told] == ["none", *words]
    assert [one.is_hindsight for one in told] == [False, False, True, False, False]
    assert len(known.spikes) == 3
    assert [one.spikes for one in told] == [3, 0, 0, 3, 0]
    for row, one in zip(told[1:], asked, strict=True):
        np.testing.assert_array_equal(row.values, filtered(one.stage, signal, one.is_hindsight))


def test_a_recording_with_gaps_and_without_noise_is_compared_all_the_same() -> None:
    time_s = np.concatenate((np.arange(300) * GAP, 60.0 + np.arange(300) * GAP))
    held = Signal.of(time_s, np.concatenate((np.full(300, 1.0), np.full(300, 2.0))))
    known, (none, mean) = compare(held, [Asked("mean:n=5", stage_from_words("mean:n=5"))])
    assert known.noise == none.noise == 0.0
    assert mean.delay_s == pytest.approx(2.0 * GAP, rel=0.01)
    assert mean.rise_s == pytest.approx(4.0 * GAP, rel=0.06)
    assert known.gap_s == pytest.approx(GAP)
    found = suggest(held, known)
    assert found.q_likely > 0.0
    assert 0.0 < found.share <= 1.0
