"""A small circuit as numbers: nodes, what lies between them, and the states its switches can be in.

Nodes are numbered: the free ones from 0, then the fixed ones, whose volts are given. Nothing here
has a name, so that two nets that are alike are the same network and are solved once.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import expm1
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

ALWAYS = -1
"""The switch of a part that conducts in every state."""


class Span(NamedTuple):
    """A figure with its tolerance: at least, as usual, at most."""

    low: float
    usual: float
    high: float


def exact(value: float) -> Span:
    """A figure without tolerance.

    >>> exact(5.0)
    Span(low=5.0, usual=5.0, high=5.0)
    """
    return Span(value, value, value)


def within(value: float, tolerance: float) -> Span:
    """A figure with a tolerance as a fraction.

    >>> within(100.0, 0.05)
    Span(low=95.0, usual=100.0, high=105.0)
    """
    return Span(value * (1.0 - tolerance), value, value * (1.0 + tolerance))


class Resistor(NamedTuple):
    """Ω between two nodes. switch, on: it conducts only while that switch is in that position."""

    a: int
    b: int
    ohm: Span
    switch: int = ALWAYS
    on: int = 0


class Diode(NamedTuple):
    """Shockley's: I = saturation_a·(exp(V/(emission·V_T)) − 1), in series with `ohm`."""

    anode: int
    cathode: int
    saturation_a: Span
    emission: float
    ohm: float


class Bipolar(NamedTuple):
    """An NPN transistor after Ebers and Moll 1954, in its transport form. gain: forward β."""

    base: int
    collector: int
    emitter: int
    saturation_a: float
    gain: Span
    reverse_gain: float


class Mosfet(NamedTuple):
    """An N-channel MOSFET by the square law (Shichman and Hodges 1968), without its body diode.

    steepness: A/V².
    """

    gate: int
    drain: int
    source: int
    threshold_v: Span
    steepness: float


class Load(NamedTuple):
    """A consumer: `amps` from `least_v` on, less in proportion under it, nothing backwards."""

    a: int
    b: int
    amps: Span
    least_v: float


class Network(NamedTuple):
    """A circuit. free: how many nodes have no given volts. fixed: volts of the others.

    states: for each state to be looked at, the position of every switch.
    """

    free: int
    fixed: tuple[Span, ...]
    states: tuple[tuple[int, ...], ...] = ((),)
    resistors: tuple[Resistor, ...] = ()
    diodes: tuple[Diode, ...] = ()
    bipolars: tuple[Bipolar, ...] = ()
    mosfets: tuple[Mosfet, ...] = ()
    loads: tuple[Load, ...] = ()

    @property
    def is_bent(self) -> bool:
        """Whether any part's current is not in proportion to its volts."""
        return bool(self.diodes or self.bipolars or self.mosfets or self.loads)

    @property
    def branches(self) -> tuple[tuple[int, int], ...]:
        """Between which nodes each current runs: resistors, diodes, bipolars, and so on.

        A bipolar has three: base to emitter, base to collector, and collector to emitter.
        """
        found = [(one.a, one.b) for one in self.resistors]
        found += [(one.anode, one.cathode) for one in self.diodes]
        for one in self.bipolars:
            b, c, e = one.base, one.collector, one.emitter
            found += [(b, e), (b, c), (c, e)]
        found += [(one.drain, one.source) for one in self.mosfets]
        found += [(one.a, one.b) for one in self.loads]
        return tuple(found)

    @property
    def incidence(self) -> npt.NDArray[np.float64]:
        """(branches, nodes): 1 where a current starts, −1 where it ends."""
        branches = np.array(self.branches, dtype=int).reshape(-1, 2)
        found = np.zeros((len(branches), self.free + len(self.fixed)))
        rows = np.arange(len(branches))
        np.add.at(found, (rows, branches[:, 0]), 1.0)
        np.add.at(found, (rows, branches[:, 1]), -1.0)
        return found

    @property
    def knobs(self) -> tuple[Span, ...]:
        """Everything that has a tolerance, in the order fixed, resistors, diodes, ….

        One figure is one knob, however many ways it is reached: both ends of a rail move together.
        """
        return (
            *self.fixed,
            *(one.ohm for one in self.resistors),
            *(one.saturation_a for one in self.diodes),
            *(one.gain for one in self.bipolars),
            *(one.threshold_v for one in self.mosfets),
            *(one.amps for one in self.loads),
        )


@dataclass(frozen=True, slots=True)
class Junction:
    """The make of a diode, from the volts it is stated to have. V_T at 27 °C, as simulators do."""

    forward_v: float
    at_a: float
    emission: float
    ohm: float
    tolerance: float = 0.0

    def between(self, anode: int, cathode: int) -> Diode:
        """The diode: saturation_a = at_a / (exp((forward_v − at_a·ohm)/(emission·V_T)) − 1)."""

        def saturation(forward: float) -> float:
            inner = forward - self.at_a * self.ohm
            return self.at_a / expm1(inner / (self.emission * THERMAL_V))

        spread = self.tolerance * self.forward_v
        return Diode(
            anode,
            cathode,
            Span(
                saturation(self.forward_v + spread),
                saturation(self.forward_v),
                saturation(self.forward_v - spread),
            ),
            self.emission,
            self.ohm,
        )


BOLTZMANN_J_PER_K, CHARGE_C = 1.380649e-23, 1.602176634e-19
THERMAL_V = BOLTZMANN_J_PER_K * 300.15 / CHARGE_C
"""kT/q at 27 °C, V (SI 2019)."""
