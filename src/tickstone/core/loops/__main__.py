"""Compiles every loop ahead, so that nobody waits for the first use of one."""

from __future__ import annotations

import numpy as np

from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Rig, simulate
from tickstone.core.control.plant import Plant
from tickstone.core.loops import attitude, smoothing
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import Runner
from tickstone.core.signal import Signal

_N = 4


def compile_all() -> None:
    """Call each loop once with what it is called with."""
    good = np.ones(_N, dtype=np.bool_)
    one, three = np.zeros(_N), np.zeros((3, _N))
    smoothing.exponential(one.copy(), good, one, np.array([np.nan]))
    smoothing.value_kalman(one.copy(), good, 1.0, 1.0, np.array([np.nan, 0.0, 0.0]))
    state = np.array([np.nan, 0.0, 0.0, 0.0, 0.0, 0.0])
    smoothing.speed_kalman(one.copy(), good, one, 1.0, 1.0, 1.0, state)
    smoothing.slew(one.copy(), good, one, 1.0, np.array([np.nan, 0.0]))
    smoothing.innovation_sums(one, 1.0, 1.0, np.zeros(2), one.copy(), one.copy())
    codes = np.zeros(_N, dtype=np.uint8)
    attitude.made_ready(
        (one,) * 3, (codes,) * 3, (one,) * 3, (codes,) * 3, one, 1.0, 1.0, three.copy(),
        three.copy(), one.copy(), good.copy(), good.copy(), codes.copy(), np.zeros(3),
    )  # fmt: skip
    out = np.empty((3, _N))
    attitude.complementary(three, three, one, good, good, one, out, np.zeros(4))
    attitude.axis_kalman(three, three, one, good, good, 1.0, 1.0, 1.0, out, np.zeros(12))
    out = np.empty((4, _N))
    attitude.sides(out, np.empty((5, _N)))
    attitude.madgwick(three, three, one, good, 1.0, out, np.zeros(5))
    attitude.mahony(three, three, one, good, 1.0, 1.0, out, np.zeros(8))
    machine = Machine.of(
        {
            "inputs": [{"name": "x"}],
            "states": [{"name": "a"}, {"name": "b"}],
            "transitions": [{"leaves": "a", "to": "b", "when": "x > 1"}],
        }
    )
    Runner(machine).replay({"x": Signal.of([0.0, 1.0], [0.0, 2.0])})
    simulate(Plant(1.0, 1.0, 0.1), Controller(), Rig(lasts_s=0.5))


if __name__ == "__main__":
    compile_all()
