"""The solver by what has to hold of any network: Kirchhoff, worst corners, and known circuits."""

from __future__ import annotations

from dataclasses import replace
from math import exp, log
from random import Random

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tickstone.core.electric.network import (
    THERMAL_V,
    Bipolar,
    Junction,
    Load,
    Mosfet,
    Network,
    Resistor,
    Span,
    exact,
    within,
)
from tickstone.core.electric.solver import _Corners, solve

LAMP = Junction(2.0, 0.01, 2.0 / 0.7, 2.0, 0.1)


@st.composite
def networks(draw: st.DrawFn, most_free: int = 4, bent: bool = True) -> Network:
    """Free nodes and two or three held ones, with resistors, and diodes and loads where bent."""
    free = draw(st.integers(1, most_free))
    volts = draw(st.lists(st.sampled_from([3.3, 5.0, 6.4, 9.0]), min_size=1, max_size=2))
    fixed = (exact(0.0), *(within(one, 0.05) for one in volts))
    nodes = free + len(fixed)
    pairs = st.tuples(st.integers(0, nodes - 1), st.integers(0, nodes - 1)).filter(
        lambda pair: pair[0] != pair[1]
    )
    ohms = st.sampled_from([22.0, 330.0, 1e3, 4.7e3, 1e5])
    resistors = [
        Resistor(a, b, within(draw(ohms), draw(st.sampled_from([0.01, 0.05, 0.2]))))
        for a, b in draw(st.lists(pairs, min_size=free, max_size=free + 4))
    ]
    # Every node is held by something, if weakly.
    resistors += [Resistor(node, free, within(47e3, 0.05)) for node in range(free)]
    diodes = [LAMP.between(a, b) for a, b in draw(st.lists(pairs, max_size=2))] if bent else []
    loads = (
        [Load(a, free, within(2e-3, 0.3), 3.0) for a, _ in draw(st.lists(pairs, max_size=1))]
        if bent
        else []
    )
    loads = [one for one in loads if one.a != one.b]
    return Network(
        free, fixed, resistors=tuple(resistors), diodes=tuple(diodes), loads=tuple(loads)
    )


@settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow])
@given(networks())
def test_what_flows_into_a_node_flows_out(network: Network) -> None:
    found = solve(network)
    assert found.is_solved.all()
    piled = found.usual_a @ network.incidence
    scale = np.abs(found.usual_a).max(initial=1e-6)
    assert np.abs(piled[:, : network.free]).max() <= 1e-6 * scale + 1e-9


@settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow])
@given(networks(), st.integers(0, 10_000))
def test_no_draw_within_the_tolerances_leaves_the_corners(network: Network, seed: int) -> None:
    chance, found = Random(seed), solve(network)
    for _ in range(12):
        drawn = solve(drawn_within(network, chance))
        slack = 1e-6 + 1e-4 * np.abs(found.high_v)
        assert (drawn.usual_v <= found.high_v + slack).all()
        assert (drawn.usual_v >= found.low_v - slack).all()
        slack = 1e-9 + 1e-3 * np.maximum(np.abs(found.high_a), np.abs(found.low_a))
        assert (drawn.usual_a <= found.high_a + slack).all()
        assert (drawn.usual_a >= found.low_a - slack).all()


def drawn_within(network: Network, chance: Random) -> Network:
    """The same with every figure somewhere in its tolerance, mostly at an end."""

    def drawn(span: Span) -> Span:
        share = chance.choice([0.0, 1.0, chance.random()])
        return exact(span.low + share * (span.high - span.low))

    return network._replace(
        fixed=tuple(drawn(one) for one in network.fixed),
        resistors=tuple(one._replace(ohm=drawn(one.ohm)) for one in network.resistors),
        diodes=tuple(one._replace(saturation_a=drawn(one.saturation_a)) for one in network.diodes),
        loads=tuple(one._replace(amps=drawn(one.amps)) for one in network.loads),
    )


@settings(max_examples=40)
@given(networks(bent=False))
def test_a_straight_network_is_linear_in_its_sources(network: Network) -> None:
    twice = network._replace(fixed=tuple(Span(2 * a, 2 * b, 2 * c) for a, b, c in network.fixed))
    assert solve(twice).usual_v == pytest.approx(2.0 * solve(network).usual_v, abs=1e-9)


@settings(max_examples=40)
@given(networks(bent=False))
def test_the_impedance_is_what_one_ampere_more_does(network: Network) -> None:
    """A source of 1 mV behind a megohm at a node: the node moves by its share."""
    found = solve(network)
    behind = found.impedance_ohm[0, 0, 0]
    held = len(network.fixed) + network.free
    pushed = network._replace(
        fixed=(*network.fixed, exact(1e3)),
        resistors=(*network.resistors, Resistor(held, 0, exact(1e9))),
    )
    moved = solve(pushed).usual_v[0, 0] - found.usual_v[0, 0]
    assert moved == pytest.approx((1e3 - found.usual_v[0, 0]) / (1e9 + behind) * behind, rel=1e-3)


@pytest.mark.parametrize("ohm", [100.0, 220.0, 1_000.0, 10_000.0])
def test_an_led_with_its_resistor(ohm: float) -> None:
    """Solved by bisection on the current, another way."""
    network = Network(
        1, (exact(5.0), exact(0.0)), resistors=(Resistor(1, 0, exact(ohm)),),
        diodes=(replace(LAMP, tolerance=0.0).between(0, 2),),
    )  # fmt: skip
    saturation = network.diodes[0].saturation_a.usual
    low, high = 0.0, 5.0 / ohm
    for _ in range(200):
        amps = (low + high) / 2.0
        across = LAMP.emission * THERMAL_V * log(amps / saturation + 1.0) + amps * LAMP.ohm
        low, high = (amps, high) if across + amps * ohm < 5.0 else (low, amps)
    assert solve(network).usual_a[0, 0] == pytest.approx(amps, rel=1e-6)


def test_the_forward_volts_stated_are_there_at_the_current_stated() -> None:
    saturation = replace(LAMP, tolerance=0.0).between(0, 1).saturation_a.usual
    inner = LAMP.forward_v - LAMP.at_a * LAMP.ohm
    assert saturation * (exp(inner / (LAMP.emission * THERMAL_V)) - 1.0) == pytest.approx(0.01)


def test_a_transistor_passes_its_gain_until_it_is_full() -> None:
    def collector(base_ohm: float) -> tuple[float, float]:
        found = solve(
            Network(
                2,
                (exact(5.0), exact(0.0)),
                resistors=(Resistor(2, 0, exact(base_ohm)), Resistor(2, 1, exact(1_000.0))),
                bipolars=(Bipolar(0, 1, 3, 1e-14, exact(100.0), 4.0),),
            )
        )
        return float(found.usual_a[0, 0]), float(found.usual_a[0, 1])

    base, amps = collector(1e6)
    assert amps == pytest.approx(100.0 * base, rel=1e-3)
    _, amps = collector(1e3)
    assert amps == pytest.approx(5.0 / 1_000.0, rel=0.02)


@pytest.mark.parametrize(("gate", "amps"), [(0.0, 0.0), (1.0, 0.0), (2.0, 0.25)])
def test_a_mosfet_by_the_square_law(gate: float, amps: float) -> None:
    """k/2·(V_GS − V_th)²: 0.5 A/V² · ½ · 1 V²."""
    network = Network(
        0, (exact(gate), exact(5.0), exact(0.0)), mosfets=(Mosfet(0, 1, 2, exact(1.0), 0.5),)
    )
    assert solve(network).usual_a[0, 0] == pytest.approx(amps, abs=1e-12)


def test_nodes_nobody_holds_and_parts_that_go_in_a_ring() -> None:
    ring = Network(
        3,
        (exact(0.0),),
        resistors=tuple(Resistor(a, (a + 1) % 3, within(1e3, 0.05)) for a in range(3)),
    )
    found = solve(ring)
    assert found.is_solved.all()
    assert np.abs(found.usual_v).max() == 0.0
    assert found.impedance_ohm[0, 0, 0] > 1e11


@settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
@given(networks(bent=False))
def test_what_is_too_large_to_search_is_no_better_than_its_slopes_say(network: Network) -> None:
    """The span from the slopes holds the one that was searched, and is not much wider."""
    searched = solve(network)
    corners = _Corners(network)
    with np.errstate(all="ignore"):
        rough = corners._by_slopes(
            corners._solved(np.zeros((1, corners.states, len(corners.loose))).astype(np.int8))
        )
    assert rough.usual_v == pytest.approx(searched.usual_v)
    span = np.maximum(searched.high_v - searched.low_v, 1e-9)
    # A tolerance of a fifth bends more than the tenth that is added for it: where two such follow
    # on each other by up to 1.2²/1.1 of half the span.
    slack = 0.16 * span + 1e-6
    assert (rough.low_v <= searched.low_v + slack).all()
    assert (rough.high_v >= searched.high_v - slack).all()
    assert (rough.high_v - rough.low_v <= 1.5 * span + 1e-6).all()


def test_hundreds_of_parts_among_dozens_of_nets_stay_within_reason() -> None:
    """Random resistors between many driven nets: solved in a bounded stack, not in gigabytes."""
    chance = Random(3)
    nets, fixed = 60, (exact(0.0), within(5.0, 0.05))
    resistors = [
        Resistor(chance.randrange(nets), chance.choice((nets, nets + 1)), within(1_000.0 + n, 0.05))
        for n in range(400)
    ]
    resistors += [Resistor(n, n + 1, within(470.0, 0.05)) for n in range(nets - 1)]
    found = solve(Network(nets, fixed, resistors=tuple(resistors)))
    assert found.is_solved.all()
    assert (found.low_v[:, :nets] < found.usual_v[:, :nets]).all()
    assert (found.high_v[:, :nets] < 5.3).all()
