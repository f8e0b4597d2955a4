"""Ziegler and Nichols, both of their ways: from the edge of swinging, and from a step."""

from __future__ import annotations

import math
from typing import ClassVar

from tickstone.core.control.controller import Gains
from tickstone.core.control.plant import Plant
from tickstone.core.control.tuning.rule import PI, PID, P, Told, TuningRule, ultimate

_SOURCE = (
    "J. G. Ziegler, N. B. Nichols, Optimum settings for automatic controllers, "
    "Trans. ASME 64 (1942) 759–768"
)


def from_the_edge(ku: float, tu_s: float, terms: str) -> Told:
    """Gains from the gain at which P alone just swings, and the period of that swing.

    >>> from_the_edge(4.0, 2.0, "pid").gains
    Gains(kp=2.4, ki=2.4, kd=0.6)
    """
    share, ti_s, td_s = {
        P: (0.5, math.inf, 0.0),
        PI: (0.45, tu_s / 1.2, 0.0),
        PID: (0.6, tu_s / 2.0, tu_s / 8.0),
    }[terms]
    working = (("Ku", ku), ("Tu, s", tu_s), (f"Kp = {share:g}·Ku", share * ku))
    return Told(Gains.of_times(share * ku, ti_s, td_s), working)


class ZieglerNicholsEdge(TuningRule):
    """From the edge at which P alone swings for ever."""

    name: ClassVar[str] = "zn-edge"
    label: ClassVar[str] = "Ziegler–Nichols, edge"
    for_what: ClassVar[str] = (
        "Lively: a push dies out by a quarter each swing. Overshoots on a step; back off for a rig "
        "that must not."
    )
    source: ClassVar[str] = _SOURCE

    def tune(self, plant: Plant, terms: str, tau_c_s: float | None = None) -> Told:
        """By Ku and Tu, worked out from the plant."""
        self.check_terms(terms)
        return from_the_edge(*ultimate(plant), terms)


class ZieglerNicholsStep(TuningRule):
    """From the reaction to a step: its dead time, and how steeply it rises.

    >>> ZieglerNicholsStep().tune(Plant(1.0, 2.0, 0.5), PID).gains
    Gains(kp=4.8, ki=4.8, kd=1.2)
    """

    name: ClassVar[str] = "zn-step"
    label: ClassVar[str] = "Ziegler–Nichols, step"
    for_what: ClassVar[str] = (
        "From one step alone, without ever swinging the rig. As lively as the other; poor where "
        "the dead time is as long as the lag."
    )
    source: ClassVar[str] = _SOURCE

    def tune(self, plant: Plant, terms: str, tau_c_s: float | None = None) -> Told:
        """By the slope K/τ and the dead time."""
        self.check_terms(terms)
        if plant.integrators == 2:
            raise ValueError("a step of what rolls on and on has no steepest slope")
        if not plant.delay_s > 0.0:
            raise ValueError("delay: without dead time the rule asks for gains without end")
        if plant.integrators == 0 and not plant.lag_s > 0.0:
            raise ValueError("lag: without one the step has no slope")
        slope = plant.gain / (plant.lag_s if plant.integrators == 0 else 1.0)
        a = slope * plant.delay_s
        share, ti, td = {P: (1.0, math.inf, 0.0), PI: (0.9, 1 / 0.3, 0.0), PID: (1.2, 2.0, 0.5)}[
            terms
        ]
        working = (("R·L", a), (f"Kp = {share:g}/(R·L)", share / a))
        return Told(Gains.of_times(share / a, ti * plant.delay_s, td * plant.delay_s), working)
