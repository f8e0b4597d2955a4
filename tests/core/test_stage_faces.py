"""The faces of a stage: `apply` over a recording and `explain` of one sample are one arithmetic."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

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
STAGES: list[tuple[Stage, str, float, float]] = [
    (EchoGate(38_000, 1, 12.5), "µs", -10, 60_000),
    (HalfPath(), "µs", 0, 40_000),
    (AirSpeed(sound_speed_from_air("cramer", AIR)), "µs", 0, 20_000),
    (PathTriangle(0.026), "m", 0, 5),
    (RangeGate(0.02, 4.0), "m", 0, 6),
    (MountOffset(0.008, 0.001), "m", 0, 5),
    (Calibration(-0.002, 0.998, 1e-7, 4e-7, -1e-7, True, "3 marks"), "m", 0, 5),
    (RunningMedian(3), "m", 0, 5),
    (RunningMedian(5), "m", 0, 5),
    (StopThreshold(0.42, 0.5, 0.25, False), "m", 0.3, 0.6),
    (StopThreshold(0.42, 0.5, 0.25, True), "m", 0.3, 0.6),
]


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


@pytest.mark.parametrize(
    ("stage", "unit", "low", "high"), STAGES, ids=[f"{s[0].name}-{i}" for i, s in enumerate(STAGES)]
)
@given(data=st.data())
def test_explain_agrees_with_apply_at_every_sample(
    stage: Stage, unit: str, low: float, high: float, data: st.DataObject
) -> None:
    signal = data.draw(signals(unit, low, high))
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


CARRYING = [
    case for case in STAGES if case[0].name in ("half", "air", "triangle", "range", "mount")
]


@pytest.mark.parametrize(("stage", "unit", "low", "high"), CARRYING)
@given(data=st.data())
def test_a_budget_goes_through_by_the_local_derivative(
    stage: Stage, unit: str, low: float, high: float, data: st.DataObject
) -> None:
    """What a stage does to the uncertainty it is handed is what it does to a small difference."""
    value = data.draw(st.floats(max(low, 0.1), high))
    small = 1e-4 * value
    carried = Component("handed on", small, unit, small, False, "")
    signal = Signal.of([0.0], [value], unit)
    step = stage.explain(Reading(value, unit, Status.OK, (carried,), signal))
    nudged = stage.apply(Signal.of([0.0, 1.0], [value - small / 2, value + small / 2], unit))
    through = next(part for part in step.components if part.name == "handed on")
    assert through.contribution == pytest.approx(float(np.diff(nudged.values)[0]), rel=1e-4)


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
