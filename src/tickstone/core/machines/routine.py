"""A machine as a routine for a board: one step for each line that is read, and never a wait.

What a time decides between two lines is made up for at the next, at the very microsecond it was
due, so that the states are those of a replay. Marks in time are carried along before the board's
counter has gone half way round, so that its wrap is no matter.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tickstone.core.emit.code import CannotEmitError, Code
from tickstone.core.emit.routine import NOW, Entry, Routine, Told, finished
from tickstone.core.emit.terms import (
    NOTHING,
    Kind,
    Name,
    Number,
    Term,
    all_of,
    any_of,
    carried,
    cut,
    is_among,
    is_number,
    left_of,
    pick,
    real,
    size,
    term,
)
from tickstone.core.machines.conditions import AND, ATOM, NOT, OR, Atom, Condition
from tickstone.core.machines.machine import (
    HIGHEST,
    HOLD,
    LAST,
    LOWEST,
    Machine,
    MachineInput,
    MachineState,
)
from tickstone.core.machines.running import AT_START, BY_BLINDNESS, BY_TIME, USABLE
from tickstone.core.machines.together import APART_K, BEARS_A_VALUE, FARTHEST, TRUST
from tickstone.core.quantity import NUMBER, DecisionState, Quantity
from tickstone.core.status import Status

LONGEST_US = 2_000_000_000
"""Half of what the board's counter holds, a little less: 33 min."""
_NEVER = 1.5
"""Lines that have to come while a reading counts."""
STATE, CAUSE = "state", "cause"


def machine_routine(machine: Machine, name: str, period_us: int) -> Routine:
    """A machine as a routine that tells its state and why it was entered.

    period_us: between two lines. Each input of its own goes in with its status. Raises
    CannotEmitError for what a board cannot carry.

    >>> machine = Machine.of({
    ...     "inputs": [{"name": "x"}], "states": [{"name": "go"}, {"name": "stop"}],
    ...     "transitions": [{"leaves": "go", "to": "stop", "when": "x < 0.4"}]})
    >>> [one.names for one in machine_routine(machine, "rules", 50_000).entries]
    [('x_in',)]
    """
    _check(machine, period_us)
    return _Machine(machine, name).routine()


def _check(machine: Machine, period_us: int) -> None:
    for one in machine.inputs:
        if not one.together and one.longest_s * 1e6 < _NEVER * period_us:
            raise CannotEmitError(
                f"{one.name} counts for {one.longest_s:g} s, and a line comes every "
                f"{period_us * 1e-6:g} s: it would be too old half the time; take more lines a "
                "second, or let it count for longer"
            )
    times = [
        *((f"{one.name} stays", one.stay_s) for one in machine.states),
        *((f"{one.name} is left after", one.leave_after_s or 0.0) for one in machine.states),
        *((f"“{one.when}” waits", one.for_s) for one in machine.transitions),
        ("it goes blind for", machine.when_blind.hold_s or 0.0),
    ]
    for what, seconds in times:
        if seconds * 1e6 > LONGEST_US:
            raise CannotEmitError(
                f"{what} {seconds:g} s; a board's counter tells no more than "
                f"{LONGEST_US * 1e-6:g} s"
            )


@dataclass(slots=True)
class _Input:
    """What is kept of an input between two lines."""

    given: MachineInput
    value: Name
    is_told: Name
    is_slow: Name | None
    status: Name | None
    is_invalid: Name
    since: Name
    lasts: Name | None


@dataclass(slots=True)
class _Way:
    """What is kept of a transition. since, waits, untold_since, is_untold: only where it waits."""

    number: int
    condition: Condition
    is_true: Name
    for_us: Name | None = None
    since: Name | None = None
    waits: Name | None = None
    untold_since: Name | None = None
    is_untold: Name | None = None


class _Machine:
    """One machine being said."""

    def __init__(self, machine: Machine, name: str) -> None:
        self.machine = machine
        self.name = name
        self.code = code = Code()
        self.how = machine.when_blind.how
        self.entries = [
            Entry(one.name, (f"{one.name}_in",), NUMBER, (f"{one.name}_in_status",))
            for one in machine.inputs
            if not one.together
        ]
        self.states = [
            code.constant(f"is_{one.name}", n, "", None, _state_said(one), Kind.WHOLE)
            for n, one in enumerate(machine.states)
        ]
        self.state = code.state("in_state", machine.place_of(machine.start), Kind.WHOLE)
        self.cause = code.state("by", AT_START, Kind.WHOLE)
        self.entered = code.state("entered_us", 0.0, Kind.CLOCK)
        self.reached = code.state("reached_us", 0.0, Kind.CLOCK)
        self.marks = [self.entered]
        self.statuses = _asked_statuses(machine)
        self.inputs = {one.name: self._input(one) for one in machine.inputs}
        hold_s = machine.when_blind.hold_s
        self.blind_us: Name | None = None
        if hold_s is not None:
            what = "blindness is borne so long"
            self.blind_us = self._clock("blind", hold_s, what)
        self.stays = [
            self._clock(f"{one.name}_stays", one.stay_s, f"{one.name} is not left before")
            for one in machine.states
        ]
        self.ways = [self._way(n) for n in range(len(machine.transitions))]

    def _clock(self, hint: str, seconds: float, rests_on: str) -> Name | None:
        us = round(seconds * 1e6)
        if not us:
            return None
        return self.code.constant(f"{hint}_us", us, "us", None, rests_on, Kind.CLOCK)

    def _mark(self, hint: str) -> Name:
        name = self.code.state(hint, 0.0, Kind.CLOCK)
        self.marks.append(name)
        return name

    def _input(self, one: MachineInput) -> _Input:
        code = self.code
        code.prefix = one.name
        has_fallback = self.how in (LOWEST, HIGHEST)
        kept = _Input(
            one,
            code.state("value", _FALLBACKS.get(self.how, math.nan)),
            code.state("is_told", float(has_fallback), Kind.FLAG),
            None if one.together else code.state("is_slow", 0.0, Kind.FLAG),
            code.state("status", float(Status.NOT_YET), Kind.STATUS)
            if one.name in self.statuses
            else None,
            code.state("is_invalid", 1.0, Kind.FLAG),
            self._mark("invalid_us"),
            code.state("lasts", 0.0, Kind.FLAG) if self.how == LAST else None,
        )
        code.prefix = ""
        return kept

    def _way(self, number: int) -> _Way:
        one = self.machine.transitions[number]
        code = self.code
        hint = f"way_{number + 1}"
        way = _Way(
            number, self.machine.conditions[number], code.state(f"{hint}_is_true", 0.0, Kind.FLAG)
        )
        if round(one.for_s * 1e6):
            said = f"{one.leaves} to {one.to} waits"
            way.for_us = self._clock(f"{hint}_waits", one.for_s, said)
            way.since = self._mark(f"{hint}_since_us")
            way.waits = code.state(f"{hint}_is_waiting", 0.0, Kind.FLAG)
            way.untold_since = self._mark(f"{hint}_untold_us")
            way.is_untold = code.state(f"{hint}_is_untold", 0.0, Kind.FLAG)
        return way

    def routine(self) -> Routine:
        """All of it."""
        code = self.code
        code.remark("What the sensors say now.")
        heard = self._heard()
        begun = code.state("is_begun", 0.0, Kind.FLAG)
        with code.when(~begun):
            code.set(begun, True)
            code.set(self.reached, NOW)
            for mark in self.marks:
                code.set(mark, NOW)
        taken = code.variable("is_taken", False)
        fresh = code.variable("is_fresh", False)
        done = code.variable("is_done", False)
        hops = code.variable("hops", 0)
        code.remark("What ran out since the line before, each when it was due; then this line.")
        with code.while_(~done):
            with code.when(fresh):
                code.set(fresh, False)
                for way in self.ways:
                    self._judge(way)
            self._go(heard, taken, fresh, done, hops)
        code.remark("Marks are carried along: a counter that has gone round tells nothing.")
        for mark in self.marks:
            code.set(mark, carried(mark, NOW))
        told = [
            self._tell(STATE, self.state, _quantity(self.machine)),
            self._tell(CAUSE, self.cause, Quantity("cause", "", decimals=0)),
        ]
        return finished(code, self.name, self.entries, told)

    def _tell(self, hint: str, value: Name, quantity: Quantity) -> Told:
        code = self.code
        shown = code.state(hint)
        status = code.state(f"{hint}_status", float(Status.OK), Kind.STATUS)
        code.set(shown, real(value))
        code.set(status, Status.OK)
        return Told(hint, quantity, (shown.text,), (status.text,))

    # What is heard

    def _heard(self) -> dict[str, tuple[Term, Name]]:
        """Value and status of every input at this line."""
        code = self.code
        found: dict[str, tuple[Term, Name]] = {}
        for entry in self.entries:
            value, status = entry.parameters
            code.prefix = entry.role
            said = pick(is_number(value) | status.is_not(Status.OK), status, Status.MISSING)
            found[entry.role] = (value, code.let("said", said))
        for one in self.machine.inputs:
            if one.together:
                code.prefix = one.name
                found[one.name] = _together(code, one, [found[name] for name in one.of])
        code.prefix = ""
        return found

    def _take(self, heard: Mapping[str, tuple[Term, Name]]) -> None:
        """What an input says is what it counts as from now on."""
        code = self.code
        for name, one in self.inputs.items():
            value, status = heard[name]
            code.prefix = name
            usable = [*USABLE] if one.is_slow is None else [*USABLE, Status.SLOW]
            counts = code.let("counts", is_number(value) & is_among(status, usable))
            if one.status is not None:
                code.set(one.status, status)
            with code.when(counts):
                code.set(one.value, value)
                code.set(one.is_told, True)
                if one.is_slow is not None:
                    code.set(one.is_slow, status.is_(Status.SLOW))
                code.set(one.is_invalid, False)
                if one.lasts is not None:
                    code.set(one.lasts, False)
            with code.otherwise():
                self._goes_blind(one)
            code.prefix = ""

    def _goes_blind(self, one: _Input) -> None:
        code = self.code
        with code.when(~one.is_invalid):
            code.set(one.is_invalid, True)
            code.set(one.since, NOW)
            if one.lasts is not None:
                code.set(one.lasts, one.is_told)
        if one.lasts is not None:
            if self.blind_us is not None:
                with code.when((self.reached - one.since) >= self.blind_us):
                    code.set(one.lasts, False)
            code.set(one.is_told, one.lasts)
        elif self.how == HOLD:
            code.set(one.is_told, False)
        else:
            code.set(one.value, _FALLBACKS[self.how])
            if one.is_slow is not None:
                code.set(one.is_slow, False)

    # What is true

    def _judge(self, way: _Way) -> None:
        """Whether a condition is true, and since when."""
        code = self.code
        code.remark(way.condition.said)
        yes, no = self._told(way.condition)
        hint = f"way_{way.number + 1}"
        code.set(way.is_true, yes)
        if way.since is None or way.waits is None:
            return
        assert way.is_untold is not None
        assert way.untold_since is not None
        with code.when(way.is_true):
            stale: Term = ~way.waits
            if self.blind_us is not None:
                long_ago = (self.reached - way.untold_since) > self.blind_us
                stale = stale | (way.is_untold & long_ago)
            with code.when(stale):
                code.set(way.since, self.reached)
            code.set(way.waits, True)
            code.set(way.is_untold, False)
        is_false = code.let(f"{hint}_is_false", no)
        with code.when(is_false):
            code.set(way.waits, False)
            code.set(way.is_untold, False)
        with code.when(~way.is_true & ~is_false & way.waits & ~way.is_untold):
            code.set(way.is_untold, True)
            code.set(way.untold_since, self.reached)

    def _told(self, condition: Condition) -> tuple[Term, Term]:
        """Whether it is true, and whether it is false; neither where that cannot be told."""
        stack: list[tuple[Term, Term]] = []
        for what, number in condition.steps:
            if what == ATOM:
                stack.append(self._atom(condition.atoms[number]))
            elif what == NOT:
                yes, no = stack.pop()
                stack.append((no, yes))
            else:
                k, n = (2, 2) if what == AND else (1, 2) if what == OR else divmod(number, 256)
                given = stack[-n:]
                del stack[-n:]
                stack.append(self._so_many(given, k))
        return stack[0]

    def _so_many(self, given: Sequence[tuple[Term, Term]], k: int) -> tuple[Term, Term]:
        yes, no = [one for one, _ in given], [one for _, one in given]
        n = len(given)
        if k == n:
            return all_of(yes), any_of(no)
        if k == 1:
            return any_of(yes), all_of(no)
        return _count(yes) >= k, _count(no) >= n - k + 1

    def _atom(self, atom: Atom) -> tuple[Term, Term]:
        one = self.inputs[atom.input]
        if atom.status is not None:
            assert one.status is not None
            says, not_so = one.status.is_(atom.status), one.status.is_not(atom.status)
            return (not_so, says) if atom.is_not else (says, not_so)
        inside, outside = self._ends(atom)
        yes, no = all_of([one.is_told, *inside]), one.is_told & any_of(outside)
        if one.is_slow is not None:
            # The truth lies below what is told: only what that leaves no doubt of is known.
            if not math.isinf(atom.low):
                yes = one.is_told & ~one.is_slow & all_of(inside)
                below = outside[0]
                no = one.is_told & (below | (~one.is_slow & any_of(outside)))
            else:
                no = one.is_told & ~one.is_slow & any_of(outside)
        return (no, yes) if atom.is_not else (yes, no)

    def _ends(self, atom: Atom) -> tuple[list[Term], list[Term]]:
        """What has to hold of its value; and each the other way round, the lower end first."""
        code = self.code
        one = self.inputs[atom.input]
        inside: list[Term] = []
        outside: list[Term] = []
        for end, signs in ((atom.low, _LOW), (atom.high, _HIGH)):
            if math.isinf(end):
                continue
            number, is_past = _plain(end)
            sign, other = signs[is_past]
            at: Term = Number(number, Kind.REAL)
            if not one.given.states:
                code.prefix = atom.input
                at = self._named_cut(sign, number, atom)
                code.prefix = ""
            inside.append(cut(sign, one.value, at))
            outside.append(cut(other, one.value, at))
        return inside, outside

    def _named_cut(self, sign: str, number: float, atom: Atom) -> Name:
        """Each number once, however many conditions speak of it."""
        unit = self.inputs[atom.input].given.unit
        for one in self.code.constants:
            if one.name.startswith(f"{atom.input}_{sign}") and one.value == number:
                return Name(one.name, Kind.REAL)
        return self.code.constant(sign, number, unit, None, atom.said)

    # What comes next

    def _go(
        self, heard: Mapping[str, tuple[Term, Name]], taken: Name, fresh: Name, done: Name,
        hops: Name,
    ) -> None:  # fmt: skip
        code = self.code
        room = code.let("room_us", pick(taken, Number(1, Kind.CLOCK), NOW - self.reached))
        due = code.variable("due_us", room)
        to, by = code.variable("to", -1), code.variable("due_by", AT_START)
        for n, state in enumerate(self.machine.states):
            if self._leads(state):
                with code.when(self.state.is_(self.states[n])):
                    self._soonest(n, due, to, by)
        goes = code.let("goes", (to >= 0) & (hops < self._most_hops))
        expires: Term | None = None
        if self.how == LAST and self.blind_us is not None:
            soon = code.variable("soon_us", room)
            for one in self.inputs.values():
                assert one.lasts is not None
                with code.when(one.lasts):
                    left = code.let("lasts_us", self._left(one.since, self.blind_us))
                    code.set(soon, pick(left < soon, left, soon))
            expires = code.let("expires", (soon < room) & (~goes | (soon <= due)))
            with code.when(expires):
                code.set(self.reached, self.reached + soon)
                for one in self.inputs.values():
                    assert one.lasts is not None
                    over = (self.reached - one.since) >= self.blind_us
                    with code.when(one.lasts & over):
                        code.set(one.lasts, False)
                        code.set(one.is_told, False)
                code.set(fresh, True)
        with code.when(goes if expires is None else goes & ~expires):
            code.set(self.reached, self.reached + due)
            code.set(self.entered, self.reached)
            code.set(self.state, to)
            code.set(self.cause, by)
            code.set(hops, hops + 1)
        rests = code.let("rests", ~goes if expires is None else ~goes & ~expires)
        code.set(done, rests & taken)
        with code.when(rests & ~taken):
            code.set(taken, True)
            code.set(self.reached, NOW)
            self._take(heard)
            code.set(fresh, True)

    @property
    def _most_hops(self) -> int:
        """Changes of state in one line, so that nothing goes round without an end."""
        return 4 * len(self.machine.states) + 8

    def _leads(self, state: MachineState) -> bool:
        return (
            any(True for _ in self.machine.leaving(state.name))
            or state.leave_after_s is not None
            or self._blind_leads(state)
        )

    def _blind_leads(self, state: MachineState) -> bool:
        blind = self.machine.when_blind
        return (
            blind.hold_s is not None
            and bool(blind.go_to)
            and blind.go_to != state.name
            and self.how in (HOLD, LAST)
            and bool(self.machine.watched(state.name))
        )

    def _left(self, since: Name, lasts: Name | None) -> Term:
        """How much is left at the time reached of what lasts so long, µs."""
        if lasts is None:
            return Number(0, Kind.CLOCK)
        return left_of(lasts, since, self.reached)

    def _soonest(self, n: int, due: Name, to: Name, by: Name) -> None:
        """What leads out of a state first: in the order of the rules, of those due at once."""
        code = self.code
        state = self.machine.states[n]
        stays = self.stays[n]

        def offers(marks: Sequence[tuple[Name, Name | None]], target: str, cause: int) -> None:
            left = code.let(
                "left_us", _longest([code.let("left_us", self._left(*one)) for one in marks])
            )
            with code.when(left < due):
                code.set(due, left)
                code.set(to, self.states[self.machine.place_of(target)])
                code.set(by, cause)

        for number, one in self.machine.leaving(state.name):
            way = self.ways[number]
            marks = [(way.since, way.for_us)] if way.since is not None else []
            if not one.at_once and stays is not None:
                marks.append((self.entered, stays))
            with code.when(way.is_true):
                offers(marks, one.to, number)
        if state.leave_after_s is not None:
            said = f"{state.name} is left after"
            after = self._clock(f"{state.name}_leaves", state.leave_after_s, said)
            offers([(self.entered, after)], state.leave_to, BY_TIME)
        if self._blind_leads(state):
            for name in sorted(self.machine.watched(state.name)):
                seen = self.inputs[name]
                with code.when(seen.is_invalid):
                    marks = [(seen.since, self.blind_us)]
                    offers(marks, self.machine.when_blind.go_to, BY_BLINDNESS)


_FALLBACKS = {LOWEST: -math.inf, HIGHEST: math.inf}
_LOW = {False: ("reaches", "below"), True: ("above", "at_most")}
_HIGH = {False: ("below", "reaches"), True: ("at_most", "above")}


def _plain(end: float) -> tuple[float, bool]:
    """A number that a condition speaks of as it was written, and whether what is meant begins just
    past it.

    >>> _plain(0.42), _plain(math.nextafter(5.0, math.inf))
    ((0.42, False), (5.0, True))
    """
    before = math.nextafter(end, -math.inf)
    return (before, True) if len(repr(before)) < len(repr(end)) else (end, False)


def _longest(parts: Sequence[Term]) -> Term:
    if not parts:
        return Number(0, Kind.CLOCK)
    if len(parts) == 1:
        return parts[0]
    one, other = parts
    return pick(one < other, other, one)


def _count(flags: Sequence[Term]) -> Term:
    """How many of them are so."""
    total: Term = term(0)
    for n, one in enumerate(flags):
        counted = pick(one, term(1), term(0))
        total = total + counted if n else counted
    return total


def _asked_statuses(machine: Machine) -> frozenset[str]:
    return frozenset(
        atom.input
        for condition in machine.conditions
        for atom in condition.atoms
        if atom.status is not None
    )


def _state_said(one: MachineState) -> str:
    return f"“{one.name}”: {one.action}" if one.action else f"“{one.name}”"


def _quantity(machine: Machine) -> Quantity:
    states = tuple(
        DecisionState(one.name, one.name.replace("_", " "), one.is_alarm) for one in machine.states
    )
    return Quantity("state", "", decimals=0, states=states)


def _together(code: Code, one: MachineInput, of: Sequence[tuple[Term, Name]]) -> tuple[Term, Name]:
    """Several as one: see `together.put_together`."""
    good = [
        code.let(f"good_{n}", is_number(value) & status.is_(Status.OK))
        for n, (value, status) in enumerate(of, 1)
    ]
    value = code.variable("of_all", NOTHING)
    for (each, _), is_good in zip(of, good, strict=True):
        better = each > value if one.together == FARTHEST else each < value
        with code.when(is_good & (~is_number(value) | better)):
            code.set(value, each)
    many = code.let("many", _count(good))
    at_odds: Term | None = None
    for a in range(len(one.us)):
        for b in range(a + 1, len(one.us)):
            apart = APART_K * math.hypot(one.us[a], one.us[b])
            differ = size(of[a][0] - of[b][0]) > apart
            pair = good[a] & good[b] & differ
            at_odds = pair if at_odds is None else at_odds | pair
    if at_odds is not None:
        at_odds = code.let("is_at_odds", at_odds)
    if one.together == TRUST and at_odds is not None:
        with code.when((many > 1) & ~at_odds):
            weights = [
                code.let(f"weight_{n}", pick(is_good, u**-2, 0.0))
                for n, (is_good, u) in enumerate(zip(good, one.us, strict=True), 1)
            ]
            total, summed = term(0.0), term(0.0)
            for (each, _), is_good, weight in zip(of, good, weights, strict=True):
                total = total + weight
                summed = summed + pick(is_good, weight * each, 0.0)
            code.set(value, summed / total)
    status = pick(many.is_(1), Status.ONE_ALONE, Status.OK)
    if at_odds is not None:
        status = pick(at_odds, Status.AT_ODDS, status)
    first = of[0][1]
    none = pick(is_among(first, BEARS_A_VALUE), Status.MISSING, first)
    return value, code.let("said", pick(many.is_(0), none, status))
