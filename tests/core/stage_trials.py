"""For every stage: settings it may have, and what may enter it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.sound_speed import sound_speed_from_air
from tickstone.core.chain import Stage
from tickstone.core.chains.pulses import PULSE_COUNT, PULSE_GAP, PULSES_IN_GATE
from tickstone.core.chains.quadrature import LEVELS
from tickstone.core.edges import NOTHING_YET, Found, as_edges
from tickstone.core.line_row import Row
from tickstone.core.quantity import (
    ACCELERATION,
    COUNTS,
    DISTANCE,
    ECHO_TIME,
    FREQUENCY,
    LIGHTNESS,
    NUMBER,
    SPEED,
    TURN_RATE,
    VOLTAGE,
    Quantity,
)
from tickstone.core.rules.stop_and_go import WAY
from tickstone.core.signal import Signal
from tickstone.core.stages.air_speed import AirSpeed
from tickstone.core.stages.align import Align
from tickstone.core.stages.bands import Bands
from tickstone.core.stages.better_rate import BetterRate
from tickstone.core.stages.code_state import CodeState
from tickstone.core.stages.code_steps import COMMUTATION_120, QUADRATURE, CodeSteps
from tickstone.core.stages.converter_ends import ConverterEnds
from tickstone.core.stages.count_edges import CountEdges
from tickstone.core.stages.counts_volts import CountsVolts
from tickstone.core.stages.cross_talk import CrossTalk
from tickstone.core.stages.debounce import Debounce
from tickstone.core.stages.direction import Direction
from tickstone.core.stages.echo_gate import EchoGate
from tickstone.core.stages.flight_noise import FlightNoise
from tickstone.core.stages.fold_watch import FoldWatch
from tickstone.core.stages.gap_edges import GapEdges
from tickstone.core.stages.gate_counts import GateCounts
from tickstone.core.stages.gate_rate import GateRate
from tickstone.core.stages.half_path import HalfPath
from tickstone.core.stages.inverse_law import InverseLaw
from tickstone.core.stages.lane_state import SURFACE, LaneState
from tickstone.core.stages.level_edges import LevelEdges
from tickstone.core.stages.lightness import Lightness, Surfaces
from tickstone.core.stages.line_action import LineAction
from tickstone.core.stages.line_place import LinePlace
from tickstone.core.stages.line_situation import SITUATION, LineSituation
from tickstone.core.stages.magnitude import Magnitude
from tickstone.core.stages.missed_pulse import MissedPulse
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.stages.no_place import NoPlace
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
from tickstone.core.stages.vote import FIRST, MEAN, NEARER, Vote
from tickstone.core.stages.word_gate import WordGate
from tickstone.core.status import Status

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
        draw(st.just(0.0) | st.integers(1, 64).map(lambda n: n / 64)),
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


rows = st.sampled_from(
    [
        Row((-0.02, 0.0, 0.02), 0.019, 0.006),
        Row((0.001, 0.012, 0.04), 0.03, 0.012),
        Row((-0.008, 0.0, 0.008), 0.038, 0.004),
    ]
)
"""Even and uneven, and one that lies on the line with all it has."""


LANE_FLAGS = [Status.OK] * 6 + [Status.TOO_DARK, Status.FLOODED, Status.SATURATED, Status.MISSING]


@st.composite
def lanes(
    draw: st.DrawFn, quantity: Quantity, values: st.SearchStrategy[float], count: int = 3
) -> Signal:
    """Several lanes, each with flags of its own; what is missing has no value, but for a state."""
    n = draw(st.integers(1, 25))
    times = np.cumsum(draw(st.lists(st.floats(0.0, 0.3), min_size=n, max_size=n)))
    matrix = np.array(
        draw(st.lists(st.lists(values, min_size=n, max_size=n), min_size=count, max_size=count))
    )
    if draw(st.booleans()):
        flags = st.lists(st.sampled_from(LANE_FLAGS), min_size=n, max_size=n)
        status = np.array(draw(st.lists(flags, min_size=count, max_size=count)), dtype=np.uint8)
    else:
        one = draw(st.sampled_from(LANE_FLAGS))
        status = np.full(matrix.shape, int(one), dtype=np.uint8)
    if not quantity.is_decision:
        matrix[status == Status.MISSING] = np.nan
    names = [str(k + 1) for k in range(count)]
    return Signal.of(times, matrix, quantity.in_lanes(*names), status)


shares = st.floats(-0.6, 1.8) | st.sampled_from([0.0, 0.5, 1.0])


@st.composite
def surfaces(draw: st.DrawFn) -> Surfaces:
    black, white = draw(st.permutations([draw(st.floats(0.2, 1.5)), draw(st.floats(3.0, 4.8))]))
    return Surfaces(black, white, *(draw(st.floats(0.0, 0.05)) for _ in range(4)))


@st.composite
def lit_rows(draw: st.DrawFn) -> tuple[Signal, ...]:
    """Lightness of a row, and any situation at the same times."""
    light = draw(lanes(LIGHTNESS, shares))
    n = len(light)
    what = draw(st.lists(st.integers(0, len(SITUATION.states) - 1), min_size=n, max_size=n))
    flags = np.where(np.array(what) == 8, int(Status.MISSING), 0)
    return light, Signal.of(light.time_s, what, SITUATION, flags)


@st.composite
def at_once(
    draw: st.DrawFn, first: st.SearchStrategy[Signal], values: st.SearchStrategy[float]
) -> tuple[Signal, ...]:
    """A signal, and another that says something at the same times."""
    one = draw(first)
    n = len(one)
    told = draw(st.lists(values, min_size=n, max_size=n))
    status = draw(st.lists(st.sampled_from([0, 0, 0, 1]), min_size=n, max_size=n))
    return one, Signal.of(one.time_s, told, one.quantity, status, one.until_s)


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
    ConverterEnds: Trial(
        st.sampled_from([4, 10]).map(ConverterEnds),
        drawn=st.tuples(lanes(COUNTS, st.integers(-1, 1024).map(float))),
    ),
    CountsVolts: Trial(
        st.builds(CountsVolts, st.sampled_from([8, 10]), st.floats(1, 6), small),
        drawn=st.tuples(lanes(COUNTS, st.integers(0, 1023).map(float))),
    ),
    Lightness: Trial(
        st.builds(
            Lightness,
            st.just(()) | st.tuples(*3 * [surfaces()]),
            st.sampled_from([-math.inf, 0.3]),
            st.sampled_from([math.inf, 4.7]),
            st.booleans(),
        ),
        drawn=st.tuples(lanes(VOLTAGE, st.floats(0, 5))),
    ),
    LaneState: Trial(
        st.builds(
            LaneState,
            st.tuples(*3 * [st.floats(0.2, 0.8)]) | st.just((0.5,)),
            st.tuples(st.floats(0.0, 0.3)),
        ),
        drawn=st.tuples(lanes(LIGHTNESS, shares)),
    ),
    LineSituation: Trial(
        st.builds(LineSituation, rows, st.booleans(), st.sampled_from([0.0, 0.3]), st.booleans()),
        drawn=st.tuples(lanes(SURFACE, st.sampled_from([0.0, 1.0]))),
    ),
    LinePlace: Trial(
        st.builds(
            LinePlace,
            rows,
            st.booleans(),
            st.floats(-0.1, 0.1),
            st.sampled_from([0.01, 0.05]),
            st.booleans(),
        ),
        drawn=lit_rows(),
    ),
    NoPlace: Trial(st.just(NoPlace(3)), drawn=st.tuples(lanes(LIGHTNESS, shares))),
    InverseLaw: Trial(
        st.builds(InverseLaw, st.floats(0.1, 0.4), st.floats(0, 0.05), st.floats(0, 0.2)),
        *(VOLTAGE, 0, 4),
    ),
    FoldWatch: Trial(st.just(FoldWatch(0.1, 0.3)), DISTANCE, 0, 0.5),
    WordGate: Trial(
        st.just(WordGate((0.0, 11.0))),
        drawn=at_once(signals(DISTANCE, 0, 2), st.sampled_from([0.0, 4.0, 11.0])),
    ),
    FlightNoise: Trial(st.just(FlightNoise(0.001, 0.002, 0.3, 0.02)), DISTANCE, 0, 2),
    CrossTalk: Trial(
        st.builds(CrossTalk, st.floats(-0.05, 0.05), st.floats(0, 0.3)), DISTANCE, 0, 2
    ),
    Vote: Trial(
        st.builds(
            Vote, st.sampled_from([MEAN, NEARER, FIRST]), *2 * [st.floats(0.001, 0.1)], small
        ),
        drawn=at_once(signals(DISTANCE, 0, 1), st.floats(0, 1) | st.just(math.nan)),
    ),
    Bands: Trial(
        st.builds(Bands, st.just((0.1, 0.2, 0.3)), st.floats(0, 0.04), st.floats(0, 1)),
        *(DISTANCE, 0, 0.4),
    ),
    LineAction: Trial(
        st.builds(
            LineAction,
            st.text(alphabet="FlLrRSBK-", min_size=8, max_size=8),
            st.booleans(),
            st.booleans(),
            st.sampled_from([0.0, 0.2]),
            st.sampled_from([0.0, 0.3]),
        ),
        drawn=st.tuples(lanes(SURFACE, st.sampled_from([0.0, 1.0]))),
    ),
}
