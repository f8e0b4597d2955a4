"""A loop as rigs have it: readings that come every so often, scatter, are nothing now and then,
and an actuator that has ends, grains and friction.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from tickstone.core.control.controller import BACK, COUNT, ERROR, NONE, Controller
from tickstone.core.control.plant import FloatArray, Plant
from tickstone.core.inputs import check_inputs, number
from tickstone.core.loops.control import closed_loop
from tickstone.core.reading_units import MILLISECONDS

MOST_STEPS = 20_000_000
_FINEST_S = 1e-3
_WINDUP = {BACK: 1, NONE: 2}


@dataclass(frozen=True, slots=True)
class Rig:
    """What the loop has around its controller. Raises ValueError naming what cannot be.

    start, target: of what is measured; the target is set at `step_at_s`. load: added to the output
    from `load_at_s` on.
    """

    sample_s: float = number(
        "A reading every", "s", 0.05, 1e-4, 10.0, "as the sensor really delivers it",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip
    noise_u: float = number("Readings scatter by", "", 0.0, 0.0, 1e6, "one standard deviation")
    zeros: float = number("Readings that are none", "%", 0.0, 0.0, 90.0, "", decimals=1)
    filter_lag_s: float = number(
        "Filter lags", "s", 0.0, 0.0, 10.0, "of a reading", shown_as=MILLISECONDS, decimals=0
    )
    grain: float = number("Readings step by", "", 0.0, 0.0, 1e6, "0: finely", is_rare=True)
    notch: float = number("Actuator steps by", "", 0.0, 0.0, 1e6, "0: finely", is_rare=True)
    start: float = number("Begins at", "", 0.0, -1e6, 1e6)
    target: float = number("Is to go to", "", 1.0, -1e6, 1e6)
    step_at_s: float = number("At", "s", 1.0, 0.0, 3600.0, decimals=2)
    lasts_s: float = number("Runs for", "s", 20.0, 0.05, 20_000.0, decimals=1)
    load: float = number("Pushed by", "", 0.0, -1e6, 1e6, "as if the output were so much more")
    load_at_s: float = number("From", "s", 10.0, 0.0, 20_000.0, decimals=1)

    def __post_init__(self) -> None:
        check_inputs(self)

    def adds_s(self) -> float:
        """What it adds to the dead time: half the time between readings, and the filter's lag."""
        return self.sample_s / 2.0 + self.filter_lag_s


def as_seen(plant: Plant, rig: Rig) -> Plant:
    """The plant as its controller sees it: later by what the rig adds.

    >>> round(as_seen(Plant(1.0, 1.0, 0.1), Rig(sample_s=0.05, filter_lag_s=0.02)).delay_s, 3)
    0.145
    """
    return replace(plant, delay_s=plant.delay_s + rig.adds_s())


@dataclass(frozen=True, slots=True)
class Run:
    """What a loop did, a column for each reading. is_clamped: the output stood at an end."""

    time_s: FloatArray
    wanted: FloatArray
    true: FloatArray
    measured: FloatArray
    output: FloatArray
    is_clamped: FloatArray


@dataclass(frozen=True, slots=True)
class Relay:
    """In place of a controller: all one way by `height`, then all the other, `band` around."""

    height: float
    band: float = 0.0


def simulate(
    plant: Plant, controller: Controller, rig: Rig, seed: int = 1, relay: Relay | None = None,
    most_rows: int = 2_000_000,
) -> Run:  # fmt: skip
    """Run a loop. The plant goes in steps of 1 ms or finer, the controller once a reading.

    The same seed gives the same noise. Raises ValueError when it would take too many steps.

    >>> from tickstone.core.control.plant import Plant
    >>> run = simulate(Plant(2.0, 0.5, 0.1), Controller(kp=1.0, ki=2.0), Rig(lasts_s=10.0))
    >>> round(float(run.true[-1]), 3)
    1.0
    """
    every = max(1, math.ceil(rig.sample_s / _FINEST_S - 1e-9))
    dt = rig.sample_s / every
    readings = math.ceil(rig.lasts_s / rig.sample_s)
    if plant.delay_s > MOST_STEPS * dt / 20.0:
        raise ValueError(f"delay_s: {plant.delay_s:g} s are too many steps of {dt:g} s")
    if readings * every > MOST_STEPS:
        raise ValueError(
            f"lasts_s: {rig.lasts_s:g} s are {readings * every} steps; {MOST_STEPS} at most"
        )
    rng = np.random.default_rng(seed)
    time_s = np.arange(readings) * rig.sample_s
    wanted = np.where(time_s >= rig.step_at_s - 1e-9, rig.target, rig.start)
    load = np.where(time_s >= rig.load_at_s - 1e-9, rig.load, 0.0)
    noise = rng.normal(0.0, rig.noise_u, readings) if rig.noise_u > 0.0 else np.zeros(readings)
    is_zero = rng.random(readings) < rig.zeros / 100.0
    gains = controller.counted
    thin = max(1, math.ceil(readings / most_rows))
    out = np.empty((6, math.ceil(readings / thin)))
    rows = closed_loop(
        readings * every,
        dt,
        every,
        np.array(
            [plant.gain, plant.lag_s, plant.integrators, plant.sticks_below, plant.low, plant.high]
        ),
        np.array(
            [
                *(gains.kp, gains.ki, gains.kd, controller.low, controller.high),
                *(controller.slew_per_s, controller.derivative_lag_s, controller.dead_band),
                *(controller.hold_s, controller.rest),
            ]
        ),
        np.array(
            [
                _WINDUP.get(controller.windup, 0),
                int(controller.derivative_of == ERROR),
                int(controller.invalid == COUNT),
                int(controller.whole_numbers),
                int(relay is not None),
            ]
        ),
        np.array(
            [
                *(float(round(plant.delay_s / dt)), rig.filter_lag_s, rig.grain, rig.notch),
                *((0.0, 0.0) if relay is None else (relay.band, relay.height)),
                *((0.0, 1.0) if relay is not None else controller.span),
            ]
        ),
        wanted,
        load,
        noise,
        is_zero,
        rig.start,
        out,
        thin,
    )
    return Run(*out[:, :rows])
