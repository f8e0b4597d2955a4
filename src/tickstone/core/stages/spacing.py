"""Magnets that are not evenly spaced: each gap's share of a turn divided out."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.display import grouped, prefixed
from tickstone.core.edges import COUNT, EDGES, GAP, TIMING
from tickstone.core.emit.code import Array, CannotEmitError, Code, Emitted
from tickstone.core.emit.terms import Kind, Name, Term, floor, is_number, log, pick, root, whole
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.better_rate import PERIOD_U
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

MOST_SHARES = 64
MOST_ON_A_BOARD = 12
"""Its work goes by the square of them."""
_TURNS_LOOKED_AT = 3
_ALIKE = 1e-4
_CLEARLY = 0.5
"""How small the misfit of one rotation has to be beside that of any other to be believed."""
_PART = "magnet spacing"


@dataclass(frozen=True, slots=True)
class Spacing:
    """Edges to edges as they would come if all gaps of a turn were alike: Δt/(sₖ·m).

    pulses: m, in a turn. tolerance: standard uncertainty of a gap, as a share of an even one, while
        nothing better is known. shares: sₖ, of a turn, adding up to 1; u: of each; () when unknown.
        scatter: standard deviation of a gap from one turn to the next, as a share of it, that was
        seen when they were learnt. basis: where all that is from.

    Which magnet is which is found from the gaps themselves, in the last three turns; until one way
    round fits them far better than every other, gaps stay as they are. Ways round that look alike,
    as all do of magnets that are even after all, count as one, and their difference as a doubt.
    State: logarithms of the last gaps, how much each was off its turn, which place in a turn it
    had, and the way round, None while unknown.

    >>> stage = Spacing(2, 0.01, (0.6, 0.4), (0.001, 0.001))
    >>> gaps = [0.6, 0.4] * 8
    >>> edges = Signal.of(np.cumsum(gaps), [gaps, range(16), [0.0] * 16], EDGES)
    >>> stage.run(stage.begin(), edges)[0].value[-2:].round(6).tolist()
    [0.5, 0.5]
    """

    name: ClassVar[str] = "spacing"
    own_times: ClassVar[bool] = False

    pulses: int
    tolerance: float
    shares: tuple[float, ...] = ()
    u: tuple[float, ...] = ()
    scatter: float = 0.0
    basis: str = "stated, rectangular"
    _pattern: FloatArray = field(init=False, repr=False, compare=False)
    _alike: npt.NDArray[np.bool_] = field(init=False, repr=False, compare=False)
    _between: FloatArray = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        if self.shares and len(self.shares) != self.pulses:
            raise ValueError(
                f"{len(self.shares)} shares of a turn are known, but {self.pulses} pulses make one"
            )
        if self.shares and not 2 <= self.pulses <= MOST_SHARES:
            raise ValueError(f"2 to {MOST_SHARES} shares make a turn")
        if not self.shares:
            return
        pattern = np.log(np.array(self.shares) * self.pulses)
        pattern -= pattern.mean()
        places = np.arange(self.pulses)
        turned = pattern[(places[:, None] + places) % self.pulses]  # way round, place
        apart = turned[:, None, :] - turned[None, :, :]
        known_to = math.sqrt(float(np.square(self.u).mean())) * self.pulses
        alike = np.sqrt(np.square(apart).mean(axis=2)) <= max(_ALIKE, 2.0 * known_to)
        between = np.where(alike[:, :, None], np.abs(apart), 0.0).max(axis=1)
        for name, value in (("_pattern", pattern), ("_alike", alike), ("_between", between)):
            object.__setattr__(self, name, value)

    def gives(self, *taken: Quantity) -> Quantity:
        """Edges."""
        return EDGES

    def begin(self) -> State:
        """No gaps yet, and no way round."""
        return ((), (), (), None)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The block, with every gap divided by what its share makes of an even one."""
        edges = signals[0]
        way, after = self._ways(state, edges)
        even, u = self._evened(edges, way)
        values = np.array(edges.values, order="C")
        gap = edges.values[GAP] / even
        values[GAP] = gap
        doubt = np.nan_to_num(gap) * np.hypot(u, self.scatter) / PERIOD_U
        values[TIMING] = np.hypot(edges.values[TIMING] / even, doubt)
        return Signal(edges.time_s, values, edges.status, EDGES, edges.until_s), after

    def _evened(self, edges: Signal, way: npt.NDArray[np.int64]) -> tuple[FloatArray, FloatArray]:
        """What to divide each gap by, and the relative uncertainty of that."""
        n = len(edges)
        even, u = np.ones(n), np.full(n, self.tolerance)
        known = np.flatnonzero((way >= 0) & (edges.status[GAP] == Status.OK))
        if known.size:
            place = (self._places(edges)[known] + way[known]) % self.pulses
            even[known] = np.array(self.shares)[place] * self.pulses
            as_learnt = np.array(self.u)[place] * self.pulses / even[known]
            between = self._between[way[known], self._places(edges)[known]]
            u[known] = np.hypot(as_learnt, between / math.sqrt(3.0))
        return even, u

    def _places(self, edges: Signal) -> npt.NDArray[np.int64]:
        places: npt.NDArray[np.int64] = np.rint(np.nan_to_num(edges.values[COUNT])).astype(np.int64)
        return places % self.pulses

    def _ways(self, state: State, edges: Signal) -> tuple[npt.NDArray[np.int64], State]:
        """Which way round the magnets are at each edge, -1 while unknown, and the state after."""
        way = np.full(len(edges), -1, dtype=np.int64)
        logs, off, places, last = state
        if last is not None:
            way[:] = last
        if not self.shares:
            return way, state
        good = np.flatnonzero((edges.status[GAP] == Status.OK) & (edges.values[GAP] > 0.0))
        if good.size == 0:
            return way, state
        m, window = self.pulses, _TURNS_LOOKED_AT * self.pulses
        all_logs = np.concatenate((np.array(logs), np.log(edges.values[GAP, good])))
        fresh_off = all_logs[-good.size :] - _running_mean(all_logs, m)[-good.size :]
        all_off = np.concatenate((np.array(off, dtype=np.float64), fresh_off))
        all_places = np.concatenate((np.array(places, dtype=np.int64), self._places(edges)[good]))
        misfit = np.stack(
            [
                _running_sum((all_off - self._pattern[(all_places + r) % m]) ** 2, window)
                for r in range(m)
            ]
        )[:, -good.size :]
        misfit = np.nan_to_num(misfit, nan=np.inf)
        best = np.argmin(misfit, axis=0)
        # Ways round that the magnets look alike in need not be told from each other.
        others = np.where(self._alike[best].T, np.inf, misfit).min(axis=0)
        least = misfit.min(axis=0)
        is_clear = np.isfinite(least) & (least < _CLEARLY * others)
        at = np.where(is_clear, np.arange(good.size), -1)
        carried = np.maximum.accumulate(at)
        first = -1 if last is None else int(last)
        found = np.where(carried >= 0, best[np.maximum(carried, 0)], first)
        way[good] = found
        after = (
            tuple(all_logs[-(m - 1) :].tolist()),
            tuple(all_off[-(window - 1) :].tolist()),
            tuple(all_places[-(window - 1) :].tolist()),
            int(found[-1]) if found[-1] >= 0 else None,
        )
        return way, after

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        gap, count, timing = entering[0].lanes
        even, u = code.variable("even", 1.0), code.variable("even_u", self.tolerance)
        if self.shares:
            if self.pulses > MOST_ON_A_BOARD:
                raise CannotEmitError(
                    f"telling {self.pulses} uneven magnets apart takes more than a small board "
                    f"has; {MOST_ON_A_BOARD} at most"
                )
            self._emit_shares(code, entering[0], even, u)
        value = code.let("evened", gap.value / even)
        known = pick(is_number(value), value, 0.0)
        doubt = code.let("doubt", known * root(u * u + self.scatter**2) / PERIOD_U)
        own = code.let("own", timing.value / even)
        return entering[0].of(gap.of(value), count, timing.of(root(own * own + doubt * doubt)))

    def _emit_shares(self, code: Code, flow: Emitted, even: Name, u: Name) -> None:
        """Which magnet passed, and what its gap is to be divided by."""
        gap, count, _ = flow.lanes
        m, window = self.pulses, _TURNS_LOOKED_AT * self.pulses
        pattern, shares = (
            code.table("pattern", self._pattern.tolist()),
            code.table("shares", self.shares),
        )
        shares_u = code.table("shares_u", self.u)
        alike = code.table("alike", self._alike.ravel().tolist(), Kind.WHOLE)
        between = code.table("between", self._between.ravel().tolist())
        logs, offs = code.array("logs", m), code.array("offs", window)
        places = code.array("places", window, Kind.WHOLE)
        seen, way = code.state("seen", 0.0, Kind.WHOLE), code.state("way", -1.0, Kind.WHOLE)
        whole_count = code.let("whole", whole(floor(count.value + 0.5)))
        place = code.let("place", rest_of(whole_count, m))
        with code.when(gap.ok & (gap.value > 0.0)):
            fresh = code.let("fresh", log(gap.value))
            _push(code, logs, m, fresh)
            code.set(seen, pick(seen < m + window, seen + 1, seen))
            total = code.variable("total", 0.0)
            with code.each("n", m) as n:
                code.set(total, total + logs[n])
            _push(code, offs, window, fresh - total / float(m))
            _push(code, places, window, place)
            with code.when(seen >= m - 1 + window):
                misfits = code.array("misfits", m)
                best = code.variable("best", 0)
                with code.each("r", m) as r:
                    misfit = code.variable("misfit", 0.0)
                    with code.each("n", window) as n:
                        off = code.let("off", offs[n] - pattern[rest_of(places[n] + r, m)])
                        code.set(misfit, misfit + off * off)
                    code.set(misfits[r], misfit)
                    with code.when(misfit < misfits[best]):
                        code.set(best, r)
                others = code.variable("others", math.inf)
                with code.each("r", m) as r:
                    is_other = alike[best * m + r].is_(0) & (misfits[r] < others)
                    with code.when(is_other):
                        code.set(others, misfits[r])
                with code.when(misfits[best] < others * _CLEARLY):
                    code.set(way, best)
        with code.when((way >= 0) & gap.ok):
            at = code.let("at", rest_of(place + way, m))
            code.set(even, shares[at] * float(m))
            learnt = code.let("learnt", shares_u[at] * float(m) / even)
            doubt = code.let("between_u", between[way * m + place] / math.sqrt(3.0))
            code.set(u, root(learnt * learnt + doubt * doubt))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One gap."""
        gap, count, timing = readings[0].lanes
        edges = Signal.of(
            [readings[0].time_s],
            [[gap.value], [count.value], [timing.value]],
            EDGES,
            [[int(gap.status)], [0], [0]],
        )
        way, _ = self._ways(state, edges)
        result, _ = self.run(state, edges)
        even, u = (float(one[0]) for one in self._evened(edges, way))
        value = float(result.values[GAP, 0])
        parts = [
            Component(
                part.name, part.u_input, part.input_unit, part.contribution / even, part.shared,
                part.basis,
            )
            for part in gap.components
        ]  # fmt: skip
        is_known = int(way[0]) >= 0 and gap.status == Status.OK
        if u > 0.0 and not math.isnan(value):
            basis = self.basis
            if self.shares and not is_known:
                basis = "not known yet which magnet passed"
            parts.append(Component(_PART, 100.0 * u, "%", value * u, False, basis))
        if self.scatter > 0.0 and not math.isnan(value):
            seen = 100.0 * self.scatter
            parts.append(
                Component(
                    "edge jitter", seen, "%", value * self.scatter, False,
                    "how alike turns were when the spacing was learnt",
                )
            )  # fmt: skip
        place = (int(self._places(edges)[0]) + int(way[0])) % self.pulses + 1
        if is_known:
            below = f"gap {place} of {self.pulses}"
        else:
            below = "not known which magnet yet" if self.shares else f"taken as {self.pulses} alike"
        return Step(
            stage=self.name,
            label="spaced as" if is_known else "spaced evenly",
            sign="÷",
            operand=Operand(even, "", 0.0),
            formula="Δt/(sₖ·m), the share of a turn divided out",
            filled=f"{prefixed(gap.value, 's', 6)} ÷ {grouped(even, 4)}",
            value=value,
            quantity=EDGES,
            status=gap.status,
            components=tuple(parts),
            source="common practice: magnets are never evenly spaced",
            note=gap.status.remark,
            below=below,
            others=(count, Lane(float(result.values[TIMING, 0]), timing.status)),
        )


def rest_of(x: Term, m: int) -> Term:
    """x modulo m, for whole numbers that are not below 0."""
    return x - x / m * m


def _push(code: Code, into: Array, size: int, value: Term) -> None:
    """Put a value behind the others; the first falls out."""
    with code.each("n", size - 1) as n:
        code.set(into[n], into[n + 1])
    code.set(into[size - 1], value)


def _running_sum(values: FloatArray, width: int) -> FloatArray:
    """The sum of each value and the width − 1 before it; NaN while there are too few.

    Added up in the same order wherever a block begins, so that any cut gives the same.
    """
    total = np.full(len(values), np.nan)
    if len(values) < width:
        return total
    part = np.zeros(len(values) - width + 1)
    for lag in range(width):
        part += values[lag : lag + len(part)]
    total[width - 1 :] = part
    return total


def _running_mean(values: FloatArray, width: int) -> FloatArray:
    return _running_sum(values, width) / width
