"""The faces of a stage: `run` over any blocks and `explain` of one sample are one arithmetic."""

from __future__ import annotations

import importlib
import inspect
import json
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
from tickstone.core.chain import BLOCK_SAMPLES, Chain, ChainInput, Node, Stage, blocks_of
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.chains.pulses import PULSE_COUNT, PULSE_GAP, PULSES_IN_GATE
from tickstone.core.chains.quadrature import LEVELS
from tickstone.core.edges import NOTHING_YET, Found, as_edges
from tickstone.core.quantity import (
    ACCELERATION,
    DISTANCE,
    ECHO_TIME,
    FREQUENCY,
    NUMBER,
    SPEED,
    TURN_RATE,
    Quantity,
)
from tickstone.core.rules.stop_and_go import WAY, StopAndGo, StopAndGoParameters
from tickstone.core.signal import Gathering, Signal
from tickstone.core.stages.air_speed import AirSpeed
from tickstone.core.stages.align import Align
from tickstone.core.stages.better_rate import BetterRate
from tickstone.core.stages.code_state import CodeState
from tickstone.core.stages.code_steps import COMMUTATION_120, QUADRATURE, CodeSteps
from tickstone.core.stages.count_edges import CountEdges
from tickstone.core.stages.debounce import Debounce
from tickstone.core.stages.direction import Direction
from tickstone.core.stages.echo_gate import EchoGate
from tickstone.core.stages.gap_edges import GapEdges
from tickstone.core.stages.gate_counts import GateCounts
from tickstone.core.stages.gate_rate import GateRate
from tickstone.core.stages.half_path import HalfPath
from tickstone.core.stages.level_edges import LevelEdges
from tickstone.core.stages.magnitude import Magnitude
from tickstone.core.stages.missed_pulse import MissedPulse
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.offset_scale import OffsetScale
from tickstone.core.stages.path_triangle import PathTriangle
from tickstone.core.stages.period_rate import PeriodRate
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.stages.rate_of_change import RateOfChange
from tickstone.core.stages.ratio import Ratio
from tickstone.core.stages.roll_out import RollOut
from tickstone.core.stages.running_median import RunningMedian
from tickstone.core.stages.slow_watch import SlowWatch
from tickstone.core.stages.spacing import Spacing
from tickstone.core.stages.time_edges import TimeEdges
from tickstone.core.stages.timed_count_edges import TimedCountEdges
from tickstone.core.stages.travelled import Travelled
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.stages.untouched import Untouched
from tickstone.core.status import Status
from tickstone.core.step import Lane, Reading
from tickstone.core.uncertainty import Component

AIR = AirConditions(20.0, 0.5)
small = st.floats(0.0, 0.05)


@dataclass(frozen=True)
class Trial:
    """Settings a stage may have, and what may enter it: a quantity between two values, or signals
    that are drawn.
    """

    settings: st.SearchStrategy[Stage]
    quantity: Quantity = NUMBER
    low: float = 0.0
    high: float = 1.0
    drawn: st.SearchStrategy[tuple[Signal, ...]] | None = None

    def entering(self) -> st.SearchStrategy[tuple[Signal, ...]]:
        if self.drawn is not None:
            return self.drawn
        return st.tuples(signals(self.quantity, self.low, self.high))


@st.composite
def signals(draw: st.DrawFn, quantity: Quantity, low: float, high: float) -> Signal:
    count = draw(st.integers(1, 40))
    values = draw(st.lists(st.floats(low, high, allow_nan=False), min_size=count, max_size=count))
    gaps = draw(st.lists(st.floats(0.0, 0.4), min_size=count, max_size=count))
    status = draw(st.lists(st.sampled_from(list(Status)), min_size=count, max_size=count))
    status_array = np.array([int(s) for s in status], dtype=np.uint8)
    value_array = np.array(values, dtype=np.float64)
    value_array[status_array == Status.NO_ECHO] = np.nan
    return Signal.of(np.cumsum(gaps), value_array, quantity, status_array)


@st.composite
def rising_times(draw: st.DrawFn, most: int = 40, low: float = 0.001, high: float = 0.7):
    """Times at which things come one after the other, never two at once."""
    count = draw(st.integers(1, most))
    steps = draw(st.lists(st.floats(low, high), min_size=count, max_size=count))
    return np.cumsum(steps)


@st.composite
def counts(draw: st.DrawFn, with_gap: bool = False) -> tuple[Signal, ...]:
    """A running count that rises, wraps, stands and sometimes runs back; with its gap if wanted."""
    times = draw(rising_times())
    size = len(times)
    steps = draw(st.lists(st.sampled_from([0, 0, 1, 1, 1, 2, 3, -7]), min_size=size, max_size=size))
    status = draw(st.lists(st.sampled_from([0, 0, 0, 0, 5]), min_size=size, max_size=size))
    count = Signal.of(times, np.cumsum(steps) % 256, PULSE_COUNT, status)
    if not with_gap:
        return (count,)
    gaps = draw(st.lists(st.floats(0.0, 0.5), min_size=size, max_size=size))
    return (count, Signal.of(times, gaps, PULSE_GAP))


@st.composite
def gaps(draw: st.DrawFn) -> tuple[Signal, ...]:
    """Gaps, some of them said again, some of them none."""
    times = draw(rising_times())
    size = len(times)
    told = draw(st.lists(st.sampled_from([0.0, 0.1, 0.1, 0.4, 0.8]), min_size=size, max_size=size))
    return (Signal.of(times, told, PULSE_GAP),)


@st.composite
def edges(draw: st.DrawFn) -> Signal:
    """Edges as some stage found them: bounce, lost ones, and no gap at first."""
    times = draw(rising_times(low=0.0005, high=0.4))
    size = len(times)
    codes = [Status.OK, Status.OK, Status.OK, Status.RAN_BACK]
    found = Found(
        time_s=times,
        pulses=np.array(draw(st.lists(st.integers(1, 3), min_size=size, max_size=size)), float),
        status=np.array(
            draw(st.lists(st.sampled_from(codes), min_size=size, max_size=size)), np.uint8
        ),
        timing_s=np.full(size, draw(st.floats(1e-6, 0.02))),
    )
    return as_edges(found, NOTHING_YET, float(times[-1]) + draw(st.floats(0.0, 2.0)))[0]


@st.composite
def rates(draw: st.DrawFn) -> tuple[Signal, ...]:
    """A rate by period and by gate, and the edges they are from."""
    of = draw(edges())
    period = PeriodRate().apply(of)
    gate, _ = GateRate(0.25).run(GateRate(0.25).begin(), of)
    return period, gate, of


@st.composite
def codes(draw: st.DrawFn, channels: int) -> tuple[Signal, ...]:
    """Levels of several channels: any code after any other, and some that nobody read."""
    times = draw(rising_times())
    size = len(times)
    code = np.array(draw(st.lists(st.integers(0, 2**channels - 1), min_size=size, max_size=size)))
    if draw(st.booleans()):
        cycle = QUADRATURE if channels == 2 else COMMUTATION_120
        walk = draw(st.lists(st.sampled_from([1, 1, 1, 0, -1, 2]), min_size=size, max_size=size))
        code = np.array(cycle)[np.cumsum(walk) % len(cycle)]
    levels = [(code >> n & 1).astype(float) for n in range(channels)]
    status = draw(st.lists(st.sampled_from([0, 0, 0, 0, 5]), min_size=size, max_size=size))
    lanes = LEVELS.in_lanes(*"ABC"[:channels])
    until_s = float(times[-1]) + draw(st.floats(0.0, 1.0))
    return (Signal.of(times, levels, lanes, [status] * channels, until_s),)


@st.composite
def quiet_rates(draw: st.DrawFn) -> tuple[Signal, ...]:
    """A rate with long waits, also after the last of it."""
    times = draw(rising_times(most=12, high=3.0))
    speeds = st.floats(0.05, 50.0) | st.floats(-50.0, -0.05)
    values = draw(st.lists(speeds, min_size=len(times), max_size=len(times)))
    until_s = float(times[-1]) + draw(st.floats(0.0, 9.0) | st.floats(50.0, 1e6))
    return (Signal.of(times, values, FREQUENCY, until_s=until_s),)


one_of_edges = st.tuples(edges())
ratios = st.builds(
    Ratio,
    st.floats(0.1, 50.0),
    small,
    st.booleans(),
    st.just(TURN_RATE),
    *(st.just(word) for word in ("of it", "x·a", "", "part", "basis", "source")),
)


@st.composite
def calibrations(draw: st.DrawFn) -> OffsetScale:
    """With any covariance that two doubts can have."""
    u_offset, u_scale = draw(st.floats(1e-5, 5e-3)), draw(st.floats(1e-5, 5e-3))
    correlation = draw(st.floats(-0.99, 0.99))
    return OffsetScale(
        draw(st.floats(-0.1, 0.1)), draw(st.floats(0.8, 1.2)),
        u_offset**2, u_scale**2, correlation * u_offset * u_scale,
        draw(st.booleans()), "3 marks",
    )  # fmt: skip


@st.composite
def thresholds(draw: st.DrawFn) -> TwoThresholds:
    """Either way round, with any evidence, with and without waiting."""
    low, high = draw(st.floats(0.3, 0.42)), draw(st.floats(0.43, 0.6))
    at = (low, high) if draw(st.booleans()) else (high, low)
    statuses = draw(st.permutations([Status.TOO_NEAR, Status.TOO_FAR, Status.NO_ECHO]))
    return TwoThresholds(
        *at,
        WAY,
        Words("stop", "go again", "d"),
        draw(st.none() | st.floats(0.0, 0.5)),
        tuple(statuses[:1]),
        tuple(statuses[1 : draw(st.integers(1, 3))]),
        draw(st.just(0.0) | st.floats(0.0, 1.0)),
    )


@st.composite
def spacings(draw: st.DrawFn) -> Spacing:
    """Known shares or none; few magnets, so that short draws hold the turns it looks at."""
    pulses = draw(st.integers(2, 3))
    if draw(st.booleans()):
        return Spacing(pulses, draw(st.floats(0, 0.1)))
    parts = draw(st.lists(st.floats(0.2, 1.0), min_size=pulses, max_size=pulses))
    shares = tuple(part / sum(parts) for part in parts)
    u = tuple(draw(st.floats(0, 0.01)) for _ in shares)
    return Spacing(pulses, 0.01, shares, u, draw(st.floats(0, 0.01)))


TRIALS: dict[type[Stage], Trial] = {
    EchoGate: Trial(
        st.builds(EchoGate, st.floats(100, 60_000), st.floats(0, 50), small), ECHO_TIME, -10, 60_000
    ),
    HalfPath: Trial(st.just(HalfPath()), ECHO_TIME, 0, 40_000),
    AirSpeed: Trial(
        st.floats(-20, 50).map(
            lambda c: AirSpeed(sound_speed_from_air("cramer", AirConditions(c, 0.5)))
        ),
        *(ECHO_TIME, 0, 20_000),
    ),
    PathTriangle: Trial(st.builds(PathTriangle, small), DISTANCE, 0, 5),
    RangeGate: Trial(st.builds(RangeGate, small, st.floats(0.1, 6)), DISTANCE, 0, 6),
    MountOffset: Trial(st.builds(MountOffset, st.floats(-0.5, 0.5), small), DISTANCE, 0, 5),
    OffsetScale: Trial(calibrations(), DISTANCE, 0, 5),
    RunningMedian: Trial(st.sampled_from([1, 3, 5, 9]).map(RunningMedian), DISTANCE, 0, 5),
    TwoThresholds: Trial(thresholds(), DISTANCE, 0.3, 0.6),
    Untouched: Trial(st.just(Untouched()), DISTANCE, 0, 5),
    Ratio: Trial(ratios, FREQUENCY, 0, 100),
    RollOut: Trial(st.builds(RollOut, st.floats(0.1, 3), small, *(2 * [st.just("")])), TURN_RATE),
    CountEdges: Trial(st.sampled_from([0, 8]).map(CountEdges), drawn=counts()),
    TimedCountEdges: Trial(
        st.builds(TimedCountEdges, st.sampled_from([0, 8]), small, st.sampled_from([0.0, 0.2])),
        drawn=counts(with_gap=True),
    ),
    GateCounts: Trial(st.builds(GateCounts, st.floats(0.1, 10)), PULSES_IN_GATE, -1, 40),
    GapEdges: Trial(st.builds(GapEdges, small), drawn=gaps()),
    TimeEdges: Trial(st.builds(TimeEdges, small), drawn=gaps()),
    LevelEdges: Trial(
        st.builds(LevelEdges, st.just(0.1), st.just(0.4), st.booleans(), small), drawn=gaps()
    ),
    Debounce: Trial(st.builds(Debounce, st.floats(0.001, 0.1)), drawn=one_of_edges),
    MissedPulse: Trial(st.builds(MissedPulse, st.booleans()), drawn=one_of_edges),
    Spacing: Trial(spacings(), drawn=one_of_edges),
    PeriodRate: Trial(st.just(PeriodRate()), drawn=one_of_edges),
    GateRate: Trial(st.builds(GateRate, st.sampled_from([0.1, 0.25, 0.7])), drawn=one_of_edges),
    BetterRate: Trial(st.just(BetterRate("auto", 0.25)), drawn=rates()),
    SlowWatch: Trial(st.builds(SlowWatch, st.sampled_from([0.3, 0.7, 2.0])), drawn=quiet_rates()),
    CodeSteps: Trial(
        st.builds(
            CodeSteps,
            st.just(COMMUTATION_120),
            st.sampled_from([1, 2, 6]),
            st.booleans(),
            st.booleans(),
            small,
        ),
        drawn=codes(3),
    ),
    Align: Trial(
        st.builds(Align, st.sampled_from([0.0, 0.3, 2.0]), small),
        drawn=st.tuples(signals(NUMBER, 0, 1), signals(DISTANCE, 0, 5)),
    ),
    CodeState: Trial(st.just(CodeState(COMMUTATION_120)), drawn=codes(3)),
    Magnitude: Trial(st.just(Magnitude()), FREQUENCY, -5, 5),
    Direction: Trial(st.just(Direction()), FREQUENCY, -5, 5),
    RateOfChange: Trial(
        st.builds(RateOfChange, st.floats(0.1, 1.0), st.just(ACCELERATION)), SPEED, -5, 5
    ),
    Travelled: Trial(
        st.builds(Travelled, st.floats(0.01, 1), small, *(2 * [st.just("")])), drawn=one_of_edges
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


def alone(stage: Stage, entering: tuple[Signal, ...]) -> tuple[Chain, dict[str, Signal]]:
    """A chain of this one stage, and what enters it by name."""
    entries = [ChainInput(f"x{n}", signal.quantity) for n, signal in enumerate(entering)]
    chain = Chain(
        tuple(entries), (Node("it", stage, tuple(one.at for one in entries)),), (("y", "it"),)
    )
    return chain, {one.name: signal for one, signal in zip(entries, entering, strict=True)}


@pytest.mark.parametrize("kind", TRIALS, ids=lambda kind: kind.name)
@given(data=st.data())
def test_explain_agrees_with_run_at_every_sample(kind: type[Stage], data: st.DataObject) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    chain, entering = alone(stage, data.draw(trial.entering()))
    whole = chain.apply(entering)
    assert whole.quantity == stage.gives(*(one.quantity for one in entering.values()))
    for index in range(len(whole)):
        if len(whole) > 8 and data.draw(st.integers(0, len(whole) // 8)):
            continue  # eight or so of many: each takes the whole state before it
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
