"""Edges on a board: whether one came with a line, and its gap, its count and its doubt."""

from __future__ import annotations

from tickstone.core.edges import SHORTEST_PAUSE_S, TIMES_THE_LAST
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import (
    NOTHING,
    Given,
    Kind,
    Name,
    Term,
    carried,
    is_number,
    pick,
    real,
    seconds_between,
    term,
)
from tickstone.core.status import Status


class Since:
    """When something was last, on a counter that goes round: longer ago than half of it is told as
    half of it.
    """

    def __init__(self, code: Code, hint: str) -> None:
        self._code = code
        self._mark = code.state(f"{hint}_us", 0.0, Kind.CLOCK)
        self.is_known = code.state(f"has_{hint}", 0.0, Kind.FLAG)

    def seconds(self, at: Term) -> Name:
        """How long ago at a time; NaN where it never was."""
        code = self._code
        code.set(self._mark, carried(self._mark, at))
        passed = seconds_between(at, self._mark)
        return code.let("waited", pick(self.is_known, passed, NOTHING))

    def note(self, at: Term) -> None:
        """It is now."""
        self._code.set(self._mark, at)
        self._code.set(self.is_known, True)


def edges_of(
    code: Code,
    entering: Emitted,
    happens: Term,
    timing_s: Given,
    pulses: Term | None = None,
    verdict: Term | None = None,
    gap_s: Term | None = None,
) -> Emitted:
    """What `edges.as_edges` makes of what was found, for one line: see `edges.Found`."""
    happens = code.let("happens", happens)
    last = Since(code, "edge")
    count = code.state("count", 0.0)
    gap = code.variable("gap", NOTHING)
    said = code.variable("said", Status.OK)
    counted: Term = pulses if pulses is not None else term(1.0)
    with code.when(happens):
        waited = last.seconds(entering.at)
        own: Term = waited
        if pulses is not None:
            own = pick(pulses > 0.0, waited / pulses, NOTHING)
        code.set(gap, own if gap_s is None else pick(is_number(gap_s), gap_s, own))
        code.set(said, Status.OK if verdict is None else verdict)
        is_first = ~is_number(gap) & said.is_(Status.OK)
        if pulses is None:
            is_first = is_first & ~last.is_known
        code.set(said, pick(is_first, Status.FIRST_PULSE, said))
        code.set(count, count + counted)
        last.note(entering.at)
    return as_flow(entering, happens, (gap, said), count, term(timing_s))


def as_flow(
    entering: Emitted, happens: Term, gap: tuple[Term, Term], count: Term, timing: Term
) -> Emitted:
    """Edges as they go on: gap with its status, count, timing."""
    fine = term(Status.OK)
    lanes = (EmittedLane(*gap), EmittedLane(count, fine), EmittedLane(real(timing), fine))
    return Emitted(lanes, entering.at, happens)


class Pauses:
    """Levels that are read line by line, and were not for so long that pulses passed unseen: see
    `edges.pauses`.
    """

    def __init__(self, code: Code) -> None:
        self._code = code
        self._last_wait = code.state("last_wait")
        self._was = code.state("was_pause", 0.0, Kind.FLAG)

    def look(self, waited: Term) -> None:
        """Take the time since the line before into account."""
        code = self._code
        usual = code.let("long", self._last_wait * TIMES_THE_LAST)
        long = waited > pick(usual > SHORTEST_PAUSE_S, usual, SHORTEST_PAUSE_S)
        code.set(self._was, self._was | (long & is_number(self._last_wait)))
        code.set(self._last_wait, waited)

    def unseen(self, happens: Term) -> Name:
        """Whether one came after a pause; then it is told, and forgotten."""
        code = self._code
        unseen = code.let("unseen", happens & self._was)
        code.set(self._was, self._was & ~happens)
        return unseen
