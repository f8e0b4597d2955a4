"""Compiled loops: they tell what their Python does, and none is compiled while somebody waits."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from tests.core.inertial_units import BIAS, HZ, chain, ramp

from tickstone.core.chains.six_axis import SixAxisParameters
from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Relay, Rig, simulate
from tickstone.core.control.plants import PLANTS
from tickstone.core.filters import FILTERS, stage_from_words
from tickstone.core.inputs import inputs_of
from tickstone.core.loops import attitude, control, machines, smoothing
from tickstone.core.loops.__main__ import compile_all
from tickstone.core.loops.compiled import Compiled
from tickstone.core.machines.running import Runner
from tickstone.core.machines.starting import STARTING_POINTS
from tickstone.core.signal import Signal

N = 60
LOOPS = {
    f"{module.__name__.rpartition('.')[2]}.{name}": one
    for module in (attitude, smoothing)
    for name, one in vars(module).items()
    if isinstance(one, Compiled)
}


def given(name: str, rng: np.random.Generator) -> tuple[Any, ...]:
    """What a loop is called with: gaps, samples that are none, a state that has begun or not."""
    values, time_s = rng.normal(0.0, 1.0, N), np.cumsum(rng.uniform(0.01, 0.3, N))
    good, told = rng.random(N) > 0.2, rng.random(N) > 0.3
    share = rng.random(N)
    force = rng.normal(0.0, 2.0, (3, N)) + np.array([[0.0], [0.0], [9.8]])
    rate, dt_s = rng.normal(0.0, 1.0, (3, N)), rng.uniform(0.0, 0.1, N)
    quaternion = rng.normal(0.0, 1.0, (4, N))
    quaternion /= np.linalg.norm(quaternion, axis=0)
    begun = rng.random() > 0.5
    value = [rng.normal()] if begun else [np.nan]
    start = [0.2, -0.1, 0.3, 1.0] if begun else [0.0] * 4
    turned = [*quaternion[:, 0].tolist(), 1.0] if begun else [0.0] * 5
    codes = [(rng.random(N) > 0.9).astype(np.uint8) * 7 for _ in range(6)]
    room = (
        np.empty((3, N)), np.empty((3, N)), np.empty(N), np.empty(N, np.bool_),
        np.empty(N, np.bool_), np.empty(N, np.uint8),
    )  # fmt: skip
    calls: dict[str, tuple[Any, ...]] = {
        "smoothing.exponential": (values, good, share, np.array(value)),
        "smoothing.value_kalman": (values, good, 0.1, 0.7, np.array([*value, 0.4, 3.0])),
        "smoothing.speed_kalman": (
            values, good, time_s, 0.1, 0.7, 5.0, np.array([*value, 0.1, 0.4, 0.0, 2.0, 0.0]),
        ),
        "smoothing.slew": (values, good, time_s, 0.8, np.array([*value, 0.0])),
        "smoothing.innovation_sums": (values, 0.1, 0.7, np.zeros(2), np.zeros(N), np.zeros(N)),
        "attitude.made_ready": (
            tuple(force), tuple(codes[:3]), tuple(rate), tuple(codes[3:]), time_s, 9.80665,
            float(rng.choice([0.0, 2.0])), *room,
            np.array([0.0, np.nan, np.nan]) if begun else np.full(3, np.nan),
        ),
        "attitude.complementary": (
            force, rate, dt_s, good, told, share, np.empty((3, N)), np.array(start)
        ),
        "attitude.axis_kalman": (
            force, rate, dt_s, good, told, 1e-2, 1e-3, 0.1, np.empty((3, N)),
            np.array([*start[:2], 0.1, 0.0, 0.1, *start[:2], 0.1, 0.0, 0.1, 0.0, start[3]]),
        ),
        "attitude.sides": (quaternion, np.empty((5, N))),
        "attitude.madgwick": (
            force * told, rate, dt_s, good, 0.1, np.empty((4, N)), np.array(turned)
        ),
        "attitude.mahony": (
            force * told, rate, dt_s, good, 1.0, 0.1, np.empty((4, N)),
            np.array([*turned, 0.01, 0.0, 0.0]),
        ),
    }  # fmt: skip
    return calls[name]


def copied(words: tuple[Any, ...]) -> tuple[Any, ...]:
    return tuple(one.copy() if isinstance(one, np.ndarray) else one for one in words)


def filled(words: tuple[Any, ...]) -> Iterator[np.ndarray]:
    return (one for one in words if isinstance(one, np.ndarray))


@pytest.mark.parametrize("name", LOOPS)
def test_a_loop_tells_what_its_python_does(name: str) -> None:
    """It may round a product and a sum at once, and no more: to 1e-9 after sixty samples."""
    for seed in range(8):
        ours = given(name, np.random.default_rng(seed))
        plain = copied(ours)
        LOOPS[name](*ours)
        LOOPS[name].plain(*plain)
        for compiled, python in zip(filled(ours), filled(plain), strict=True):
            np.testing.assert_allclose(compiled, python, rtol=1e-9, atol=1e-9)


def test_whatever_runs_was_compiled_ahead() -> None:
    """In one way each: a second kind of array would be compiled while somebody waits for it."""
    compile_all()
    before = {name: one.ways for name, one in LOOPS.items()}
    assert min(before.values()) > 0
    signals = ramp()
    for way in next(one for one in inputs_of(SixAxisParameters) if one.name == "fusion").choices:
        made = chain(SixAxisParameters(fusion=str(way.value)), {"rest-bias": BIAS})
        made.apply(signals, "attitude")
        made.explain(signals, 40, "attitude")
        made.apply({name: one.between(3, 200) for name, one in signals.items()}, "vibration")
    walk = Signal.of(np.arange(300) / HZ, np.random.default_rng(1).normal(0.0, 1.0, (300,)))
    for name in FILTERS:
        stage = stage_from_words(name)
        assert stage is not None
        state = stage.begin()
        for part in (walk, walk.between(10, 11), walk.between(20, 90)):
            _, state = stage.run(state, part)
    assert {name: one.ways for name, one in LOOPS.items()} == before


def test_decisions_and_loops_were_compiled_ahead() -> None:
    compile_all()
    loops = (machines.crossings, machines.run_machine, control.closed_loop)
    before = [one.ways for one in loops]
    assert min(before) > 0
    for point in STARTING_POINTS.values():
        machine = point.machine()
        walk = {one.name: Signal.of(np.arange(40) / 10, np.ones(40)) for one in machine.inputs}
        runner = Runner(machine)
        runner.replay(walk)
        runner.run(runner.begin(), {n: one.between(3, 9) for n, one in walk.items()}, 2.0)
    for kind in PLANTS.values():
        plant = kind.plant(kind.parameters())
        simulate(plant, Controller(whole_numbers=True), Rig(noise_u=0.1, zeros=5.0, lasts_s=2.0))
        simulate(plant, Controller(), Rig(lasts_s=2.0), relay=Relay(1.0, 0.1))
    assert [one.ways for one in loops] == before
