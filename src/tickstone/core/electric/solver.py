"""Volts and currents of a network in every state and at the corners of its tolerances.

Modified nodal analysis, all variants at once as one stack of matrices; diodes and transistors by
Newton's iteration with the junction limiting that circuit simulators use (Nagel 1975, §4.2).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from tickstone.core.electric.network import ALWAYS, Network
from tickstone.core.electric.variants import Floats, Variants

Signs = npt.NDArray[np.int8]
MOST_KNOBS, MOST_BENT_KNOBS = 7, 4
"""So many tolerances are tried in all combinations, fewer where parts are bent; of more, the corner
is searched for."""
MOST_ROUNDS = 4
MOST_WORK = 1e7
"""Numbers in all matrices of a search. Beyond it the worst is taken from the slopes in the middle:
what each tolerance does, all of them against you, and a tenth more for what is not straight."""
BEYOND = 1.1
MOST_AT_ONCE = 4_000_000
"""Numbers in a stack that is nudged at once."""
NUDGE = 1e-4
"""How far a knob is turned to see which way a number goes, as a share of its span."""


@dataclass(frozen=True, slots=True)
class Solution:
    """What a network does. First index of all: the state.

    usual_v, low_v, high_v: (states, nodes), fixed nodes included. usual_a, low_a, high_a: currents,
    (states, branches), in the order of `Network.branches`. impedance_ohm: (states, free, free),
    volts at one node for one ampere into another. is_solved: (states,); where it is False, the
    numbers are NaN.
    """

    usual_v: Floats
    low_v: Floats
    high_v: Floats
    usual_a: Floats
    low_a: Floats
    high_a: Floats
    impedance_ohm: Floats
    is_solved: npt.NDArray[np.bool_]


@lru_cache(maxsize=8192)
def solve(network: Network) -> Solution:
    """All states of a network, as usual and at the worst of its tolerances. Kept by its numbers.

    >>> from tickstone.core.electric.network import Network, Resistor, exact, within
    >>> divider = Network(
    ...     1, (exact(5.0), exact(0.0)),
    ...     resistors=(Resistor(1, 0, within(1800.0, 0.05)), Resistor(0, 2, within(3300.0, 0.05))),
    ... )
    >>> found = solve(divider)
    >>> [round(float(one[0, 0]), 3) for one in (found.low_v, found.usual_v, found.high_v)]
    [3.119, 3.235, 3.348]
    """
    with np.errstate(all="ignore"):
        return _Corners(network).solution()


class _Corners:
    """A network with its tolerances, each of which may stand low, usual or high (−1, 0, 1)."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.knobs = np.array(network.knobs, dtype=float).reshape(-1, 3)
        self.loose = np.flatnonzero(self.knobs[:, 0] != self.knobs[:, 2])
        self.states = len(network.states)
        positions = np.array(network.states, dtype=int).reshape(self.states, -1)
        self.conducts = np.ones((self.states, len(network.resistors)))
        for place, one in enumerate(network.resistors):
            if one.switch != ALWAYS:
                self.conducts[:, place] = positions[:, one.switch] == one.on

    def solution(self) -> Solution:
        count = len(self.loose)
        usual = self._solved(np.zeros((1, self.states, count), dtype=np.int8))
        every = [usual]
        if 0 < count <= (MOST_BENT_KNOBS if self.network.is_bent else MOST_KNOBS):
            every.append(self._solved(self._grid(count), usual))
        elif count and self._work() <= MOST_WORK:
            every += self._searched(usual)
        elif count:
            return self._by_slopes(usual)
        volts = np.concatenate([self._apart(one, one.volts) for one in every])
        amps = np.concatenate([self._apart(one, one.amps) for one in every])
        low, high = volts.min(axis=0), volts.max(axis=0)
        # What is held may move although nothing here follows it; the search has no reason to try.
        if self.network.fixed:
            held = np.array(self.network.fixed, dtype=float)
            low[:, self.network.free :] = held[:, 0]
            high[:, self.network.free :] = held[:, 2]
        fine = np.isfinite(volts).all(axis=(0, 2)) & np.isfinite(amps).all(axis=(0, 2))
        return Solution(
            volts[0],
            low,
            high,
            amps[0],
            amps.min(axis=0),
            amps.max(axis=0),
            usual.impedance_ohm,
            fine,
        )

    def _work(self) -> float:
        """How many numbers a search would hold: matrices, and what each tolerance does to each."""
        free, loose = self.network.free, len(self.loose)
        numbers = free + len(self.network.incidence)
        return 2.0 * numbers * self.states * (free**2 + loose * (len(self.knobs) + numbers))

    def _by_slopes(self, usual: Variants) -> Solution:
        """The worst by the slopes in the middle alone, for what is too large to be searched."""
        spans = self.knobs[self.loose]
        whole = NUDGE * (spans[:, 2] - spans[:, 0])
        up, down = (spans[:, 2] - spans[:, 1]) / whole, (spans[:, 0] - spans[:, 1]) / whole
        rises, falls = [], []
        for nudged in self._slopes(usual):
            rises.append(np.maximum(nudged * up, nudged * down).sum(axis=2))
            falls.append(np.minimum(nudged * up, nudged * down).sum(axis=2))
        rise, fall = BEYOND * np.concatenate(rises), BEYOND * np.concatenate(falls)
        free = self.network.free
        held = np.array(self.network.fixed, dtype=float).reshape(-1, 3)
        low, high = usual.volts.copy(), usual.volts.copy()
        low[:, :free] += fall[:, :free]
        high[:, :free] += rise[:, :free]
        low[:, free:], high[:, free:] = held[:, 0], held[:, 2]
        told = np.concatenate([usual.volts, usual.amps], axis=1)
        return Solution(
            usual.volts,
            low,
            high,
            usual.amps,
            usual.amps + fall[:, free:],
            usual.amps + rise[:, free:],
            usual.impedance_ohm,
            np.asarray(np.isfinite(told).all(axis=1), dtype=np.bool_),
        )

    def _grid(self, count: int) -> Signs:
        grid = np.indices((2,) * count, dtype=np.int8).reshape(count, -1).T * 2 - 1
        return np.ascontiguousarray(grid[:, None].repeat(self.states, 1), dtype=np.int8)

    def _searched(self, usual: Variants) -> list[Variants]:
        """For each number that has extremes, the two corners its slopes lead to.

        A number of a resistive net is monotonic in each knob, so that its extremes lie in corners.
        Its slopes in the middle say which; slopes taken there say whether to turn one back.
        """
        slopes = np.concatenate([*self._slopes(usual)])
        numbers = slopes.shape[1]
        each = slopes.reshape(self.states, numbers, len(self.loose)).transpose(1, 0, 2)
        signs = np.where(np.concatenate([each, -each]) >= 0.0, 1, -1).astype(np.int8)
        goals = np.tile(np.arange(numbers), 2)[:, None]
        want = np.repeat([1.0, -1.0], numbers)[:, None, None]
        rows = np.arange(self.states)[None, :]
        found: list[Variants] = []
        for _ in range(MOST_ROUNDS):
            shown, place = np.unique(signs, axis=0, return_inverse=True)
            one = self._solved(shown, usual)
            found.append(one)
            there = np.concatenate([*self._slopes(one)])
            there = there.reshape(len(shown), self.states, numbers, len(self.loose))
            mine = there[place.reshape(-1)[:, None], rows, goals] * want
            turned = np.where(mine > 0.0, 1, np.where(mine < 0.0, -1, signs)).astype(np.int8)
            if (turned == signs).all():
                break
            signs = turned
        return found

    def _solved(self, signs: Signs, near: Variants | None = None) -> Variants:
        """The variants with the loose knobs standing so: signs (variants, states, loose)."""
        flat = signs.reshape(len(signs) * self.states, len(self.loose))
        values = np.repeat(self.knobs[None, :, 1], len(flat), axis=0)
        for place, knob in enumerate(self.loose):
            values[:, knob] = self.knobs[knob][flat[:, place] + 1]
        one = Variants(self.network, values, np.tile(self.conducts, (len(signs), 1)))
        if near is not None:  # a corner is seldom far from the middle
            one.volts[:, : one.free] = np.nan_to_num(
                np.tile(near.volts[:, : one.free], (len(signs), 1))
            )
        one.solve()
        return one

    def _slopes(self, one: Variants) -> Iterator[Floats]:
        """How free volts and currents go with each loose knob, (variants, numbers, loose).

        By the implicit function theorem, dV/dp = −J⁻¹·∂F/∂p, F being what flows out of each node.
        All knobs of all variants are nudged at once, each in a copy of its own.
        """
        numbers = self.network.free + len(self.network.incidence)
        width = len(self.loose) * max(len(self.knobs), numbers, one.nodes)
        step = max(1, int(MOST_AT_ONCE / max(1, width)))
        for at in range(0, one.batch, step):
            yield self._nudged(one.among(slice(at, at + step)))

    def _nudged(self, one: Variants) -> Floats:
        free, count = self.network.free, len(self.loose)
        nudges = NUDGE * (self.knobs[self.loose, 2] - self.knobs[self.loose, 0])
        values = np.repeat(one.values, count, axis=0)
        rows = np.arange(len(values))
        knob = np.tile(self.loose, one.batch)
        values[rows, knob] += np.tile(nudges, one.batch)
        moved = Variants(self.network, values, np.repeat(one.conducts, count, axis=0))
        moved.volts[:, :free] = np.repeat(one.volts[:, :free], count, axis=0)
        out = moved.outflow()[:, :free]
        inverse = np.repeat(one.impedance_ohm, count, axis=0)
        shift = -(inverse @ out[:, :, None])[:, :, 0]
        moved.volts[:, :free] += shift
        flows = moved.branch_amps() - np.repeat(one.amps, count, axis=0)
        numbers = np.concatenate([shift, flows], axis=1)
        apart = numbers.reshape(one.batch, count, numbers.shape[1]).transpose(0, 2, 1)
        return np.asarray(np.nan_to_num(apart), dtype=np.float64)

    def _apart(self, one: Variants, numbers: Floats) -> Floats:
        return numbers.reshape(len(numbers) // self.states, self.states, numbers.shape[-1])
