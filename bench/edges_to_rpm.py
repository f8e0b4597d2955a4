"""Edges to turns a minute with bounce, missed pulses and slow told, 10 M of them."""

from __future__ import annotations

import numpy as np

from bench.clock import Ratio, compare
from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.pulses import EDGE, PulseParameters, Pulses
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings

EDGES = 10_000_000


def run(method: str = "period") -> Ratio:
    rng = np.random.default_rng(1)
    gaps = rng.normal(0.01, 0.0002, EDGES)
    gaps[rng.random(EDGES) < 0.002] = 0.0002
    gaps[rng.random(EDGES) < 0.002] *= 2.0
    times = np.cumsum(gaps)
    edges = Signal.of(times, np.ones(EDGES), EDGE)
    chain = Pulses().build(
        PulseParameters(method=method), Surroundings(AirConditions(20.0)), forms={"pulses": "edges"}
    )
    return compare(
        f"edges → turns a minute by {method}, 10 M edges",
        lambda: chain.apply(edges, "rpm"),
        "np.diff",
        lambda: np.diff(times),
        budget=10.0,
        rounds=5,
    )


if __name__ == "__main__":
    print(run())
    print(run("auto"))
