"""Rangers by light: the fold of one, the word of another, two that vote, and lamps by distance."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.inverse_distance import InverseDistanceKind
from tickstone.core.calibration.kind import Span
from tickstone.core.calibration.offset_cover import OffsetCoverKind
from tickstone.core.chains.triangulation import Triangulation, TriangulationParameters
from tickstone.core.chains.two_rangers import TwoRangerParameters, TwoRangers
from tickstone.core.digests.agreement import Agreement
from tickstone.core.models.light_rangers import AngleRangerModel, FlightRangerModel
from tickstone.core.quantity import COUNTS, DISTANCE
from tickstone.core.rules.distance_bands import (
    DistanceBandEvidence,
    DistanceBandParameters,
    DistanceBands,
)
from tickstone.core.rules.kind import Known
from tickstone.core.signal import Signal
from tickstone.core.stages.bands import LAMPS
from tickstone.core.stages.inverse_law import InverseLaw
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

HERE = Surroundings(AirConditions(20.0))
LAW = InverseLaw(0.288, 0.028, 0.052)


def folded_volts(distance_m: np.ndarray) -> np.ndarray:
    """What a ranger puts out on both sides of its near limit, 0.1 m."""
    return np.where(distance_m >= 0.1, LAW.volts(distance_m), LAW.volts(0.1) * distance_m / 0.1)


def ranged(distance_m: np.ndarray, **settings) -> Signal:
    parameters = TriangulationParameters(median_n=1, mount_tolerance_m=0.0, **settings)
    counts = np.floor(folded_volts(distance_m) * 1024 / 5.0)
    chain = Triangulation().build(parameters, HERE)
    return chain.apply(Signal.of(np.arange(len(counts)) * 0.04, counts, COUNTS), "distance")


def test_a_thing_that_comes_too_near_is_never_told_as_a_distance_afterwards() -> None:
    """It comes from 0.6 m to 0.04 m and goes again: every reading from the fold on is flagged
    until it reads beyond what a near thing can.
    """
    way = np.concatenate([np.linspace(0.6, 0.04, 60), np.linspace(0.04, 0.6, 60)])
    told = ranged(way)
    lies = told.ok & (np.abs(told.value - way) > 0.05)
    assert not lies.any()
    assert (told.flag == Status.TWO_VALUED).any()
    assert told.ok[-1]
    set_back = ranged(way + 0.1, mount_m=0.1)
    assert set_back.ok.all()
    assert set_back.value == pytest.approx(way, abs=0.03)


def test_the_curve_of_a_datasheet_is_told_with_the_doubt_that_sensors_differ() -> None:
    chain = Triangulation().build(TriangulationParameters(median_n=1), HERE)
    count = round(LAW.volts(0.3) * 1024 / 5.0)
    step = chain.explain(Signal.of([0.0], [count], COUNTS), 0, "law")[-1]
    assert step.value == pytest.approx(0.3, abs=0.005)
    assert 0.015 < step.u < 0.04
    assert {part.name for part in step.components} >= {"curve", "reference"}


@pytest.mark.parametrize(
    ("distances", "why"),
    [((0.2, 0.4), "2 different distances"), ((0.2, 0.2, 0.2), "1 different distance marked")],
)
def test_too_few_marks_for_a_curve_are_refused(distances, why) -> None:
    spans = [
        Span("x", Signal.of(range(40), np.full(40, LAW.volts(d))), d, 0.001) for d in distances
    ]
    with pytest.raises(ValueError, match=why):
        InverseDistanceKind().fit(spans, None)


def test_a_mark_on_the_wrong_side_of_the_fold_is_refused() -> None:
    rng = np.random.default_rng(2)
    spans = [
        Span(
            f"{d} m",
            Signal.of(range(60), folded_volts(np.full(60, d)) + rng.normal(0, 0.004, 60)),
            d,
            0.001,
        )
        for d in (0.05, 0.15, 0.3, 0.5, 0.7)
    ]
    with pytest.raises(ValueError, match="beyond the near limit"):
        InverseDistanceKind().fit(spans, None)
    assert InverseDistanceKind().fit(spans[1:], None).statistics["nearest"] == 0.15


def two(first, second, **settings) -> Signal:
    chain = TwoRangers().build(
        TwoRangerParameters(median_n=1, mount_tolerance_m=0.0, **settings), HERE
    )
    times = np.arange(len(first)) * 0.05
    seen = {
        name: Signal.of(times, values, DISTANCE, np.where(np.isnan(values), Status.NO_ECHO, 0))
        for name, values in (("first", np.array(first)), ("second", np.array(second)))
    }
    return chain.apply(seen, "distance")


def test_two_rangers_agree_disagree_and_stand_in_for_each_other() -> None:
    told = two([0.5, 0.5, np.nan, 0.5, np.nan], [0.51, 0.9, 0.7, np.nan, np.nan])
    assert told.value[:4] == pytest.approx([0.505, 0.5, 0.7, 0.5])
    assert [Status(int(one)) for one in told.flag] == [
        Status.OK, Status.AT_ODDS, Status.ONE_ALONE, Status.ONE_ALONE, Status.NO_ECHO,
    ]  # fmt: skip
    by_worth = two([0.5], [0.53], first_u_m=0.001, second_u_m=0.01)
    assert by_worth.value[0] == pytest.approx(0.5003, abs=1e-4)
    assert two([0.5], [0.45], how="nearer").value[0] == 0.45


def test_two_rangers_are_held_against_each_other_by_distance() -> None:
    rng = np.random.default_rng(6)
    truth = np.linspace(0.3, 2.0, 900)
    first = truth + rng.normal(0, 0.002, 900)
    second = truth * 1.02 + rng.normal(0, 0.006, 900)
    second[::10] = np.nan
    times = np.arange(900) * 0.05
    results = {
        "first": Signal.of(times, first, DISTANCE),
        "second": Signal.of(times, second, DISTANCE, np.where(np.isnan(second), 1, 0)),
    }
    told = {one.name: one.value for one in Agreement().figures(results, 0.0, 45.0, None, None)}
    assert told["second_silent"] == pytest.approx(0.1, abs=0.01)
    assert told["near_bias"] < told["middle_bias"] < told["far_bias"]
    assert told["far_bias"] == pytest.approx(0.034, abs=0.006)
    assert told["middle_first"] == pytest.approx(0.002, rel=0.25)
    assert told["middle_second"] == pytest.approx(0.006, rel=0.35)


@given(st.lists(st.floats(0.02, 1.2), min_size=1, max_size=40), st.floats(0.0, 0.04))
def test_as_many_lamps_as_steps_above_and_none_flickers_within_its_band(values, band) -> None:
    parameters = DistanceBandParameters(band_m=band)
    stage = DistanceBands().stage(parameters, None)
    signal = Signal.of(range(len(values)), values, DISTANCE)
    lamps = stage.run(stage.begin(), signal)[0].value
    for lit, value in zip(lamps, values, strict=True):
        surely = sum(value < edge - band for edge in parameters.edges_m)
        perhaps = sum(value <= edge + band for edge in parameters.edges_m)
        assert surely <= lit <= perhaps
    for before, after, was, value in zip(lamps, lamps[1:], values, values[1:], strict=False):
        if (
            any(abs(value - edge) <= band for edge in parameters.edges_m)
            and abs(was - value) < 1e-9
        ):
            assert after == before


def test_lamps_go_blind_and_a_ladder_is_suggested_with_raw_values() -> None:
    stage = DistanceBands().stage(DistanceBandParameters(blind_s=0.3), None)
    signal = Signal.of([0, 0.2, 0.4, 0.9], [0.35, np.nan, np.nan, np.nan], DISTANCE, [0, 1, 1, 1])
    told = [LAMPS.states[int(one)].name for one in stage.run(stage.begin(), signal)[0].value]
    assert told == ["lamps_5", "lamps_5", "blind", "blind"]
    known = Known(0.05, 0, 0.02, "", lambda _: 0.002, raw_said=lambda m: f"raw {m * 5831:.0f} µs")
    found = DistanceBands().suggest(DistanceBandEvidence(), known)
    assert [part.value for part in found.parts] == pytest.approx([0.1 * n for n in range(1, 9)])
    assert found.parts[0].note == "raw 583 µs"
    assert found.parameters["step_m"] == pytest.approx(0.1)


def test_the_models_of_the_stand_in_are_read_back_by_the_chains() -> None:
    """A curve by marks on the ranger by angle, offset and cross-talk on the one that times."""
    rng = np.random.default_rng(9)
    angle, flight = AngleRangerModel(), FlightRangerModel()
    true = (0.12, 0.2, 0.35, 0.5, 0.7)
    codes = {d: np.array([angle.counts(d, rng) for _ in range(120)]) for d in true}
    spans = [
        Span(str(d), Signal.of(range(120), (codes[d] + 0.5) * 5.0 / 1024), d, 0.0005) for d in true
    ]
    law = InverseDistanceKind().stage(InverseDistanceKind().fit(spans, None), True, "marks")
    for d in (0.15, 0.3, 0.6):
        read = law.apply(Signal.of([0.0], [angle.volts(d)])).value[0]
        assert read == pytest.approx(d, rel=0.02)
    told = {d: [flight.reading(d, 0.1, rng) for _ in range(120)] for d in (0.1, 0.3, 0.6, 0.9)}
    marks = [
        Span(str(d), Signal.of(range(120), [mm / 1000.0 for mm, _ in rows]), d, 0.0005)
        for d, rows in told.items()
    ]
    fit = OffsetCoverKind().fit(marks, None)
    assert fit.parameters["offset"] == pytest.approx(0.009, abs=0.001)
    assert fit.parameters["per_m2"] == pytest.approx(0.06, abs=0.01)
    assert {word for rows in told.values() for _, word in rows} <= {0, 2}
    assert flight.reading(2.0, 0.1, rng) == (8_190, 4)
