"""Filters and orientation: a stage against its bare loop, and against a reference in Python."""

from __future__ import annotations

import subprocess
import sys
import time
from dataclasses import replace

import numpy as np
from ahrs.filters import Madgwick as ReferenceMadgwick

from bench.clock import Ratio, compare
from tickstone.core.allan import overlapping
from tickstone.core.attitude import angles_of
from tickstone.core.chain import Chain, ChainInput, Node
from tickstone.core.loops.attitude import madgwick
from tickstone.core.loops.smoothing import value_kalman
from tickstone.core.quantity import FORCE, ROTATION
from tickstone.core.signal import Signal
from tickstone.core.stages.madgwick import Madgwick
from tickstone.core.stages.value_kalman import ValueKalman

KALMAN_SAMPLES = 10_000_000
ATTITUDES = 1_000_000
BY_REFERENCE = 2_000
FIRST = """
import time, numpy as np
from tickstone.core.signal import Signal
from tickstone.core.stages.value_kalman import ValueKalman
signal = Signal.of(np.arange(10.0), np.zeros(10))
began = time.perf_counter()
ValueKalman(1.0, 1.0).run((), signal)
print(time.perf_counter() - began)
"""


def run() -> str:
    return "\n".join(str(one) for one in (_kalman(), *_orientation(), _allan(), _first()))


def _kalman() -> Ratio:
    rng = np.random.default_rng(1)
    values = rng.normal(size=KALMAN_SAMPLES)
    signal = Signal.of(np.arange(KALMAN_SAMPLES) * 0.001, values)
    stage = ValueKalman(1e-3, 4e-2)
    good = np.ones(KALMAN_SAMPLES, dtype=np.bool_)

    def bare() -> None:
        value_kalman(values.copy(), good, 1e-3, 4e-2, np.array([np.nan, 0.0, 0.0]))

    return compare(
        "scalar Kalman, 10 M samples", lambda: stage.run((), signal), "the bare loop", bare, 1.5, 5
    )


def _orientation() -> tuple[Ratio, Ratio]:
    rng = np.random.default_rng(2)
    force = rng.normal(0, 0.2, (3, ATTITUDES)) + np.array([[0.0], [0.0], [9.8]])
    rate = rng.normal(0, 0.1, (3, ATTITUDES))
    time_s = np.arange(ATTITUDES) * 0.01
    signals = {"force": Signal.of(time_s, force, FORCE), "rate": Signal.of(time_s, rate, ROTATION)}
    inputs = tuple(ChainInput(name, one.quantity) for name, one in signals.items())
    stage = Madgwick(0.033)
    node = Node("attitude", stage, ("@force", "@rate"))
    chain = Chain(inputs, (node,), (("attitude", "attitude"),))
    good, dt_s = np.ones(ATTITUDES, dtype=np.bool_), np.full(ATTITUDES, 0.01)
    out = np.empty((4, ATTITUDES))

    def bare() -> None:
        madgwick(force, rate, dt_s, good, 0.033, out, np.zeros(5))
        angles_of(out)

    def reference() -> None:
        ReferenceMadgwick(gyr=rate[:, :BY_REFERENCE].T, acc=force[:, :BY_REFERENCE].T)

    loop = compare(
        "orientation, 1 M samples",
        lambda: chain.fold(signals, "attitude"), "the bare loop", bare, 3.0, 5,
    )  # fmt: skip
    each = compare(
        "the same by itself",
        lambda: stage.run(stage.begin(), signals["force"], signals["rate"]),
        "a thousandth of a reference in Python", reference, 1.0, 7,
    )  # fmt: skip
    # The reference is too slow for as many: what a thousandth of it would take.
    return loop, replace(each, floor_s=each.floor_s / BY_REFERENCE * ATTITUDES / 1000.0)


def _allan() -> Ratio:
    values = np.random.default_rng(3).normal(size=1_000_000)
    began = time.perf_counter()
    overlapping(values, 0.01)
    return Ratio("Allan deviation of 1 M", "a second", time.perf_counter() - began, 1.0, 1.0)


def _first() -> Ratio:
    """In a process of its own, as somebody meets it; compiled ahead by the setup."""
    told = subprocess.run(
        [sys.executable, "-c", FIRST], capture_output=True, text=True, check=True
    ).stdout
    return Ratio("first use of a compiled loop", "a second", float(told), 1.0, 1.0)


if __name__ == "__main__":
    print(run())
