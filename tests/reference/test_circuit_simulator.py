"""Wirings against Debian's general circuit simulator: volts, currents, and what is told of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pytest
from tests.reference.circuit_simulator import Floats, simulated
from tests.reference.random_wirings import random_wiring

from tickstone.core.electric.network import Network
from tickstone.core.electric.solver import Solution, solve
from tickstone.core.wiring.checks import found_in
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import WiringFinding
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.solved import Island

COUNT, EACH = 520, 40
CLOSE_V, CLOSE, CLOSE_A = 1e-3, 1e-3, 1e-2
HARMLESS_V = 0.02
"""A pin whose protection just begins to conduct is not beyond its limits."""


@dataclass(frozen=True)
class Whole:
    """An island with all protections there are, solved here and by the simulator."""

    island: Island
    network: Network
    ours: Solution


def wholes(circuit: Circuit) -> list[Whole]:
    """Every island of a wiring, each with the protection of every pin on it."""
    found = []
    for island in circuit.solved.islands:
        if not island.free:
            continue
        network = island.network([*island.pieces, *island.clamping])
        found.append(Whole(island, network, solve(network)))
    return found


Judged = list[tuple[int, Circuit, tuple[WiringFinding, ...], list[tuple[Whole, Floats]]]]


@pytest.fixture(scope="module", params=range(0, COUNT, EACH))
def judged(request: pytest.FixtureRequest) -> Judged:
    """Some wirings, with what the simulator says of all their islands in all their states."""
    seeds = range(request.param, request.param + EACH)
    circuits = {seed: Circuit(random_wiring(seed)) for seed in seeds}
    each = {seed: wholes(circuit) for seed, circuit in circuits.items()}
    networks = list({one.network for found in each.values() for one in found})
    answers = dict(zip(networks, simulated(networks), strict=True))
    return [
        (seed, circuit, found_in(circuit), [(one, answers[one.network]) for one in each[seed]])
        for seed, circuit in circuits.items()
    ]


def test_volts_are_those_of_the_simulator(judged: Judged) -> None:
    for seed, _, _, islands in judged:
        for whole, volts in islands:
            assert whole.ours.is_solved.all(), seed
            held = np.abs(whole.ours.impedance_ohm.diagonal(axis1=1, axis2=2)) < 1e9
            free = whole.network.free
            apart = np.abs(volts[:, :free] - whole.ours.usual_v[:, :free])
            allowed = np.maximum(CLOSE_V, CLOSE * np.abs(volts[:, :free]))
            assert (apart <= allowed)[held].all(), (seed, whole.network)


def test_currents_are_those_of_the_simulator(judged: Judged) -> None:
    """Through every resistor, worked out anew from the simulator's volts."""
    for seed, _, _, islands in judged:
        for whole, volts in islands:
            for place, one in enumerate(whole.network.resistors):
                across = volts[:, one.a] - volts[:, one.b]
                conducts = np.array(
                    [
                        one.switch < 0 or state[one.switch] == one.on
                        for state in whole.network.states
                    ]
                )
                theirs = np.where(conducts, across / one.ohm.usual, 0.0)
                ours = whole.ours.usual_a[:, place]
                allowed = np.maximum(CLOSE_A * np.abs(theirs), 2e-6 + 2e-6 / one.ohm.usual)
                assert (np.abs(theirs - ours) <= allowed).all(), (seed, one)


def test_no_pin_leaves_its_limits_in_silence(judged: Judged) -> None:
    for seed, circuit, findings, islands in judged:
        spots = [spot for one in findings if one.severity != "note" for spot in one.spots]
        told = {spot.pin for spot in spots}
        told |= {
            look.pin.name
            for look in circuit.pin_looks
            for spot in spots
            if any(thread.end == (spot.device, spot.lead) for thread in look.threads)
        }
        assert beyond_limits(circuit, islands) <= told, seed


def test_no_pin_well_inside_its_limits_is_said_to_be_destroyed(judged: Judged) -> None:
    for seed, circuit, findings, islands in judged:
        tops = highest_volts(circuit, islands)
        for finding in findings:
            if not finding.id.endswith("-too-high") or finding.id == "low-too-high":
                continue
            for spot in finding.spots:
                pin = circuit.board.pin(spot.pin)
                if pin is None or finding.id == "input-too-high" or spot.pin not in tops:
                    continue
                most = circuit.board.class_of(pin).absolute_max_v.value
                logic = circuit.board.logic_v.value
                assert tops[spot.pin] > min(0.85 * most, logic), (seed, finding.message)


def highest_volts(circuit: Circuit, islands: list[tuple[Whole, Floats]]) -> dict[str, float]:
    """The highest volts of the simulator's at each pin, over all states
    in which anything holds it."""
    found = {}
    for look in circuit.pin_looks:
        for whole, volts in islands:
            if whole.island is look.point.island:
                held = look.point.held_states
                if held:
                    found[look.pin.name] = float(volts[held, look.point.number].max())
    return found


def beyond_limits(circuit: Circuit, islands: list[tuple[Whole, Floats]]) -> set[str]:
    """Pins that by the simulator's volts leave what they bear, in volts or in current."""
    found = set()
    tops = highest_volts(circuit, islands)
    for look in circuit.pin_looks:
        if tops.get(look.pin.name, 0.0) > look.limits.absolute_max_v.value + HARMLESS_V:
            found.add(look.pin.name)
        limit = look.limits.absolute_a
        if limit is None:
            continue
        for whole, volts in islands:
            for piece in whole.island.pieces:
                if piece.owner != Owner("pin", pin=look.pin.name):
                    continue
                a, b = (whole.island.number[net] for net in piece.nets)
                place = whole.island.drivers.index(piece.driver)
                driving = [state[place] == piece.position for state in whole.network.states]
                amps = np.abs(volts[:, a] - volts[:, b]) / piece.span.usual
                if (amps[driving] > limit.value).any():
                    found.add(look.pin.name)
    return found
