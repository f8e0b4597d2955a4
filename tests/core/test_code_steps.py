"""Two channels and three: a decoder and a commutation table worked out by hand, and any walk."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.commutation import Commutation, CommutationParameters
from tickstone.core.chains.pulses import LEVEL as PULSE_LEVEL
from tickstone.core.chains.pulses import PulseParameters, Pulses
from tickstone.core.chains.quadrature import LEVELS, Quadrature, QuadratureParameters
from tickstone.core.digests.placement import Placement
from tickstone.core.signal import Signal
from tickstone.core.stages.code_steps import (
    COMMUTATION_60,
    COMMUTATION_120,
    QUADRATURE,
    CodeSteps,
    places_of,
)
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

HERE = Surroundings(AirConditions(20.0))


def steps_of(codes: list[int], cycle: tuple[int, ...] = QUADRATURE, each: int = 1) -> Signal:
    """A second from one code to the next."""
    channels = 2 if cycle == QUADRATURE else 3
    levels = [[code >> n & 1 for code in codes] for n in range(channels)]
    signal = Signal.of(np.arange(len(codes)), levels, LEVELS.in_lanes(*"ABC"[:channels]))
    stage = CodeSteps(cycle, each, False, True, 0.0)
    return stage.run(stage.begin(), signal)[0]


BY_HAND = {
    (0, 1): 1,
    (1, 3): 1,
    (3, 2): 1,
    (2, 0): 1,
    (1, 0): -1,
    (3, 1): -1,
    (2, 3): -1,
    (0, 2): -1,
}
"""The decoder's table: from BA to BA. Every other change is two edges at once."""


@pytest.mark.parametrize("before", range(4))
@pytest.mark.parametrize("after", range(4))
def test_the_decoder_by_hand(before: int, after: int) -> None:
    found = steps_of([before, after])
    if before == after:
        assert len(found) == 0
    elif (before, after) in BY_HAND:
        assert found.values[1].tolist() == [BY_HAND[before, after]]
    else:
        assert found.flag.tolist() == [Status.SKIPPED_STEP]


def test_the_commutation_table_by_hand() -> None:
    """A, B, C at 30°, 90°, … of an electrical turn; each is high for 180° from its own rise on."""
    for cycle, apart in ((COMMUTATION_120, 120), (COMMUTATION_60, 60)):
        by_hand = tuple(
            sum(1 << n for n in range(3) if (angle - n * apart) % 360 < 180)
            for angle in range(30, 360, 60)
        )
        assert cycle == by_hand
        cannot_be = set(range(8)) - set(cycle)
        assert (places_of(cycle, 3) < 0).nonzero()[0].tolist() == sorted(cannot_be)
    assert set(range(8)) - set(COMMUTATION_120) == {0b000, 0b111}


@pytest.mark.parametrize(("counts", "a_line"), [("four", 4), ("two", 2), ("one", 1)])
@given(walk=st.lists(st.sampled_from([1, -1]), max_size=60), first=st.integers(0, 3))
def test_every_way_of_counting_ends_up_where_it_is(
    counts: str, a_line: int, walk: list[int], first: int
) -> None:
    """To the line it stands in, however it got there: nothing creeps."""
    position = first + np.concatenate(([0], np.cumsum(walk))).astype(int)
    found = steps_of([QUADRATURE[p % 4] for p in position], each=4 // a_line)
    count = found.values[1, -1] if len(found) else 0.0
    assert abs(count - (position[-1] - first) * a_line / 4) < 1.0
    there_and_back = np.concatenate((position, position[-2::-1]))
    again = steps_of([QUADRATURE[p % 4] for p in there_and_back], each=4 // a_line)
    assert len(again) == 0 or again.values[1, -1] == 0.0


def test_a_trembling_edge_is_no_speed() -> None:
    found = steps_of([0, 1, 3, 1, 3, 1, 3])
    assert found.flag.tolist()[2:] == [Status.REVERSED] * 4
    assert np.isnan(found.value[2:]).all()


def test_counting_one_a_line_leaves_no_ripple() -> None:
    """Channels a fifth and not a quarter apart: every edge ripples, A's rising does not."""
    turns = np.arange(200)
    edges = sorted(
        (turn + at, code) for turn in turns for at, code in ((0.0, 1), (0.2, 3), (0.5, 2), (0.7, 0))
    )
    times = np.array([at for at, _ in edges]) * 0.01
    codes = np.array([code for _, code in edges])
    signal = Signal.of(times, [codes & 1, codes >> 1], LEVELS.in_lanes("A", "B"))
    ripple = {}
    for counts in ("four", "one"):
        parameters = QuadratureParameters(counts=counts, method="period", lines=20)
        chain = Quadrature().build(parameters, HERE, forms={"channels": "changes"})
        turned = chain.apply(signal, "rpm")
        good = turned.value[turned.ok]
        assert np.median(good) == pytest.approx(5.0, rel=0.3)
        ripple[counts] = float(np.ptp(good)) / 5.0
    assert ripple["one"] < 1e-9 < 0.3 < ripple["four"]


def motor(
    turns: float, pairs: int, off_deg: tuple[float, ...], way: int = 1, kind: str = "120"
) -> Signal:
    """Three switches on a steady motor, one turn a second, written down at every change.

    off_deg: of each switch, electrical. A magnet ring that is itself uneven by ± 2°.
    """
    rng = np.random.default_rng(7)
    apart = 120.0 if kind == "120" else 60.0
    wander = np.concatenate(([0.0], rng.uniform(-2.0, 2.0, 2 * pairs - 1)))
    changes = []
    for channel, off in enumerate(off_deg):
        for half in range(int(2 * pairs * turns)):
            angle = 180.0 * half + apart * channel + off + wander[half % (2 * pairs)]
            changes.append((way * angle, channel, half % 2 == 0))
    changes.sort()
    level = [0, 0, 0]
    for _, channel, rises in reversed(changes):
        level[channel] = int(not rises) if way > 0 else int(rises)
    rows = []
    for angle, channel, rises in changes:
        level[channel] = int(rises) if way > 0 else int(not rises)
        rows.append((angle / 360.0 / pairs, *level))
    table = np.array(rows)
    return Signal.of(
        table[:, 0] - table[0, 0], table[:, 1:].T, Commutation.roles[0].forms[1].quantity
    )


@pytest.mark.parametrize("way", [1, -1])
@pytest.mark.parametrize("kind", ["120", "60"])
def test_the_place_of_every_switch(way: int, kind: str) -> None:
    pairs, off = 7, (0.0, 8.0, -5.0)
    parameters = CommutationParameters(
        pole_pairs=pairs, spacing=kind, radius_m=0.02, counts="round"
    )
    chain = Commutation().build(parameters, HERE, forms={"channels": "changes"})
    signal = motor(20.0, pairs, off, way, kind)
    turned = chain.apply(signal, "rpm")
    # Not where the three have not all been heard yet, or some were already.
    middle = turned.ok & (turned.time_s > 2.0) & (turned.time_s < 18.0)
    assert np.median(turned.value[middle]) == pytest.approx(way, rel=0.03)
    end_s = float(signal.time_s[-1])
    figures = Placement().figures(
        {"state": chain.apply(signal, "state")}, 0.5, end_s - 0.5, lambda *_: 0.0, parameters
    )
    told = {one.name: one for one in figures}
    assert told["illegal"].value == 0.0
    assert told["forward" if way > 0 else "backward"].value > 700
    for switch, error in zip("abc", off, strict=True):
        expected = error - np.mean(off)
        assert told[f"{switch}_electrical"].value == pytest.approx(expected, abs=0.2)
        assert told[f"{switch}_mechanical"].value == pytest.approx(expected / pairs, abs=0.03)
        arc = np.radians(expected / pairs) * 0.02
        assert told[f"{switch}_arc"].value == pytest.approx(arc, abs=2e-5)


def test_a_dead_switch_is_seen() -> None:
    signal = motor(6.0, 4, (0.0, 0.0, 0.0))
    dead = signal.replaced(np.stack([signal.values[0], signal.values[1], np.zeros(len(signal))]))
    parameters = CommutationParameters(pole_pairs=4)
    chain = Commutation().build(parameters, HERE, forms={"channels": "changes"})
    found = Commutation().findings(parameters, HERE, chain.apply(dead, "rpm"))
    assert any("never can" in one.title or "not seen" in one.title for one in found)
    figures = Placement().figures(
        {"state": chain.apply(dead, "state")}, 0.0, 6.0, lambda *_: 0.0, parameters
    )
    told = {one.name: one.value for one in figures}
    assert told["illegal"] > 0.0
    assert np.isnan(told["a_electrical"])


def test_a_gap_in_the_line_is_no_turning() -> None:
    """Levels read ten times a second, then nothing for three seconds: what passed is not known."""
    times = np.concatenate((np.arange(0.0, 2.0, 0.1), np.arange(5.0, 7.0, 0.1)))
    pulses = Signal.of(times, np.arange(len(times)) // 2 % 2, PULSE_LEVEL)
    one = Pulses().build(PulseParameters(method="period"), HERE, forms={"pulses": "level"})
    codes = np.array([QUADRATURE[n % 4] for n in range(len(times))])
    levels = Signal.of(times, [codes & 1, codes >> 1], LEVELS.in_lanes("A", "B"))
    two = Quadrature().build(
        QuadratureParameters(method="period"), HERE, forms={"channels": "level"}
    )
    for chain, signal in ((one, pulses), (two, levels)):
        rate = chain.apply(signal, "frequency")
        across = rate.time_s[rate.flag == Status.LINE_GAP]
        assert ((across >= 5.0) & (across < 5.5)).all()
        assert len(across) == 1
        # Nothing good is told of the time in which nothing came.
        assert rate.value[rate.ok].min() > 2.0


@pytest.mark.parametrize(("sit", "set_to"), [("120", "60"), ("60", "120")])
def test_the_other_spacing_is_asked_for(sit: str, set_to: str) -> None:
    signal = motor(6.0, 4, (0.0, 0.0, 0.0), kind=sit)
    for spacing in ("60", "120"):
        parameters = CommutationParameters(pole_pairs=4, spacing=spacing, method="period")
        chain = Commutation().build(parameters, HERE, forms={"channels": "changes"})
        found = Commutation().findings(parameters, HERE, chain.apply(signal, "rpm"))
        asked = any(f"sit {sit}° apart" in one.title for one in found)
        assert asked == (spacing == set_to)
