"""16 sensors × 1 M samples to states and the place of the line, against a multiply of the same."""

from __future__ import annotations

import numpy as np

from bench.clock import Ratio, compare
from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.reflectance import Reflectance, ReflectanceParameters
from tickstone.core.line_row import Row, even_places_m
from tickstone.core.quantity import COUNTS
from tickstone.core.signal import Signal
from tickstone.core.stages.lightness import Lightness, Surfaces
from tickstone.core.surroundings import Surroundings

SENSORS = 16
SAMPLES = 1_000_000


def run() -> Ratio:
    rng = np.random.default_rng(1)
    row = Row(even_places_m(SENSORS, 0.008), 0.019, 0.006)
    line_m = 0.05 * np.sin(np.arange(SAMPLES) * 0.002)
    counts = np.rint(200.0 + 600.0 * row.covered(line_m) + rng.normal(0, 4, (SENSORS, SAMPLES)))
    names = [str(n + 1) for n in range(SENSORS)]
    signal = Signal.of(np.arange(SAMPLES) * 0.001, counts, COUNTS.in_lanes(*names))
    known = Lightness((Surfaces(800.0, 200.0, 4.0, 4.0),) * SENSORS)
    chain = Reflectance().build(
        ReflectanceParameters(pitch_m=0.008),
        Surroundings(AirConditions(20.0)),
        {"black-white": known},
        lanes={"light": SENSORS},
    )
    nodes = [chain.node_of(name) for name in ("position", "state", "situation")]
    return compare(
        "16 sensors × 1 M → states and place",
        lambda: chain.fold({"light": signal}, *nodes),
        "one multiply",
        lambda: counts * 0.001,
        budget=12.0,
        rounds=5,
    )


if __name__ == "__main__":
    print(run())
