"""Echo to distance with status, 10 M samples, against one NumPy multiply of the same array."""

from __future__ import annotations

import numpy as np

from bench.clock import Ratio, compare
from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.signal import Signal

SAMPLES = 10_000_000


def run() -> Ratio:
    rng = np.random.default_rng(1)
    raw = rng.integers(150, 22_000, SAMPLES).astype(np.float64)
    raw[rng.random(SAMPLES) < 0.01] = 0.0
    echo = Signal.of(np.arange(SAMPLES) * 0.05, raw)
    parameters = RangerParameters(mount_m=0.008, median_n=1)
    chain = ranger_chain(parameters, AirConditions(20.0, 0.5))
    return compare(
        "echo → distance with status, 10 M samples",
        lambda: chain.apply(echo),
        "one multiply",
        lambda: raw * 0.000172,
        budget=6.0,
    )
