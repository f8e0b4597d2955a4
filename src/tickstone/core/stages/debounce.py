"""Pulses too soon after another are a switch chattering; their time belongs to the next gap."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.display import prefixed
from tickstone.core.edges import COUNT, EDGES, GAP, added_from
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import pick
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step


@dataclass(frozen=True, slots=True)
class Debounce:
    """Edges to edges. A gap below `shortest_s` since any pulse before is flagged as bounce.

    The count goes back by it, and its time is added to the next gap, which then is whole.
    State: time of bounces not given to a gap yet, s, and how many there were so far.

    >>> from tickstone.core.stages.time_edges import TimeEdges
    >>> edges, _ = TimeEdges(0.0).run((None, (None, 0.0)), Signal.of([0, 1, 1.0002, 2], [1] * 4))
    >>> clean, _ = Debounce(0.001).run(Debounce(0.001).begin(), edges)
    >>> clean.value[[1, 3]].tolist(), clean.values[1].tolist(), clean.flag.tolist()
    ([1.0, 1.0], [1.0, 2.0, 2.0, 3.0], [8, 0, 9, 0])
    """

    name: ClassVar[str] = "bounce"
    own_times: ClassVar[bool] = False

    shortest_s: float

    def gives(self, *taken: Quantity) -> Quantity:
        """Edges."""
        return EDGES

    def begin(self) -> State:
        """No bounce yet."""
        return (0.0, 0.0)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The block, with what chattered flagged."""
        return self.overwrite(state, signals[0].copied())

    def overwrite(self, state: State, signal: Signal) -> tuple[Signal, State]:
        """The same, in place."""
        edges = signal
        carried, bounced = state
        gap = edges.values[GAP]
        places = (gap < self.shortest_s).nonzero()[0]
        places = places[edges.status[GAP, places] == Status.OK]
        if len(edges) == 0 or (carried == 0.0 and bounced == 0.0 and places.size == 0):
            return edges, state
        lost = bounced + np.arange(places.size + 1.0)
        added_from(edges.values[COUNT], places, -lost)
        carried = self._handed_on(gap, places, carried)
        edges.status[GAP, places] = Status.BOUNCE
        return edges, (carried, float(lost[-1]))

    @staticmethod
    def _handed_on(gap: FloatArray, places: npt.NDArray[np.intp], carried: float) -> float:
        """Add what chattered just before it to every gap; what is left at the end of the block."""
        if places.size == 0:
            gap[0] += carried
            return 0.0
        firsts = np.flatnonzero(np.concatenate(([True], places[1:] - places[:-1] > 1)))
        sums = np.add.reduceat(gap[places], firsts)
        after = places[np.append(firsts[1:], places.size) - 1] + 1
        if places[0] == 0:
            sums[0] += carried
        else:
            gap[0] += carried
        left = float(sums[-1]) if after[-1] == len(gap) else 0.0
        inside = after < len(gap)
        gap[after[inside]] += sums[inside]
        return left

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        gap, count, timing = entering[0].lanes
        given, bounced = code.state("given_on", 0.0), code.state("bounced", 0.0)
        chatters = code.let("chatters", gap.ok & (gap.value < self.shortest_s))
        value = code.let("whole_gap", pick(chatters, gap.value, gap.value + given))
        code.set(given, pick(chatters, given + gap.value, 0.0))
        code.set(bounced, pick(chatters, bounced + 1.0, bounced))
        status = pick(chatters, Status.BOUNCE, gap.status)
        return entering[0].of(EmittedLane(value, status), count.of(count.value - bounced), timing)

    def explain(self, state: State, *readings: Reading) -> Step:
        """Whether one pulse is too soon, and what its gap takes in."""
        carried, bounced = state
        gap, count, timing = readings[0].lanes
        chatters = gap.status == Status.OK and gap.value < self.shortest_s
        status = Status.BOUNCE if chatters else gap.status
        value = gap.value if chatters else gap.value + carried
        shortest = prefixed(self.shortest_s, "s")
        filled = f"{prefixed(gap.value, 's', 5)} {'<' if chatters else '≥'} {shortest}"
        if carried and not chatters:
            filled += f", and {prefixed(carried, 's', 3)} of bounce before it"
        counted = count.value - bounced - (1.0 if chatters else 0.0)
        return Step(
            stage=self.name,
            label="no bounce",
            sign="≥",
            operand=Operand(None, "", 0.0, shortest),
            formula="a gap below the shortest is bounce",
            filled=filled,
            value=value,
            quantity=EDGES,
            status=status,
            components=gap.components,
            source="common practice",
            note=status.remark,
            others=(type(count)(counted, count.status), timing),
        )
