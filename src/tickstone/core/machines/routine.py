"""A machine as a routine for a board: one step for each line that is read, and never a wait.

What a time decides between two lines is made up for at the next, at the very microsecond it was
due, so that the states are those of a replay. Marks in time are carried along before the board's
counter has gone half way round, so that its wrap is no matter.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from tickstone.core.emit.code import Array, CannotEmitError, Code
from tickstone.core.emit.routine import NOW, Entry, Routine, Told, finished
from tickstone.core.emit.terms import (
    NOTHING,
    Given,
    Kind,
    Name,
    Number,
    Term,
    carried,
    is_among,
    is_number,
    left_of,
    pick,
    real,
    size,
    term,
    whole,
)
from tickstone.core.machines.machine import (
    ANY,
    HIGHEST,
    HOLD,
    LAST,
    LOWEST,
    Machine,
    MachineInput,
    MachineState,
)
from tickstone.core.machines.running import AT_START, BY_BLINDNESS, BY_TIME, Runner
from tickstone.core.machines.together import APART_K, BEARS_A_VALUE, FARTHEST, TRUST
from tickstone.core.machines.truths import Truths, count_of
from tickstone.core.quantity import NUMBER, DecisionState, Quantity
from tickstone.core.status import Status

LONGEST_US = 2_000_000_000
"""Half of what the board's counter holds, a little less: 33 min."""
_LINES_APART = 1.1
"""How much longer than the time between two lines a reading has to count: lines may be late."""
_MOST_TURNS = 1_000
"""Changes of state in one line, so that none of it takes for ever."""
_MOST_SIDES = 1_000
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
        if not one.together and one.longest_s * 1e6 < _LINES_APART * period_us:
            raise CannotEmitError(
                f"{one.name} counts for {one.longest_s:g} s, and a line comes every "
                f"{period_us * 1e-6:g} s: it may be too old before the next comes; take more lines "
                "a second, or let it count for longer"
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


class _Machine:
    """One machine being said. Inputs, states and transitions by number, in arrays and tables, so
    that the code does not grow with each of them.
    """

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
        self.places = {one.name: n for n, one in enumerate(machine.inputs)}
        for n, state in enumerate(machine.states):
            code.constant(f"is_{state.name}", n, "", None, _state_said(state), Kind.WHOLE)
        self.state = code.state("in_state", machine.place_of(machine.start), Kind.WHOLE)
        self.cause = code.state("by", AT_START, Kind.WHOLE)
        self.entered = code.state("entered_us", 0.0, Kind.CLOCK)
        self.reached = code.state("reached_us", 0.0, Kind.CLOCK)
        self.hops = code.state("hops", 0.0, Kind.WHOLE)
        self.hop = code.state("hop_us", 0.0, Kind.CLOCK)
        inputs, ways = len(machine.inputs), max(1, len(machine.transitions))
        self.values = code.array("values", inputs)
        self.statuses = code.array("statuses", inputs, kind=Kind.STATUS)
        self.sides = code.array("sides", inputs, kind=Kind.WHOLE)
        self.is_told = code.array("is_told", inputs, kind=Kind.FLAG)
        self.is_slow = code.array("is_slow", inputs, kind=Kind.FLAG)
        self.is_seen = code.array("is_seen", inputs, kind=Kind.FLAG)
        self.truths = Truths(
            code, machine.inputs, Runner(machine).cuts, self.values, self.statuses, self.is_told,
            self.is_slow,
        )  # fmt: skip
        self.unseen_us = code.array("unseen_us", inputs, kind=Kind.CLOCK)
        self.lasts = code.array("lasts", inputs, kind=Kind.FLAG) if self.how == LAST else None
        self.is_true = code.array("is_true", ways, kind=Kind.FLAG)
        self.is_false = code.array("is_false", ways, kind=Kind.FLAG)
        self.waits = code.array("waits", ways, kind=Kind.FLAG)
        self.since_us = code.array("since_us", ways, kind=Kind.CLOCK)
        self.is_untold = code.array("is_untold", ways, kind=Kind.FLAG)
        self.untold_us = code.array("untold_us", ways, kind=Kind.CLOCK)
        hold_s = machine.when_blind.hold_s
        self.blind_us: Name | None = None
        if hold_s is not None:
            self.blind_us = code.constant(
                "blind_us", _us(hold_s), "us", None, "blindness is borne so long", Kind.CLOCK
            )
        self._tables()

    def _tables(self) -> None:
        code, machine = self.code, self.machine
        numbers = {**machine.numbers, ANY: -1}
        ways, states = machine.transitions, machine.states
        rows = [(numbers[o.leaves], numbers[o.to], int(o.at_once), _us(o.for_s)) for o in ways]
        # A table of nothing is none that a board knows.
        leaves, leads_to, at_once, waits = zip(*(rows or [(0, 0, 0, 0)]), strict=True)
        self.leaves = code.table("leaves", leaves, Kind.WHOLE)
        self.leads_to = code.table("to", leads_to, Kind.WHOLE)
        self.at_once = code.table("at_once", at_once, Kind.WHOLE)
        self.waits_us = code.table("waits_us", waits, Kind.CLOCK)
        self.blocks = code.table("blocks", [one.is_blocking for one in states], Kind.WHOLE)
        self.stays_us = code.table("stays_us", [_us(one.stay_s) for one in states], Kind.CLOCK)
        self.after_us = code.table(
            "after_us", [_us(one.leave_after_s or 0.0) for one in states], Kind.CLOCK
        )
        self.after_to = code.table(
            "after_to",
            [-1 if one.leave_after_s is None else numbers[one.leave_to] for one in states],
            Kind.WHOLE,
        )
        blind = machine.when_blind
        self.is_led_by_blindness = (
            blind.hold_s is not None and bool(blind.go_to) and self.how in (HOLD, LAST)
        )
        watched = [machine.watched(one.name) if one.name != blind.go_to else () for one in states]
        self.watches = code.table(
            "watches", [name in one for one in watched for name in self.places], Kind.WHOLE
        )

    def routine(self) -> Routine:
        """All of it."""
        code = self.code
        many, ways = len(self.places), len(self.machine.transitions)
        begun = code.state("is_begun", 0.0, Kind.FLAG)
        with code.when(~begun):
            code.set(begun, True)
            code.set(self.reached, NOW)
            code.set(self.entered, NOW)
            with code.each("n", many) as n:
                code.set(self.unseen_us[n], NOW)
                if self.how in _FALLBACKS:
                    code.set(self.values[n], _FALLBACKS[self.how])
                    code.set(self.is_told[n], True)
                code.set(self.statuses[n], Status.NOT_YET)
                code.set(self.sides[n], int(Status.NOT_YET) * _MOST_SIDES)
        code.remark("What the sensors say now.")
        heard_values = code.array("heard", many)
        heard_statuses = code.array("heard_status", many, kind=Kind.STATUS)
        for name, (value, status) in self._heard().items():
            code.set(heard_values[self.places[name]], value)
            code.set(heard_statuses[self.places[name]], status)
        taken = code.variable("is_taken", False)
        fresh = code.variable("is_fresh", False)
        done = code.variable("is_done", False)
        turns = code.variable("turns", 0)
        code.remark("What ran out since the line before, each when it was due; then this line.")
        with code.while_(~done):
            with code.when(fresh):
                code.set(fresh, False)
                self._judge()
            self._go((heard_values, heard_statuses), taken, fresh, done, turns)
        code.remark("Marks are carried along: a counter that has gone round tells nothing.")
        code.set(self.entered, carried(self.entered, NOW))
        with code.each("n", many) as n:
            code.set(self.unseen_us[n], carried(self.unseen_us[n], NOW))
        with code.each("n", ways) as n:
            code.set(self.since_us[n], carried(self.since_us[n], NOW))
            code.set(self.untold_us[n], carried(self.untold_us[n], NOW))
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

    def _take(self, heard: tuple[Array, Array]) -> None:
        """What each input says is what it counts as from now on."""
        code = self.code
        for number, one in enumerate(self.machine.inputs):
            side = self.truths.side(one, heard[0][number])
            said = code.let("side", whole(heard[1][number]) * _MOST_SIDES + side)
            with code.when(self.sides[number].is_not(said)):
                code.set(self.hops, 0)
            code.set(self.sides[number], said)
        with code.each("n", len(self.places)) as n:
            value, status = heard[0][n], heard[1][n]
            code.set(self.statuses[n], status)
            counts = is_number(value) & is_among(status, BEARS_A_VALUE)
            with code.when(code.let("counts", counts)):
                code.set(self.values[n], value)
                code.set(self.is_told[n], True)
                code.set(self.is_slow[n], status.is_(Status.SLOW))
                code.set(self.is_seen[n], True)
                if self.lasts is not None:
                    code.set(self.lasts[n], False)
            with code.otherwise():
                self._goes_blind(n)

    def _goes_blind(self, n: Name) -> None:
        code = self.code
        with code.when(self.is_seen[n]):
            code.set(self.is_seen[n], False)
            code.set(self.unseen_us[n], NOW)
            if self.lasts is not None:
                code.set(self.lasts[n], self.is_told[n])
        if self.lasts is not None:
            if self.blind_us is not None:
                with code.when((self.reached - self.unseen_us[n]) >= self.blind_us):
                    code.set(self.lasts[n], False)
            code.set(self.is_told[n], self.lasts[n])
        elif self.how == HOLD:
            code.set(self.is_told[n], False)
        else:
            code.set(self.values[n], _FALLBACKS[self.how])
            code.set(self.is_slow[n], False)

    # What is true

    def _judge(self) -> None:
        """Whether each condition is true, and since when."""
        code = self.code
        for number, condition in enumerate(self.machine.conditions):
            one = self.machine.transitions[number]
            code.remark(f"{one.leaves} to {one.to}: {condition.said}")
            yes, no = self.truths.told(condition)
            code.set(self.is_true[number], yes)
            code.set(self.is_false[number], no)
        with code.each("n", len(self.machine.transitions)) as n:
            waits, untold = self.waits[n], self.is_untold[n]
            with code.when(self.is_true[n]):
                stale: Term = ~waits
                if self.blind_us is not None:
                    long_ago = (self.reached - self.untold_us[n]) > self.blind_us
                    stale = stale | (untold & long_ago)
                with code.when(stale):
                    code.set(self.since_us[n], self.reached)
                code.set(waits, True)
                code.set(untold, False)
            with code.when(self.is_false[n]):
                code.set(waits, False)
                code.set(untold, False)
            with code.when(~self.is_true[n] & ~self.is_false[n] & waits & ~untold):
                code.set(untold, True)
                code.set(self.untold_us[n], self.reached)

    # What comes next

    def _go(
        self, heard: tuple[Array, Array], taken: Name, fresh: Name, done: Name, turns: Name
    ) -> None:
        code = self.code
        room = code.let("room_us", pick(taken, Number(1, Kind.CLOCK), NOW - self.reached))
        due = code.variable("due_us", room)
        to, by = code.variable("to", -1), code.variable("due_by", AT_START)
        self._soonest(due, to, by)
        rests_for = len(self.machine.states)
        goes = code.let("goes", (to >= 0) & (self.hops <= rests_for) & (turns < _MOST_TURNS))
        expires: Term | None = None
        if self.lasts is not None and self.blind_us is not None:
            expires = self._expiring(room, due, to, fresh)
        with code.when(goes if expires is None else goes & ~expires):
            code.set(self.reached, self.reached + due)
            # Round and round at one instant it rests, until something new is said.
            again = self.reached.is_(self.hop) & (self.hops > 0)
            code.set(self.hops, pick(again, self.hops + 1, 1))
            code.set(self.hop, self.reached)
            code.set(self.entered, self.reached)
            code.set(self.state, to)
            code.set(self.cause, by)
            code.set(turns, turns + 1)
        rests = code.let("rests", ~goes if expires is None else ~goes & ~expires)
        code.set(done, rests & taken)
        with code.when(rests & ~taken):
            code.set(taken, True)
            code.set(self.reached, NOW)
            self._take(heard)
            code.set(fresh, True)

    def _expiring(self, room: Name, due: Name, to: Name, fresh: Name) -> Term:
        """Whether a last good reading no longer counts before anything else is due."""
        code, lasts, blind_us = self.code, self.lasts, self.blind_us
        assert lasts is not None
        assert blind_us is not None
        soon = code.variable("soon_us", room)
        with code.each("n", len(self.places)) as n, code.when(lasts[n]):
            left = code.let("lasts_us", left_of(blind_us, self.unseen_us[n], self.reached))
            with code.when(left < soon):
                code.set(soon, left)
        expires = code.let("expires", (soon < room) & ((to < 0) | (soon <= due)))
        with code.when(expires):
            code.set(self.reached, self.reached + soon)
            with code.each("n", len(self.places)) as n:
                over = (self.reached - self.unseen_us[n]) >= blind_us
                with code.when(lasts[n] & over):
                    code.set(lasts[n], False)
                    code.set(self.is_told[n], False)
            code.set(fresh, True)
        return expires

    def _soonest(self, due: Name, to: Name, by: Name) -> None:
        """What leads out of the state first: in the order of the rules, of those due at once."""
        code = self.code
        stays = code.let("stays_us", left_of(self.stays_us[self.state], self.entered, self.reached))
        blocks = code.let("blocks", self.blocks[self.state].is_(1))
        with code.each("n", len(self.machine.transitions)) as n:
            leads = self.leaves[n].is_(self.state) | (
                (self.leaves[n] < 0) & self.leads_to[n].is_not(self.state)
            )
            with code.when(self.is_true[n] & ~blocks & leads):
                waits = code.variable(
                    "left_us", left_of(self.waits_us[n], self.since_us[n], self.reached)
                )
                with code.when(self.at_once[n].is_(0) & (waits < stays)):
                    code.set(waits, stays)
                self._offer(waits, due, to, by, self.leads_to[n], n)
        with code.when(self.after_to[self.state] >= 0):
            left = left_of(self.after_us[self.state], self.entered, self.reached)
            self._offer(code.let("left_us", left), due, to, by, self.after_to[self.state], BY_TIME)
        if self.is_led_by_blindness and self.blind_us is not None:
            go_to = self.machine.place_of(self.machine.when_blind.go_to)
            many = len(self.places)
            with code.each("n", many) as n:
                watched = self.watches[self.state * many + n].is_(1)
                with code.when(~self.is_seen[n] & watched):
                    left = left_of(self.blind_us, self.unseen_us[n], self.reached)
                    self._offer(code.let("left_us", left), due, to, by, go_to, BY_BLINDNESS)

    def _offer(
        self, left: Name, due: Name, to: Name, by: Name, target: Given, cause: Given
    ) -> None:
        code = self.code
        with code.when(left < due):
            code.set(due, left)
            code.set(to, target)
            code.set(by, cause)


_FALLBACKS = {LOWEST: -math.inf, HIGHEST: math.inf}


def _us(seconds: float) -> int:
    return round(seconds * 1e6)


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
    many = code.let("many", count_of(good))
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
