"""The faces of a stage: `apply` over a recording and `explain` of one sample are one arithmetic."""

from __future__ import annotations

import importlib
import inspect
import math
import pkgutil
from dataclasses import dataclass, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core import stages
from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.sound_speed import sound_speed_from_air
from tickstone.core.chain import BLOCK_SAMPLES, FIRST_REACH_SAMPLES, Chain, Reading, Stage
from tickstone.core.families.ultrasonic_ranger import RangerParameters, ranger_chain
from tickstone.core.signal import Signal
from tickstone.core.stages.air_speed import AirSpeed
from tickstone.core.stages.calibration import Calibration
from tickstone.core.stages.echo_gate import EchoGate
from tickstone.core.stages.half_path import HalfPath
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.path_triangle import PathTriangle
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.stages.running_median import RunningMedian
from tickstone.core.stages.stop_threshold import StopThreshold
from tickstone.core.status import Status
from tickstone.core.uncertainty import Component

AIR = AirConditions(20.0, 0.5)
small = st.floats(0.0, 0.05)


@dataclass(frozen=True)
class Trial:
    """Settings a stage may have, and what may enter it."""

    settings: st.SearchStrategy[Stage]
    unit: str
    low: float
    high: float


@st.composite
def calibrations(draw: st.DrawFn) -> Calibration:
    """With any covariance that two doubts can have."""
    u_offset, u_scale = draw(st.floats(1e-5, 5e-3)), draw(st.floats(1e-5, 5e-3))
    correlation = draw(st.floats(-0.99, 0.99))
    return Calibration(
        draw(st.floats(-0.1, 0.1)), draw(st.floats(0.8, 1.2)),
        u_offset**2, u_scale**2, correlation * u_offset * u_scale,
        draw(st.booleans()), "3 marks",
    )  # fmt: skip


TRIALS: dict[type[Stage], Trial] = {
    EchoGate: Trial(
        st.builds(EchoGate, st.floats(100, 60_000), st.floats(0, 50), small), "µs", -10, 60_000
    ),
    HalfPath: Trial(st.just(HalfPath()), "µs", 0, 40_000),
    AirSpeed: Trial(
        st.floats(-20, 50).map(
            lambda c: AirSpeed(sound_speed_from_air("cramer", AirConditions(c, 0.5)))
        ),
        *("µs", 0, 20_000),
    ),
    PathTriangle: Trial(st.builds(PathTriangle, small), "m", 0, 5),
    RangeGate: Trial(st.builds(RangeGate, small, st.floats(0.1, 6)), "m", 0, 6),
    MountOffset: Trial(st.builds(MountOffset, st.floats(-0.5, 0.5), small), "m", 0, 5),
    Calibration: Trial(calibrations(), "m", 0, 5),
    RunningMedian: Trial(st.sampled_from([1, 3, 5, 9]).map(RunningMedian), "m", 0, 5),
    StopThreshold: Trial(
        st.builds(StopThreshold, st.floats(0.3, 0.42), st.floats(0.43, 0.6), small, st.booleans()),
        *("m", 0.3, 0.6),
    ),
}


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


@st.composite
def signals(draw: st.DrawFn, unit: str, low: float, high: float) -> Signal:
    count = draw(st.integers(1, 40))
    values = draw(st.lists(st.floats(low, high, allow_nan=False), min_size=count, max_size=count))
    gaps = draw(st.lists(st.floats(0.0, 0.4), min_size=count, max_size=count))
    status = draw(st.lists(st.sampled_from(list(Status)), min_size=count, max_size=count))
    status_array = np.array([int(s) for s in status], dtype=np.uint8)
    value_array = np.array(values, dtype=np.float64)
    value_array[status_array == Status.NO_ECHO] = np.nan
    return Signal(np.cumsum(gaps), value_array, unit, status_array)


@pytest.mark.parametrize("kind", TRIALS, ids=lambda kind: kind.name)
@given(data=st.data())
def test_explain_agrees_with_apply_at_every_sample(kind: type[Stage], data: st.DataObject) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    signal = data.draw(signals(trial.unit, trial.low, trial.high))
    applied = stage.apply(signal)
    assert len(applied) == len(signal)
    for index in range(len(signal)):
        step = stage.explain(
            Reading(
                float(signal.values[index]),
                signal.unit,
                Status(int(signal.status[index])),
                (),
                signal.between(0, index + 1),
            )
        )
        assert step.status == applied.status[index]
        assert step.unit == applied.unit
        expected = float(applied.values[index])
        if math.isnan(expected):
            assert math.isnan(step.value)
        else:
            assert step.value == pytest.approx(expected, rel=1e-12, abs=1e-12)


CARRYING = [HalfPath, AirSpeed, PathTriangle, RangeGate, MountOffset, Calibration]


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
    carried = Component("handed on", small, trial.unit, small, False, "")
    signal = Signal.of([0.0], [value], trial.unit)
    step = stage.explain(Reading(value, trial.unit, Status.OK, (carried,), signal))
    nudged = stage.apply(Signal.of([0.0, 1.0], [value - small / 2, value + small / 2], trial.unit))
    through = next(part for part in step.components if part.name == "handed on")
    assert through.contribution == pytest.approx(float(np.diff(nudged.values)[0]), rel=1e-4)


@given(calibrations(), st.floats(0.02, 5.0))
def test_a_calibration_doubts_as_much_as_its_parameters_scatter(
    stage: Calibration, read_m: float
) -> None:
    """JCGM 101 in small: every offset and scale of its covariance, through the stage itself."""
    covariance = [[stage.var_offset, stage.cov], [stage.cov, stage.var_scale]]
    # Four points that have this very mean and covariance stand for the whole distribution.
    root = 2.0**0.5 * np.linalg.cholesky(covariance)
    signal = Signal.of([0.0], [read_m], "m")
    results = [
        replace(stage, offset_m=stage.offset_m + d_offset, scale=stage.scale + d_scale)
        .apply(signal)
        .values[0]
        for d_offset, d_scale in (*root.T, *(-root.T))
    ]
    step = stage.explain(Reading(read_m, "m", Status.OK, (), signal))
    assert step.u == pytest.approx(float(np.std(results)), rel=1e-6)


@given(st.lists(st.integers(0, 60_000), min_size=1, max_size=60))
def test_the_whole_chain_explains_what_it_applies(echoes: list[int]) -> None:
    chain = ranger_chain(
        RangerParameters(mount_m=0.008),
        AIR,
        Calibration(-0.002, 0.998, 1e-7, 4e-7, -1e-7, True, "3 marks"),
        StopThreshold(0.42, 0.5, 0.25, False),
    )
    signal = Signal.of(np.arange(len(echoes)) * 0.05, echoes, "µs")
    decisions = chain.apply(signal)
    distances = Chain(chain.stages[:-1]).apply(signal)
    for index in range(len(echoes)):
        steps = chain.explain(signal, index)
        assert steps[-1].value == decisions.values[index]
        assert steps[-2].status == distances.status[index]
        np.testing.assert_allclose(steps[-2].value, distances.values[index], rtol=1e-12)


def test_running_in_blocks_changes_nothing() -> None:
    rng = np.random.default_rng(4)
    count = 2 * BLOCK_SAMPLES + 77
    raw = rng.integers(0, 40_000, count)
    raw[rng.random(count) < 0.1] = 0
    signal = Signal.of(np.arange(count) * 0.05, raw, "µs")
    chain = ranger_chain(RangerParameters(), AIR)
    whole = signal
    for stage in chain:
        whole = stage.apply(whole)
    blocked = chain.apply(signal)
    np.testing.assert_array_equal(blocked.values, whole.values)
    np.testing.assert_array_equal(blocked.status, whole.status)


@pytest.mark.parametrize("silent", [50, FIRST_REACH_SAMPLES + 50, 20 * FIRST_REACH_SAMPLES])
def test_the_working_looks_back_as_far_as_it_must(silent: int) -> None:
    """A long silence, and a long stay in the band, between the evidence and the sample."""
    chain = ranger_chain(
        RangerParameters(median_n=5), AIR, threshold=StopThreshold(0.42, 0.5, 1e9, False)
    )
    raw = np.concatenate([[3500, 3510, 3490.0], np.zeros(silent), np.full(silent, 2700), [2710]])
    signal = Signal.of(np.arange(len(raw)) * 0.05, raw, "µs")
    decisions = chain.apply(signal)
    distances = Chain(chain.stages[:-1]).apply(signal)
    for index in (1, silent, silent + 3, silent + 5, 2 * silent, len(raw) - 1):
        steps = chain.explain(signal, index)
        assert steps[-1].value == decisions.values[index]
        np.testing.assert_allclose(steps[-2].value, distances.values[index], rtol=1e-12)


def test_flagged_samples_keep_their_place_and_raw_arrays_are_left_alone() -> None:
    raw = np.array([5831.0, 0.0, 50_000.0, 60.0, 25_000.0])
    signal = Signal.of(np.arange(5) * 0.05, raw, "µs")
    measured = ranger_chain(RangerParameters(), AIR).apply(signal)
    words = [Status(int(s)) for s in measured.status]
    assert words == [Status.OK, Status.NO_ECHO, Status.TIMED_OUT, Status.TOO_NEAR, Status.TOO_FAR]
    assert raw.tolist() == [5831.0, 0.0, 50_000.0, 60.0, 25_000.0]
    assert np.isnan(measured.values[[1, 2]]).all()


def test_a_chain_says_what_it_has_no_value_for() -> None:
    steps = ranger_chain(RangerParameters(), AIR).explain(Signal.of([0.0], [0.0], "µs"), 0)
    assert all(step.status == Status.NO_ECHO for step in steps)
    assert all("nan" not in step.filled for step in steps)
    with pytest.raises(IndexError, match="no sample 1"):
        ranger_chain(RangerParameters(), AIR).explain(Signal.of([0.0], [0.0], "µs"), 1)
