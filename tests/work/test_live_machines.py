"""Rules on an open line: however often one looks, and what is said when one looked too late."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.echo_ranger import EchoRanger, RangerParameters
from tickstone.core.chains.kind import ChainKind
from tickstone.core.chains.pulses import PulseParameters, Pulses
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import AT_START, Runner
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.machines import LiveMachine
from tickstone.work.live.ring import Ring
from tickstone.work.sensing import Sensing
from tickstone.work.sources import RoleSource

EVERY_US = 50_000
AIR = Surroundings(AirConditions(20.0))


def two(kind: ChainKind, parameters: object, form: str, *names: str) -> dict[str, LiveSensor]:
    """Two sensors of a kind, a channel each."""
    sensing = Sensing(kind, parameters, AIR, forms={kind.roles[0].name: form})
    one = next(one for one in kind.roles[0].forms if one.name == form)
    return {
        name: LiveSensor(n + 1, sensing, (RoleSource(kind.roles[0].name, one, (n,), (1.0,)),))
        for n, name in enumerate(names)
    }


RANGERS = two(EchoRanger(), RangerParameters(median_n=3), "time", "front", "left")
WHEELS = two(Pulses(), PulseParameters(method="gate", gate_s=0.25), "count", "rear", "fore")


def stopping() -> Machine:
    """Stops for the nearer of two rangers, turns while both are blind."""
    own = {"output": "distance", "longest_s": 0.5}
    return Machine.of(
        {
            "inputs": [
                {"name": "front", "sensor": "1", **own},
                {"name": "left", "sensor": "2", **own},
                {"name": "near", "together": "nearest", "of": ["front", "left"], "longest_s": 0.5},
            ],
            "states": [{"name": "go"}, {"name": "stop"}, {"name": "turn"}],
            "transitions": [
                {"leaves": "go", "to": "stop", "when": "near < 0.4", "for_s": 0.1},
                {"leaves": "stop", "to": "go", "when": "front > 0.6 and left > 0.6"},
                {"leaves": "any", "to": "turn", "when": "near says not ok", "for_s": 0.4},
                {"leaves": "turn", "to": "go", "when": "near > 0.5"},
            ],
            "when_blind": {"how": "hold", "hold_s": None},
        }
    )


def slipping() -> Machine:
    """Eases when the faster of two wheels runs away; each speaks at its own times."""
    own = {"output": "frequency", "longest_s": 0.6}
    return Machine.of(
        {
            "inputs": [
                {"name": "rear", "sensor": "1", **own},
                {"name": "fore", "sensor": "2", **own},
                {"name": "fast", "together": "farthest", "of": ["rear", "fore"], "longest_s": 0.6},
            ],
            "states": [{"name": "drive"}, {"name": "ease"}],
            "transitions": [
                {"leaves": "drive", "to": "ease", "when": "fast > 8", "for_s": 0.1},
                {"leaves": "ease", "to": "drive", "when": "fast < 6 or fast says not ok"},
            ],
            "when_blind": {"how": "last", "hold_s": 0.3},
        }
    )


def heard(ring: Ring, rows: Sequence[Sequence[int]], start: int = 0) -> None:
    """Rows of a line: an echo in µs of each ranger (0 for none), or a count of each wheel."""
    times = (start + np.arange(len(rows))) * EVERY_US
    ring.append(times, times, np.array(rows, float).T, np.zeros((2, len(rows)), np.uint8))


def pairs(*values: int) -> st.SearchStrategy[list[tuple[int, int]]]:
    return st.lists(st.tuples(*2 * [st.sampled_from(values)]), min_size=2, max_size=60)


def judged_often_and_once(
    machine: Machine, sensors: dict[str, LiveSensor], rows: Sequence[Sequence[int]], cuts: list[int]
) -> None:
    ring, often = Ring(2), LiveMachine(machine, sensors)
    for first, last in zip([0, *cuts], [*cuts, len(rows)], strict=True):
        heard(ring, rows[first:last], first)
        often.advance(ring)
    once = LiveMachine(machine, sensors)
    once.advance(ring)
    assert list(often.visits) == list(once.visits)
    assert often.restarts == once.restarts == 0
    # And the same as over the recording that is made of it.
    values = np.array(rows, float).T
    times = np.arange(len(rows)) * EVERY_US / 1e6
    whole = {}
    for n, one in enumerate(machine.inputs[:2]):
        chain = sensors[one.name].sensing.chain()
        heard_whole = {
            sensors[one.name].roles[0].role: Signal.of(times, values[n], until_s=times[-1])
        }
        results, _ = chain.run(chain.begin(), heard_whole)
        whole[one.name] = results[dict(chain.outputs)[one.output]]
    replayed = Runner(machine).replay(whole, start_s=0.0)
    assert [one.state for one in once.visits] == replayed.state.tolist()
    np.testing.assert_allclose([one.from_s for one in once.visits], replayed.from_s)


@settings(max_examples=60, deadline=None)
@given(pairs(0, 0, 1_500, 2_200, 2_900, 3_600, 9_000), st.data())
def test_however_often_one_looks_at_rangers_it_decides_the_same(
    echoes: list[tuple[int, int]], data: st.DataObject
) -> None:
    cuts = sorted(data.draw(st.sets(st.integers(1, len(echoes) - 1))))
    judged_often_and_once(stopping(), RANGERS, echoes, cuts)


@settings(max_examples=60, deadline=None)
@given(pairs(0, 0, 0, 0, 1, 1, 2), st.data())
def test_however_often_one_looks_at_wheels_it_decides_the_same(
    pulses: list[tuple[int, int]], data: st.DataObject
) -> None:
    counts = np.cumsum(pulses, axis=0).tolist()
    cuts = sorted(data.draw(st.sets(st.integers(1, len(pulses) - 1))))
    judged_often_and_once(slipping(), WHEELS, counts, cuts)


def test_who_looked_too_late_is_told_that_it_began_anew() -> None:
    ring, live = Ring(2, capacity=50), LiveMachine(stopping(), RANGERS)
    heard(ring, [(1_500, 9_000)] * 20)
    live.advance(ring)
    assert [live.machine.states[one.state].name for one in live.visits] == ["go", "stop"]
    assert live.visits[-1].by == ("near by front",)
    # Half of what came is gone; where it stood before says nothing about now.
    heard(ring, [(9_000, 9_000)] * 50, 20)
    heard(ring, [(9_000, 9_000)] * 20, 70)
    live.advance(ring)
    assert live.restarts == 1
    assert live.visits[-1].cause == AT_START
    assert live.machine.states[live.state].name == "go"
    assert live.visits[-1].from_s == 40 * EVERY_US / 1e6
    heard(ring, [(9_000, 1_500)] * 20, 90)
    live.advance(ring)
    assert live.restarts == 1
    assert live.visits[-1].by == ("near by left",)


def test_of_an_input_the_line_says_nothing_of_nothing_is_decided() -> None:
    ring, live = Ring(2), LiveMachine(stopping(), {"front": RANGERS["front"]})
    heard(ring, [(1_500, 0)] * 20)
    live.advance(ring)
    assert live.unheard == ["left"]
    assert list(live.visits) == []
    assert live.sights() == []
