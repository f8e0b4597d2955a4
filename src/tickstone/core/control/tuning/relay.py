"""The relay experiment: the rig swings by itself, gently, and tells where its edge is."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Relay, Rig, simulate
from tickstone.core.control.plant import FloatArray, Plant
from tickstone.core.control.tuning.rule import Told, TuningRule, ultimate
from tickstone.core.control.tuning.ziegler_nichols import from_the_edge

_FEWEST = 4


@dataclass(frozen=True, slots=True)
class Swing:
    """What a relay made of it. height: of the relay, to either side. amplitude: of what is
    measured, from the middle to the top. ku, tu_s: the edge; u_ku, u_tu_s: by the scatter from one
    swing to the next. swings: how many it rests on.
    """

    height: float
    amplitude: float
    ku: float
    tu_s: float
    u_ku: float
    u_tu_s: float
    swings: int


def swing_of(
    time_s: FloatArray, measured: FloatArray, output: FloatArray, band: float = 0.0
) -> Swing:
    """What a run with a relay says. The first swings, while it gets going, are left out.

    Ku = 4·d/(π·√(a² − ε²)), the describing function of a relay with the band ε.
    Raises ValueError when the output does not go to and fro between two values, or too seldom.

    >>> t = np.arange(0, 20, 0.01)
    >>> found = swing_of(t, 0.5 * np.sin(2 * np.pi * t / 2), np.sign(np.sin(2 * np.pi * t / 2)))
    >>> round(found.ku, 3), round(found.tu_s, 3)  # 4/(π·0.5)
    (2.546, 2.0)
    """
    low, high = float(output.min()), float(output.max())
    height = (high - low) / 2.0
    if not height > 0.0:
        raise ValueError("the output never changes: that is no relay")
    middle = (high + low) / 2.0
    near = np.minimum(np.abs(output - low), np.abs(output - high)) < 0.1 * height
    if near.mean() < 0.9:
        raise ValueError("the output takes more than two values: that is no relay")
    rises = np.flatnonzero((output[1:] > middle) & (output[:-1] <= middle)) + 1
    if len(rises) < _FEWEST + 1:
        raise ValueError(
            f"it swung {max(0, len(rises) - 1)} times; {_FEWEST} at least are wanted: record longer"
        )
    rises = rises[len(rises) // 3 :] if len(rises) > 2 * _FEWEST else rises[1:]
    periods = np.diff(time_s[rises])
    tops = np.array([np.ptp(measured[a:b]) / 2.0 for a, b in itertools.pairwise(rises)])
    amplitude, tu_s = float(tops.mean()), float(periods.mean())
    if not amplitude > band:
        raise ValueError("it swings no wider than the band of the relay")
    ku = 4.0 * height / (math.pi * math.sqrt(amplitude**2 - band**2))
    many = len(periods)
    u_a = float(tops.std(ddof=1)) / math.sqrt(many) if many > 1 else math.nan
    u_t = float(periods.std(ddof=1)) / math.sqrt(many) if many > 1 else math.nan
    slope = amplitude / (amplitude**2 - band**2)
    return Swing(height, amplitude, ku, tu_s, ku * slope * u_a, u_t, many)


class RelayRule(TuningRule):
    """The experiment played on the plant, and Ziegler and Nichols' table on what it tells."""

    name: ClassVar[str] = "relay"
    label: ClassVar[str] = "Relay experiment"
    for_what: ClassVar[str] = (
        "Finds the edge on the rig itself, in swings as wide as you allow, without ever turning "
        "the gain up to it."
    )
    source: ClassVar[str] = (
        "K. J. Åström, T. Hägglund, Automatic tuning of simple regulators with specifications on "
        "phase and amplitude margins, Automatica 20 (1984) 645–651; table of 1942"
    )

    def tune(self, plant: Plant, terms: str, tau_c_s: float | None = None) -> Told:
        """By a simulated relay, twenty swings long."""
        self.check_terms(terms)
        _, period_s = ultimate(plant)
        sample_s = min(0.01, period_s / 200.0)
        if sample_s < 1e-4 or 20.0 * period_s > 10_000.0:
            raise ValueError(
                f"a swing would last {period_s:.3g} s: too short, or too long, for a relay to tell"
            )
        sign = math.copysign(1.0, plant.gain)
        rig = Rig(sample_s=max(1e-4, sample_s), start=0.0, target=0.0, lasts_s=20.0 * period_s)
        free = Plant(plant.gain, plant.lag_s, plant.delay_s, plant.integrators)
        run = simulate(free, Controller(), rig, relay=Relay(height=sign))
        found = swing_of(run.time_s, run.true, run.output * sign)
        told = from_the_edge(sign * found.ku, found.tu_s, terms)
        return Told(told.gains, (("swings to", found.amplitude), *told.working))
