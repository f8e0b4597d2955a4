"""The faces of a stage: `run` over any blocks and `explain` of one sample are one arithmetic."""

from __future__ import annotations

import importlib
import inspect
import json
import math
import pkgutil
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.inertial_trials import INERTIAL
from tests.core.stage_trials import TRIALS as GENERAL
from tests.core.stage_trials import calibrations, edges

from tickstone.core import stages
from tickstone.core.air.conditions import AirConditions
from tickstone.core.chain import BLOCK_SAMPLES, Chain, ChainInput, Node, Stage, blocks_of
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.quantity import (
    DISTANCE,
    ECHO_TIME,
)
from tickstone.core.rules.stop_and_go import StopAndGo, StopAndGoParameters
from tickstone.core.signal import Gathering, Signal
from tickstone.core.stages.air_speed import AirSpeed
from tickstone.core.stages.debounce import Debounce
from tickstone.core.stages.half_path import HalfPath
from tickstone.core.stages.missed_pulse import MissedPulse
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.offset_scale import OffsetScale
from tickstone.core.stages.path_triangle import PathTriangle
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.stages.untouched import Untouched
from tickstone.core.status import Status
from tickstone.core.step import Lane, Reading
from tickstone.core.uncertainty import Component

AIR = AirConditions(20.0, 0.5)
TRIALS = GENERAL | INERTIAL


def test_every_stage_is_tried() -> None:
    """Found by walking the folder: a stage that nobody has thought of trying fails here."""
    found = {
        kind
        for module in pkgutil.iter_modules(stages.__path__)
        for kind in vars(importlib.import_module(f"{stages.__name__}.{module.name}")).values()
        if inspect.isclass(kind)
        and kind.__module__.startswith(stages.__name__)
        and hasattr(kind, "explain")
    }
    assert found == set(TRIALS)


def alone(stage: Stage, entering: tuple[Signal, ...]) -> tuple[Chain, dict[str, Signal]]:
    """A chain of this one stage, and what enters it by name."""
    entries = [ChainInput(f"x{n}", signal.quantity) for n, signal in enumerate(entering)]
    chain = Chain(
        tuple(entries), (Node("it", stage, tuple(one.at for one in entries)),), (("y", "it"),)
    )
    return chain, {one.name: signal for one, signal in zip(entries, entering, strict=True)}


FEWER = settings(max_examples=50)
"""There are some 80 stages, and their examples are long."""


@pytest.mark.parametrize("kind", TRIALS, ids=lambda kind: kind.name)
@FEWER
@given(data=st.data())
def test_explain_agrees_with_run_at_every_sample(kind: type[Stage], data: st.DataObject) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    chain, entering = alone(stage, data.draw(trial.entering()))
    whole = chain.apply(entering)
    assert whole.quantity == stage.gives(*(one.quantity for one in entering.values()))
    indexes = range(len(whole))
    if len(whole) > 8:  # some of many: each takes the whole state before it
        indexes = data.draw(st.sets(st.sampled_from(indexes), min_size=4, max_size=8))
    for index in indexes:
        (step,) = (one for one in chain.explain(entering, index) if one.stage == "it")
        for lane, told_lane in enumerate(step.lanes):
            assert told_lane.status == whole.status[lane, index]
            expected = float(whole.values[lane, index])
            if math.isnan(expected):
                assert math.isnan(told_lane.value)
            else:
                assert told_lane.value == pytest.approx(expected, rel=1e-12, abs=1e-12)
        assert step.quantity == whole.quantity


@pytest.mark.parametrize("kind", TRIALS, ids=lambda kind: kind.name)
@FEWER
@given(data=st.data())
def test_any_cut_into_blocks_gives_the_same(kind: type[Stage], data: st.DataObject) -> None:
    """A window from a kept state, and a live line, are the whole recording: see the cuts."""
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    chain, entering = alone(stage, data.draw(trial.entering()))
    whole = chain.apply(entering)
    end_s = max(signal.until_s for signal in entering.values())
    cuts_s = sorted(data.draw(st.lists(st.floats(0.0, end_s), max_size=6)))
    state, pieces, begun_s = stage.begin(), Gathering(), -np.inf
    for until_s in [*cuts_s, end_s]:
        block = [cut_out(signal, begun_s, until_s) for signal in entering.values()]
        result, state = stage.run(json.loads(json.dumps(state)), *block)
        pieces.add(result)
        begun_s = until_s
    cut = pieces.done()
    np.testing.assert_allclose(cut.values, whole.values, rtol=1e-12, atol=1e-12)
    np.testing.assert_array_equal(cut.status, whole.status)
    np.testing.assert_array_equal(cut.time_s, whole.time_s)


@given(st.tuples(edges()), st.booleans())
def test_nobody_writes_to_what_another_needs(entering: tuple[Signal], hands_on: bool) -> None:
    """Stages may change what enters in place: never what is from outside or asked for."""
    first: tuple[Stage, ...] = (Untouched(),) if hands_on else ()
    stages_of = (*first, Debounce(0.01), MissedPulse(), Debounce(0.1))
    nodes, before = [], "@x"
    for number, stage in enumerate(stages_of):
        nodes.append(Node(f"n{number}", stage, (before,)))
        before = f"n{number}"
    chain = Chain((ChainInput("x", entering[0].quantity),), tuple(nodes), (("y", before),))
    kept = entering[0].copied()
    names = [node.name for node in nodes]
    at_once = chain.fold({"x": entering[0]}, *names).results
    np.testing.assert_array_equal(entering[0].values, kept.values)
    np.testing.assert_array_equal(entering[0].status, kept.status)
    for name in names:
        alone = chain.fold({"x": entering[0]}, name).results[name]
        np.testing.assert_array_equal(alone.values, at_once[name].values)
        np.testing.assert_array_equal(alone.status, at_once[name].status)
    np.testing.assert_array_equal(entering[0].values, kept.values)


def cut_out(signal: Signal, after_s: float, until_s: float) -> Signal:
    """What came after one time and not after another, and that it is all up to then."""
    first = int(np.searchsorted(signal.time_s, after_s, side="right"))
    last = int(np.searchsorted(signal.time_s, until_s, side="right"))
    return signal.between(first, last, until_s)


CARRYING = [HalfPath, AirSpeed, PathTriangle, RangeGate, MountOffset, OffsetScale]


@pytest.mark.parametrize("kind", CARRYING, ids=lambda kind: kind.name)
@given(data=st.data())
def test_a_budget_goes_through_by_the_local_derivative(
    kind: type[Stage], data: st.DataObject
) -> None:
    """What a stage does to the uncertainty it is handed is what it does to a small difference."""
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    value = data.draw(st.floats(max(trial.low, 0.1), trial.high))
    small = 1e-4 * value
    carried = Component("handed on", small, trial.quantity.unit, small, False, "")
    lane = Lane(value, Status.OK, (carried,))
    step = stage.explain(stage.begin(), Reading(0.0, trial.quantity, (lane,)))
    ends = Signal.of([0.0, 1.0], [value - small / 2, value + small / 2], trial.quantity)
    nudged, _ = stage.run(stage.begin(), ends)
    through = next(part for part in step.components if part.name == "handed on")
    assert through.contribution == pytest.approx(float(np.diff(nudged.value)[0]), rel=1e-4)


@given(calibrations(), st.floats(0.02, 5.0))
def test_a_calibration_doubts_as_much_as_its_parameters_scatter(
    stage: OffsetScale, read_m: float
) -> None:
    """JCGM 101 in small: every offset and scale of its covariance, through the stage itself."""
    covariance = [[stage.var_offset, stage.cov], [stage.cov, stage.var_scale]]
    # Four points that have this very mean and covariance stand for the whole distribution.
    root = 2.0**0.5 * np.linalg.cholesky(covariance)
    signal = Signal.of([0.0], [read_m], DISTANCE)
    results = [
        replace(stage, offset=stage.offset + d_offset, scale=stage.scale + d_scale)
        .apply(signal)
        .value[0]
        for d_offset, d_scale in (*root.T, *(-root.T))
    ]
    step = stage.explain(None, Reading(0.0, DISTANCE, (Lane(read_m),)))
    assert step.u == pytest.approx(float(np.std(results)), rel=1e-6)


@given(st.lists(st.integers(0, 60_000), min_size=1, max_size=60))
def test_the_whole_chain_explains_what_it_applies(echoes: list[int]) -> None:
    parameters = RangerParameters(mount_m=0.008)
    chain = ranger_chain(
        parameters,
        AIR,
        OffsetScale(-0.002, 0.998, 1e-7, 4e-7, -1e-7, True, "3 marks"),
        StopAndGo().stage(StopAndGoParameters(0.42, 0.5), parameters),
    )
    signal = Signal.of(np.arange(len(echoes)) * 0.05, echoes, ECHO_TIME)
    decisions, distances = chain.apply(signal, "way"), chain.apply(signal, "distance")
    for index in range(len(echoes)):
        steps = chain.explain(signal, index)
        assert steps[-1].value == decisions.value[index]
        assert steps[-2].status == distances.flag[index]
        np.testing.assert_allclose(steps[-2].value, distances.value[index], rtol=1e-12)


def test_long_recordings_are_folded_in_blocks_and_any_window_begins_at_a_kept_state() -> None:
    rng = np.random.default_rng()
    count = 2 * BLOCK_SAMPLES + 77
    raw = rng.integers(0, 40_000, count)
    raw[rng.random(count) < 0.1] = 0
    signal = Signal.of(np.arange(count) * 0.05, raw, ECHO_TIME)
    chain = ranger_chain(RangerParameters(median_n=9), AIR)
    at_once, _ = chain.run(chain.begin(), {"echo": signal})
    folded = chain.fold({"echo": signal}, chain.last)
    np.testing.assert_array_equal(folded.results[chain.last].values, at_once[chain.last].values)
    np.testing.assert_array_equal(folded.results[chain.last].status, at_once[chain.last].status)
    assert [kept.first for kept in folded.kept] == [0, BLOCK_SAMPLES, 2 * BLOCK_SAMPLES, count]
    for kept in folded.kept[:-1]:
        rest = signal.between(kept.first, count)
        again = chain.fold({"echo": rest}, chain.last, states=kept.states).results[chain.last]
        np.testing.assert_array_equal(again.values, at_once[chain.last].values[:, kept.first :])


def test_blocks_of_inputs_with_different_times_are_cut_at_the_same_times() -> None:
    fast = Signal.of(np.arange(1000) * 0.01, np.zeros(1000))
    slow = Signal.of(np.arange(7) * 1.5, np.zeros(7), until_s=12.0)
    blocks = blocks_of({"fast": fast, "slow": slow}, ["fast", "slow"], 100)
    assert sum(len(pieces["slow"]) for _, _, pieces in blocks) == 7
    assert sum(len(pieces["fast"]) for _, _, pieces in blocks) == 1000
    for _, begun_s, pieces in blocks:
        for piece in pieces.values():
            assert ((piece.time_s > begun_s) & (piece.time_s <= piece.until_s)).all()
        assert pieces["fast"].until_s == pieces["slow"].until_s
    assert blocks[-1][2]["slow"].until_s == 12.0


@pytest.mark.parametrize("silent", [50, 2_100, 40_000])
def test_the_working_looks_back_as_far_as_it_must(silent: int) -> None:
    """A long silence, and a long stay in the band, between the evidence and the sample."""
    parameters = RangerParameters(median_n=5, blind_stop_s=60.0)
    rule = replace(
        StopAndGo().stage(StopAndGoParameters(0.42, 0.5), parameters), blind_after_s=None
    )
    chain = ranger_chain(parameters, AIR, rule=rule)
    raw = np.concatenate([[3500, 3510, 3490.0], np.zeros(silent), np.full(silent, 2700), [2710]])
    signal = Signal.of(np.arange(len(raw)) * 0.05, raw, ECHO_TIME)
    decisions, distances = chain.apply(signal, "way"), chain.apply(signal, "distance")
    for index in (1, silent, silent + 3, silent + 5, 2 * silent, len(raw) - 1):
        steps = chain.explain(signal, index)
        assert steps[-1].value == decisions.value[index]
        np.testing.assert_allclose(steps[-2].value, distances.value[index], rtol=1e-12)


def test_flagged_samples_keep_their_place_and_raw_arrays_are_left_alone() -> None:
    raw = np.array([5831.0, 0.0, 50_000.0, 60.0, 25_000.0])
    signal = Signal.of(np.arange(5) * 0.05, raw, ECHO_TIME)
    measured = ranger_chain(RangerParameters(), AIR).apply(signal)
    words = [Status(int(s)) for s in measured.flag]
    assert words == [Status.OK, Status.NO_ECHO, Status.TIMED_OUT, Status.TOO_NEAR, Status.TOO_FAR]
    assert raw.tolist() == [5831.0, 0.0, 50_000.0, 60.0, 25_000.0]
    assert np.isnan(measured.value[[1, 2]]).all()


def test_a_chain_says_what_it_has_no_value_for() -> None:
    steps = ranger_chain(RangerParameters(), AIR).explain(Signal.of([0.0], [0.0]), 0)
    assert all(step.status == Status.NO_ECHO for step in steps)
    assert all("nan" not in step.filled for step in steps)
    with pytest.raises(IndexError, match="no sample 1"):
        ranger_chain(RangerParameters(), AIR).explain(Signal.of([0.0], [0.0]), 1)
