"""A stack of networks alike in shape that differ in their figures: solved all at once."""

from __future__ import annotations

from functools import cached_property, lru_cache

import numpy as np
import numpy.typing as npt

from tickstone.core.electric.network import THERMAL_V, Network

Floats = npt.NDArray[np.float64]
LEAST_S = 1e-12
"""Conductance from every free node to nothing, S: a node nobody holds is at 0 V, not nowhere."""
SOON_TURNS, MOST_TURNS = 30, 200
CONVERGED_V = 1e-9
MOST_V = 1e7
"""Volts beyond this are no answer; a leak into a net nobody holds makes a million."""
FREE_TURNS, MOST_STEP_V = 40, 2.0
"""After so many turns a step is held back, so that one that swings to and fro comes to rest."""
EASIER_S = (1e-2, 1e-3, 1e-4, 1e-5, 1e-6, 1e-7, 1e-8, 1e-9, 1e-10, 1e-11, 0.0)
"""What every free node leaks besides, step by step, where the iteration finds no rest."""


class Variants:
    """values: (variants, knobs), in the order of `Network.knobs`. conducts: (variants, resistors).

    After `solve`: volts (variants, nodes), amps (variants, branches), impedance_ohm (variants,
    free, free). What does not come to rest is NaN.
    """

    def __init__(self, network: Network, values: Floats, conducts: Floats) -> None:
        self.network, self.values, self.conducts = network, values, conducts
        self.free, self.batch = network.free, len(values)
        self.nodes = network.free + len(network.fixed)
        parts = (
            network.fixed,
            network.resistors,
            network.diodes,
            network.bipolars,
            network.mosfets,
        )
        ends = np.cumsum([len(one) for one in parts])
        fixed, ohm, self.saturation, self.gain, self.threshold, self.loads = np.split(
            values, ends, axis=1
        )
        self.siemens = conducts / ohm
        self.volts = np.zeros((self.batch, self.nodes))
        self.volts[:, self.free :] = fixed
        self.incidence = _incidence(network)
        self.amps: Floats = np.zeros((self.batch, len(self.incidence)))
        self._jacobian: Floats = np.zeros((self.batch, self.free, self.free))

    @cached_property
    def linear(self) -> Floats:
        """Conductances of the resistors, (variants, nodes, nodes)."""
        lines = self.incidence[: len(self.network.resistors)]
        matrix = (lines.T[None] * self.siemens[:, None, :]) @ lines
        places = np.arange(self.free)
        matrix[:, places, places] += LEAST_S
        return np.asarray(matrix, dtype=np.float64)

    def solve(self) -> None:
        """Find the volts at which nothing piles up anywhere, and what flows at them."""
        free = self.free
        matrix = self.linear
        if self.network.is_bent:
            matrix = self._iterate()
        elif free:
            rhs = -_times(matrix[:, :free, free:], self.volts[:, free:])
            self.volts[:, :free] = solutions_of(matrix[:, :free, :free], rhs)
        self.amps = self.branch_amps()
        self._jacobian = matrix[:, :free, :free]

    @cached_property
    def impedance_ohm(self) -> Floats:
        """The inverse of the Jacobian at the volts found."""
        eye = np.broadcast_to(np.eye(self.free), (self.batch, self.free, self.free))
        return solutions_of(self._jacobian, eye)

    def outflow(self) -> Floats:
        """What flows out of each node at the volts as they stand, (variants, nodes), A."""
        out = self.branch_amps() @ self.incidence
        out[:, : self.free] += LEAST_S * self.volts[:, : self.free]
        return out

    def branch_amps(self) -> Floats:
        """Currents of all branches at the volts as they stand, a → b."""
        network = self.network
        across = self.volts @ self.incidence.T
        first = len(network.resistors)
        columns = [across[:, :first] * self.siemens]
        columns += [
            self._through(place, across[:, first + place])[:, None]
            for place in range(len(network.diodes))
        ]
        for place, one in enumerate(network.bipolars):
            vbe = self.volts[:, one.base] - self.volts[:, one.emitter]
            vbc = self.volts[:, one.base] - self.volts[:, one.collector]
            forward = one.saturation_a * np.expm1(vbe / THERMAL_V)
            reverse = one.saturation_a * np.expm1(vbc / THERMAL_V)
            columns += [
                (forward / self.gain[:, place])[:, None],
                (reverse / one.reverse_gain)[:, None],
                (forward - reverse)[:, None],
            ]
        columns += [self._drain(place)[0][:, None] for place in range(len(network.mosfets))]
        for place, load in enumerate(network.loads):
            v = self.volts[:, load.a] - self.volts[:, load.b]
            columns.append((self.loads[:, place] * np.clip(v / load.least_v, 0.0, 1.0))[:, None])
        return np.concatenate(columns, axis=1)

    def _iterate(self) -> Floats:
        """Newton's iteration; what does not come to rest goes on from a network that leaks more."""
        matrix, is_at_rest = self._newton(0.0, SOON_TURNS)
        if not is_at_rest.all():
            hard = self.among(~is_at_rest)
            hard.volts[:, : self.free] = 0.0
            for more in EASIER_S:
                hard.volts[:, : self.free] = np.nan_to_num(hard.volts[:, : self.free])
                matrix[~is_at_rest], is_found = hard._newton(more, MOST_TURNS)
            hard.volts[~is_found, : self.free] = np.nan
            self.volts[~is_at_rest] = hard.volts
        return matrix

    def among(self, chosen: npt.NDArray[np.bool_] | slice) -> Variants:
        """The chosen variants as they stand, in a stack of their own."""
        one = Variants(self.network, self.values[chosen], self.conducts[chosen])
        one.volts, one.amps = self.volts[chosen], self.amps[chosen]
        one._jacobian = self._jacobian[chosen]
        return one

    def _newton(self, more_s: float, turns: int) -> tuple[Floats, npt.NDArray[np.bool_]]:
        """The matrix where it stopped, and which came to rest within so many turns."""
        free, before, places = self.free, _Junctions(self), np.arange(self.free)
        matrix, moved = self.linear, np.full(self.batch, np.inf)
        is_met = np.zeros(self.batch, dtype=np.bool_)
        for turn in range(turns):
            matrix, beside = self._straightened(before.held(self.volts))
            matrix[:, places, places] += more_s
            rhs = -beside[:, :free]
            rhs -= _times(matrix[:, :free, free:], self.volts[:, free:])
            step = solutions_of(matrix[:, :free, :free], rhs) - self.volts[:, :free]
            if turn >= FREE_TURNS:
                most = MOST_STEP_V / (1 + turn // (2 * FREE_TURNS))
                step = np.clip(step, -most, most)
            self.volts[:, :free] += step
            # A net nobody holds may lie at a million volts: rest is as good as its digits allow.
            size = np.abs(self.volts).max(axis=1, initial=0.0)
            moved = np.abs(step).max(axis=1, initial=0.0) / (1.0 + 1e-3 * size)
            is_met = before.are_met(self.volts)
            if not (moved > CONVERGED_V).any() and is_met.all():
                break
        size = np.abs(self.volts).max(axis=1, initial=0.0)
        return matrix, (moved <= 1e-6) & is_met & (size < MOST_V)

    def _straightened(self, held: list[Floats]) -> tuple[Floats, Floats]:
        """The network made straight at the junction volts held: its matrix, and currents beside it.

        A part with current i(v) and slope g at v₀ is a conductance g with i(v₀) − g·v₀ beside it.
        """
        network = self.network
        matrix, beside = self.linear.copy(), np.zeros((self.batch, self.nodes))
        junctions = iter(held)
        for place, diode in enumerate(network.diodes):
            v = next(junctions)
            amps, slope = _junction(v, self.saturation[:, place], diode.emission * THERMAL_V)
            # The resistance in series is folded in: v + R·i(v) is what lies across the two.
            total = 1.0 + slope * diode.ohm
            _stamp(
                matrix,
                beside,
                diode.anode,
                diode.cathode,
                slope / total,
                (amps - slope * v) / total,
            )
        for place in range(len(network.bipolars)):
            self._stamp_bipolar(matrix, beside, place, next(junctions), next(junctions))
        for place, mosfet in enumerate(network.mosfets):
            amps, by_gate, by_drain, by_source = self._drain(place)
            gate, drain, source = mosfet.gate, mosfet.drain, mosfet.source
            vg, vd, vs = (self.volts[:, n] for n in (gate, drain, source))
            rest = amps - by_gate * vg - by_drain * vd - by_source * vs
            for node, sign in ((drain, 1.0), (source, -1.0)):
                matrix[:, node, gate] += sign * by_gate
                matrix[:, node, drain] += sign * by_drain
                matrix[:, node, source] += sign * by_source
                beside[:, node] += sign * rest
        for place, load in enumerate(network.loads):
            v, full = self.volts[:, load.a] - self.volts[:, load.b], self.loads[:, place]
            slope = np.where((v > 0.0) & (v < load.least_v), full / load.least_v, 0.0)
            rest = np.where(v >= load.least_v, full, 0.0)
            _stamp(matrix, beside, load.a, load.b, slope, rest)
        return matrix, beside

    def _stamp_bipolar(
        self, matrix: Floats, beside: Floats, place: int, vbe: Floats, vbc: Floats
    ) -> None:
        one = self.network.bipolars[place]
        b, c, e = one.base, one.collector, one.emitter
        forward, forward_g = _junction(vbe, one.saturation_a, THERMAL_V)
        reverse, reverse_g = _junction(vbc, one.saturation_a, THERMAL_V)
        gain, back = self.gain[:, place], one.reverse_gain
        _stamp(matrix, beside, b, e, forward_g / gain, (forward - forward_g * vbe) / gain)
        _stamp(matrix, beside, b, c, reverse_g / back, (reverse - reverse_g * vbc) / back)
        # The transport current runs from collector to emitter and follows both junctions.
        rest = forward - reverse - forward_g * vbe + reverse_g * vbc
        for node, sign in ((c, 1.0), (e, -1.0)):
            matrix[:, node, b] += sign * (forward_g - reverse_g)
            matrix[:, node, e] -= sign * forward_g
            matrix[:, node, c] += sign * reverse_g
            beside[:, node] += sign * rest

    def _drain(self, place: int) -> tuple[Floats, Floats, Floats, Floats]:
        """Drain current and its slopes by gate, drain and source volts; it works both ways."""
        one = self.network.mosfets[place]
        vg, vd, vs = (self.volts[:, n] for n in (one.gate, one.drain, one.source))
        is_back = vd < vs
        over = vg - np.minimum(vd, vs) - self.threshold[:, place]
        across = np.abs(vd - vs)
        is_on, is_flat, k = over > 0.0, across >= over, one.steepness
        amps = np.where(is_flat, 0.5 * k * over**2, k * (over * across - 0.5 * across**2)) * is_on
        by_over = np.where(is_flat, k * over, k * across) * is_on
        by_across = np.where(is_flat, 0.0, k * (over - across)) * is_on
        at_high, at_low = by_across, -by_over - by_across
        sign = np.where(is_back, -1.0, 1.0)
        return (
            sign * amps,
            sign * by_over,
            np.where(is_back, -at_low, at_high),
            np.where(is_back, -at_high, at_low),
        )

    def _through(self, place: int, across: Floats) -> Floats:
        """The current of a diode with its resistance in series, from the volts across both."""
        diode, saturation = self.network.diodes[place], self.saturation[:, place]
        inner = self.inner_volts(place, across)
        direct = saturation * np.expm1(inner / (diode.emission * THERMAL_V))
        if not diode.ohm:
            return direct
        # Where the resistance takes next to nothing, its share is lost in rounding.
        drop = across - inner
        return np.where(np.abs(drop) > 1e-6, drop / diode.ohm, direct)

    def inner_volts(self, place: int, across: Floats) -> Floats:
        """The volts of the junction itself, by Newton on v + R·i(v) = across."""
        diode, saturation = self.network.diodes[place], self.saturation[:, place]
        thermal = diode.emission * THERMAL_V
        if not diode.ohm:
            return across
        most = thermal * np.log1p(np.maximum(across, 0.0) / (diode.ohm * saturation))
        v = np.minimum(across, most)
        for _ in range(60):
            amps, slope = _junction(v, saturation, thermal)
            step = (v + diode.ohm * amps - across) / (1.0 + diode.ohm * slope)
            v = v - step
            if not (np.abs(step) > 1e-13).any():
                break
        return v


class _Junctions:
    """Junction volts of the last turn, so that an exponential is never asked too far away."""

    def __init__(self, variants: Variants) -> None:
        self.variants = variants
        network = variants.network
        self.thermal = [one.emission * THERMAL_V for one in network.diodes]
        self.thermal += [THERMAL_V] * (2 * len(network.bipolars))
        saturation: list[Floats | float] = list(variants.saturation.T)
        for one in network.bipolars:
            saturation += [one.saturation_a] * 2
        self.critical = [
            thermal * np.log(thermal / (np.sqrt(2.0) * amps))
            for thermal, amps in zip(self.thermal, saturation, strict=True)
        ]
        self.last: list[Floats] = []

    def _asked(self, volts: Floats) -> list[Floats]:
        network = self.variants.network
        asked = [
            self.variants.inner_volts(place, volts[:, one.anode] - volts[:, one.cathode])
            for place, one in enumerate(network.diodes)
        ]
        for one in network.bipolars:
            asked.append(volts[:, one.base] - volts[:, one.emitter])
            asked.append(volts[:, one.base] - volts[:, one.collector])
        return asked

    def held(self, volts: Floats) -> list[Floats]:
        """The junction volts to work with, none of them far above those before."""
        asked = self._asked(volts)
        before = self.last or [
            np.minimum(one, critical) for one, critical in zip(asked, self.critical, strict=True)
        ]
        self.last = [
            _limited(*one) for one in zip(asked, before, self.thermal, self.critical, strict=True)
        ]
        return self.last

    def are_met(self, volts: Floats) -> npt.NDArray[np.bool_]:
        """In which variants the junctions are where the circuit has them."""
        met = np.ones(len(volts), dtype=np.bool_)
        for asked, held in zip(self._asked(volts), self.last, strict=True):
            met &= ~(np.abs(asked - held) > 1e-6)
        return met


@lru_cache(maxsize=64)
def _incidence(network: Network) -> Floats:
    return network.incidence


def _limited(asked: Floats, before: Floats, thermal: float, critical: Floats | float) -> Floats:
    is_jump = (asked > critical) & (np.abs(asked - before) > 2.0 * thermal)
    grown = 1.0 + (asked - before) / thermal
    log = before + thermal * np.log(np.maximum(grown, 1e-300))
    first = thermal * np.log(np.maximum(asked / thermal, 1e-300))
    near = np.where(before > 0.0, np.where(grown > 0.0, log, critical), first)
    return np.where(is_jump, near, asked)


def _junction(v: Floats, saturation: Floats | float, thermal: float) -> tuple[Floats, Floats]:
    """Current and slope of an exponential junction."""
    grown = np.exp(np.minimum(v / thermal, 500.0))
    return saturation * (grown - 1.0), saturation * grown / thermal


def _stamp(matrix: Floats, beside: Floats, a: int, b: int, slope: Floats, rest: Floats) -> None:
    """A conductance between two nodes, and a current beside it."""
    matrix[:, a, a] += slope
    matrix[:, b, b] += slope
    matrix[:, a, b] -= slope
    matrix[:, b, a] -= slope
    beside[:, a] += rest
    beside[:, b] -= rest


def _times(matrices: Floats, vectors: Floats) -> Floats:
    return (matrices @ vectors[:, :, None])[:, :, 0]


def solutions_of(matrices: Floats, right: Floats) -> Floats:
    """Solutions of a stack of equations; NaN where one of them has none."""
    columns = right[..., None] if right.ndim == 2 else right
    try:
        found = np.linalg.solve(matrices, columns)
    except np.linalg.LinAlgError:
        found = np.full_like(columns, np.nan)
        for place, (matrix, column) in enumerate(zip(matrices, columns, strict=True)):
            try:
                found[place] = np.linalg.solve(matrix, column)
            except np.linalg.LinAlgError:
                continue
    return np.asarray(found[..., 0] if right.ndim == 2 else found, dtype=np.float64)
