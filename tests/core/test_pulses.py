"""Pulses from edges to turns: calibrations, coverage of the stated doubt, and what is not known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.kind import Span
from tickstone.core.calibration.magnet_spacing import MagnetSpacingKind
from tickstone.core.calibration.per_turn import PerTurnKind
from tickstone.core.calibration.roll_out import RollOutKind
from tickstone.core.calibration.strip import StripKind
from tickstone.core.chains.pulses import (
    CONVERTER,
    EDGE,
    LEVEL,
    PULSE_COUNT,
    PULSE_GAP,
    PulseParameters,
    Pulses,
)
from tickstone.core.edges import EDGES
from tickstone.core.signal import Signal
from tickstone.core.stages.spacing import Spacing
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

KIND = Pulses()
ROOM = Surroundings(AirConditions(20.0))
UNEVEN = (0.243, 0.265, 0.239, 0.253)


def chain_of(parameters: PulseParameters, form: str, calibrations=None):
    return KIND.build(parameters, ROOM, calibrations or {}, {"pulses": form})


def passes(shares, turn_s, rng, jitter: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    """When magnets pass, s, over turns that take `turn_s` each, and when they truly did."""
    places = np.concatenate(([0.0], np.cumsum(shares)[:-1]))
    starts = np.concatenate(([0.0], np.cumsum(turn_s)[:-1]))
    true = (starts[:, None] + places[None, :] * turn_s[:, None]).ravel()
    off = rng.normal(0.0, jitter, len(true)) * np.repeat(turn_s, len(shares)) / len(shares)
    return true + off, true


def edges_at(times: np.ndarray) -> Signal:
    return Signal.of(times, np.ones(len(times)), EDGE)


def compared(kind, parameters, edges: Signal) -> Signal:
    chain, node = KIND.compared_with(kind, parameters, ROOM, {}, {"pulses": "edges"})
    return chain.fold({"pulses": edges}, node).results[node]


def test_a_thousand_wheels_turn_as_fast_as_is_said_of_them() -> None:
    """Uneven, jittering, bouncing magnets at changing speed: the truth lies in the stated 95 %."""
    parameters = PulseParameters(per_turn=4, shortest_s=0.002, tick_us=4.0)
    inside = []
    for seed in range(1_000):
        rng = np.random.default_rng([2026, seed])
        shares = rng.uniform(0.94, 1.06, 4)
        shares /= shares.sum()
        jitter = rng.uniform(0.002, 0.01)
        learnt_s = np.full(24, rng.uniform(0.15, 0.8))
        spun, _ = passes(shares, learnt_s, rng, jitter)
        fit = MagnetSpacingKind().fit(
            [Span("spin", compared(MagnetSpacingKind(), parameters, edges_at(spun)))], parameters
        )
        stage = MagnetSpacingKind().stage(fit, False, "")
        turn_s = rng.uniform(0.15, 0.8) * np.exp(0.01 * np.arange(16) * rng.choice([-1, 1]))
        heard, true = passes(shares, turn_s, rng, jitter)
        ticked = np.floor(heard / 4e-6) * 4e-6
        bounced = np.sort(np.concatenate((ticked, ticked[rng.random(len(ticked)) < 0.05] + 0.0008)))
        chain = chain_of(replace(parameters, method="period"), "edges", {"magnet-spacing": stage})
        edges = edges_at(bounced)
        result = chain.apply(edges, "rpm")
        last = int(np.flatnonzero(result.ok)[-1 - rng.integers(0, 8)])
        step = chain.explain(edges, last, chain.node_of("rpm"))[-1]
        at = int(np.argmin(np.abs(ticked - result.time_s[last])))
        truth = shares[(at - 1) % 4] / (true[at] - true[at - 1])
        inside.append(abs(step.value - truth) <= 2.0 * step.u)
    assert 0.93 <= np.mean(inside) <= 0.97


def test_the_ripple_of_uneven_magnets_goes() -> None:
    rng = np.random.default_rng(5)
    heard, _ = passes(UNEVEN, np.full(40, 0.3), rng)
    parameters = PulseParameters(per_turn=4)
    edges = edges_at(heard)
    fit = MagnetSpacingKind().fit(
        [Span("all", compared(MagnetSpacingKind(), parameters, edges))], parameters
    )
    assert sum(fit.parameters["shares"]) == pytest.approx(1.0)
    largest = UNEVEN.index(max(UNEVEN))
    assert fit.parameters["shares"] == pytest.approx(
        [UNEVEN[(largest + k) % 4] for k in range(4)], abs=1e-6
    )
    plain = chain_of(parameters, "edges").apply(edges, "rpm")
    stage = MagnetSpacingKind().stage(fit, False, "")
    even = chain_of(parameters, "edges", {"magnet-spacing": stage}).apply(edges, "rpm")
    good = even.ok & (even.time_s > 2.0)
    assert np.ptp(plain.value[plain.ok]) > 0.2
    assert np.ptp(even.value[good]) < 1e-3
    assert even.value[good].mean() == pytest.approx(1.0 / 0.3, rel=1e-6)


@pytest.mark.parametrize(
    ("per_turn", "turns", "said"), [(1, 20, "one pulse a turn"), (4, 2, "turns are under"),
                                    (200, 5, "64 pulses")]
)  # fmt: skip
def test_what_no_spacing_can_be_learnt_from(per_turn: int, turns: int, said: str) -> None:
    edges = edges_at(np.arange(turns * 4) * 0.1)
    parameters = PulseParameters(per_turn=per_turn)
    with pytest.raises(ValueError, match=said):
        MagnetSpacingKind().fit(
            [Span("all", compared(MagnetSpacingKind(), parameters, edges))], parameters
        )


def test_unsteady_turns_are_told() -> None:
    rng = np.random.default_rng(1)
    heard, _ = passes(UNEVEN, 0.3 * np.exp(0.03 * np.arange(20)), rng, 0.002)
    parameters = PulseParameters(per_turn=4)
    fit = MagnetSpacingKind().fit(
        [Span("all", compared(MagnetSpacingKind(), parameters, edges_at(heard)))], parameters
    )
    assert any("not steady" in remark.title for remark in fit.remarks)


@given(st.integers(1, 12), st.integers(5, 40), st.floats(0.2, 3.0), st.randoms())
def test_a_roll_out_says_the_length_of_a_turn(per_turn, turns, length_m, chance) -> None:
    pulses = per_turn * turns
    times = np.cumsum(np.full(pulses + 1, 0.05))
    edges = compared(RollOutKind(), PulseParameters(per_turn=per_turn), edges_at(times))
    tape = length_m * turns + chance.uniform(-0.004, 0.004)
    fit = RollOutKind().fit([Span("tape", edges, tape, 0.005)], PulseParameters(per_turn=per_turn))
    u = fit.covariance[0][0] ** 0.5
    assert abs(fit.parameters["roll_out"] - length_m) <= 3 * u + length_m / (per_turn * turns)


def test_runs_that_do_not_agree_widen_the_doubt() -> None:
    edges = compared(RollOutKind(), PulseParameters(), edges_at(np.arange(11) * 0.2))
    alike = [Span(f"run {n}", edges, 20.0, 0.01) for n in range(3)]
    apart = [replace(span, true=20.0 + off) for span, off in zip(alike, (0, 4, -4), strict=True)]
    both = [RollOutKind().fit(spans, PulseParameters()) for spans in (alike, apart)]
    assert both[1].covariance[0][0] > 2.0 * both[0].covariance[0][0]


@pytest.mark.parametrize(("per_turn", "edges", "told"), [(4, "one", True), (2, "both", True),
                                                         (1, "one", False)])  # fmt: skip
def test_pulses_a_turn_are_counted_by_hand(per_turn: int, edges: str, told: bool) -> None:
    parameters = PulseParameters(per_turn=per_turn, edges=edges)
    heard = compared(PerTurnKind(), parameters, edges_at(np.arange(40) * 0.3))
    fit = PerTurnKind().fit([Span("by hand", heard, 10.0, 0.05)], parameters)
    assert fit.parameters["per_turn"] == 4.0
    assert told == (not any("are set" in remark.title for remark in fit.remarks))
    stage = PerTurnKind().stage(fit, False, "")
    rpm = chain_of(parameters, "edges", {"per-turn": stage}).apply(
        edges_at(np.arange(40) * 0.25), "rpm"
    )
    assert rpm.value[rpm.ok][-1] == pytest.approx(1.0, rel=1e-6)
    way = chain_of(parameters, "edges", {"per-turn": stage}).apply(
        edges_at(np.arange(41) * 0.25), "distance"
    )
    assert way.value[-1] - way.value[0] == pytest.approx(10.0 * np.pi * 0.15)


def test_a_strip_is_parted_between_its_heaps() -> None:
    rng = np.random.default_rng(3)
    level = (np.arange(600) // 15) % 2
    counts = Signal.of(
        np.arange(600) * 0.01, rng.normal(np.where(level, 780.0, 210.0), 12.0), CONVERTER
    )
    fit = StripKind().fit([Span("turning", counts)], PulseParameters())
    assert fit.parameters["low"] == pytest.approx(400.0, abs=8)
    assert fit.parameters["high"] == pytest.approx(590.0, abs=8)
    chain = chain_of(PulseParameters(), "strip", {"strip": StripKind().stage(fit, False, "")})
    found = chain.fold({"pulses": counts}, "pulse").results["pulse"]
    assert len(found) == 20
    with pytest.raises(ValueError, match="alike"):
        StripKind().fit([Span("still", Signal.of(range(50), [300.0] * 50, CONVERTER))], None)
    noisy = Signal.of(np.arange(600) * 0.01, rng.normal(500.0, 60.0, 600), CONVERTER)
    told = StripKind().fit([Span("noise", noisy)], None).remarks
    assert any("widths apart" in remark.title for remark in told)


def test_a_stop_is_slow_and_never_the_last_speed() -> None:
    times = np.concatenate((np.arange(20) * 0.1, [30.0]))
    count = Signal.of(
        np.arange(0, 31, 0.02), np.searchsorted(times[:-1], np.arange(0, 31, 0.02)), PULSE_COUNT
    )
    rpm = chain_of(PulseParameters(), "count").apply(count, "rpm")
    after = rpm.time_s > 4.5
    assert after.sum() > 8
    assert (rpm.flag[after] == Status.SLOW).all()
    assert (np.diff(rpm.value[after]) < 0.0).all()
    assert rpm.value[after][0] <= 0.5


def test_both_edges_of_each_double_the_reading() -> None:
    level = (np.arange(4_000) // 50) % 2
    signal = Signal.of(np.arange(4_000) * 0.001, level, LEVEL)
    rise = chain_of(PulseParameters(), "level").apply(signal, "rpm")
    gaps = np.full(60, 0.05)
    both = chain_of(PulseParameters(edges="both"), "gap").apply(
        Signal.of(np.cumsum(gaps), gaps, PULSE_GAP), "rpm"
    )
    naive = chain_of(PulseParameters(), "gap").apply(
        Signal.of(np.cumsum(gaps), gaps, PULSE_GAP), "rpm"
    )
    assert rise.value[rise.ok].mean() == pytest.approx(10.0, rel=1e-6)
    assert both.value[both.ok].mean() == pytest.approx(10.0, rel=1e-6)
    assert naive.value[naive.ok].mean() == pytest.approx(20.0, rel=1e-6)


def test_a_count_that_runs_back_is_told_and_never_a_speed() -> None:
    counts = [0, 1, 2, 3, 4, 1, 2, 3]
    chain = chain_of(PulseParameters(count_bits=0), "count")
    edges = chain.fold({"pulses": Signal.of(np.arange(8) * 0.5, counts, PULSE_COUNT)}, "pulse")
    assert Status.RAN_BACK in edges.results["pulse"].flag
    assert edges.results["pulse"].values[1, -1] <= 7.0


@given(st.integers(0, 65_535), st.integers(5, 60))
def test_a_counter_that_wraps_goes_on(begun: int, pulses: int) -> None:
    counts = (begun + np.arange(pulses)) % 65_536
    signal = Signal.of(np.arange(pulses) * 0.2, counts, PULSE_COUNT)
    edges = chain_of(PulseParameters(), "count").fold({"pulses": signal}, "pulse")
    assert edges.results["pulse"].values[1, -1] - edges.results["pulse"].values[1, 0] == pulses - 2
    assert edges.results["pulse"].quantity == EDGES


@given(st.floats(1.2, 8.0), st.floats(0.0, 1.0))
def test_choosing_the_better_way_favours_no_reading(rate_hz: float, phase: float) -> None:
    """Near the crossing too: neither way is judged by the very value it would give."""
    times = np.arange(0.0, 60.0, 0.1)
    count = Signal.of(times, np.floor(rate_hz * times + phase), PULSE_COUNT)
    chain = Pulses().build(PulseParameters(), ROOM, forms={"pulses": "count"})
    found = chain.apply(count, "frequency")
    good = found.value[found.ok]
    assert found.ok.sum() > 0.9 * (len(found) - 1)
    lasted = np.diff(found.time_s, prepend=0.0)[found.ok]
    assert np.average(good, weights=lasted) == pytest.approx(rate_hz, rel=0.04)
    assert np.diff(found.time_s).max() < 2.1


@pytest.mark.parametrize("method", ["auto", "gate", "period"])
def test_a_clock_that_jumps_by_ages_makes_no_end_of_readings(method: str) -> None:
    """Three hundred years without a pulse are told in a few dozen lines, and lose no pulse."""
    times = np.concatenate((np.arange(0.0, 5.0, 0.1), 1e10 + np.arange(0.0, 5.0, 0.1)))
    edges = Signal.of(times, np.ones(len(times)), EDGE)
    parameters = PulseParameters(method=method, gate_s=0.001 if method == "gate" else 1.0)
    chain = Pulses().build(parameters, ROOM, forms={"pulses": "edges"})
    rate, way = chain.apply(edges, "frequency"), chain.apply(edges, "distance")
    assert len(rate) < 5_000
    assert way.value[-1] == pytest.approx(100 * np.pi * 0.15)
    slow = rate.value[rate.flag == Status.SLOW]
    assert slow.min() < 1e-9
    halves = chain.run(chain.begin(), {"pulses": edges.between(0, 50, 6e9)})
    rest, _ = chain.run(halves[1], {"pulses": edges.between(50, 100)})
    cut = np.concatenate((halves[0]["slow"].value, rest["slow"].value))
    np.testing.assert_allclose(cut, rate.value)


def test_a_bounce_between_two_lines_is_not_counted() -> None:
    """The board counted two, and says that the last came 60 µs after the one before."""
    times = 0.1 * np.arange(30)
    count, gap = np.arange(30.0), np.full(30, 0.1)
    count[15:] += 1.0
    gap[15] = 6e-5
    signals = {
        "pulses": Signal.of(times, count, PULSE_COUNT),
        "gap": Signal.of(times, gap, PULSE_GAP),
    }
    forms = {"pulses": "count", "gap": "gap"}
    chain = Pulses().build(PulseParameters(method="period"), ROOM, forms=forms)
    rate, way = chain.apply(signals, "frequency"), chain.apply(signals, "distance")
    np.testing.assert_allclose(rate.value[rate.ok], 10.0, rtol=1e-9)
    assert way.value[-1] == pytest.approx(29 * np.pi * 0.15)


@given(st.floats(1.0, 50.0), st.lists(st.floats(0.8, 1.25), min_size=2, max_size=6))
@example(3.0, [1.0, 1.0, 1.0, 1.0])
@example(3.0, [1.25, 1.0, 1.25, 1.0])
def test_what_is_said_of_a_speed_knows_the_magnets(turns_hz: float, parts: list[float]) -> None:
    """The doubt drawn around a plot is that of readings after the spacing was learnt."""
    shares = tuple(part / sum(parts) for part in parts)
    learnt = Spacing(len(parts), 0.05, shares, (1e-5,) * len(parts))
    parameters = PulseParameters(per_turn=len(parts), method="period")
    doubts = []
    for stages in ({}, {"magnet-spacing": learnt}):
        raw = Pulses().raw_for(turns_hz, parameters, ROOM, stages)
        chain = Pulses().build(parameters, ROOM, stages, forms={"pulses": "gap"})
        count = len(chain.apply(raw, "rpm"))
        step = chain.explain(raw, count - 1, "turns")[-1]
        assert step.value == pytest.approx(turns_hz, rel=1e-6)
        doubts.append(step.u / step.value)
    # Even where all magnets, or some turns of them, are alike.
    assert doubts[1] < 1e-3 < doubts[0]
