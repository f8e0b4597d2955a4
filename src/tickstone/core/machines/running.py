"""A machine over a recording, or over what comes next: which state it is in, from when, and why.

Only what can change anything is looked at: where an input crosses a number that a condition speaks
of, changes its status, or grows too old; and the instants at which a time runs out. Any cut into
blocks gives the same.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from tickstone.core.loops.machines import crossings, run_machine
from tickstone.core.machines.conditions import UNKNOWN, Atom
from tickstone.core.machines.machine import HIGHEST, HOLD, LAST, LOWEST, Machine, MachineInput
from tickstone.core.machines.together import Together, by_name
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status

USABLE = (Status.OK, Status.ONE_ALONE, Status.AT_ODDS)
"""Statuses whose value counts; the last two only come of inputs that are put together."""
BY_TIME, BY_BLINDNESS, AT_START = -2, -3, -1
"""Causes that are no transition."""
_STATUSES = max(Status) + 1
_ROOM = 4_096
IntArray = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Visits:
    """The states it was in, one after the other.

    from_s, to_s, state: shape (n,); state: numbers of the machine's. cause: the number of the
    transition that led there, or BY_TIME, BY_BLINDNESS, AT_START.
    """

    from_s: FloatArray
    to_s: FloatArray
    state: IntArray
    cause: IntArray

    def __len__(self) -> int:
        return len(self.state)

    def at(self, time_s: float) -> int:
        """Which of the visits a time lies in. Raises IndexError outside all."""
        place = int(np.searchsorted(self.from_s, time_s, side="right")) - 1
        if place < 0 or time_s > self.to_s[-1]:
            raise IndexError(f"{time_s:g} s lies outside what was replayed")
        return place


@dataclass(frozen=True, slots=True)
class Place:
    """Where a machine is between two blocks: all that it remembers."""

    where: FloatArray
    codes: IntArray
    held: IntArray
    invalid_s: FloatArray
    since_s: FloatArray
    seen: Mapping[str, FloatArray]


@dataclass(frozen=True, slots=True)
class Runner:
    """A machine made ready to run.

    >>> machine = Machine.of({
    ...     "inputs": [{"name": "x"}], "start": "go", "states": [{"name": "go"}, {"name": "stop"}],
    ...     "transitions": [{"leaves": "go", "to": "stop", "when": "x < 0.4"},
    ...                     {"leaves": "stop", "to": "go", "when": "x > 0.5", "for_s": 0.15}]})
    >>> x = Signal.of([0.0, 0.1, 0.2, 0.3, 0.4], [1.0, 0.3, 0.6, 0.6, 0.6], until_s=0.5)
    >>> visits = Runner(machine).replay({"x": x})
    >>> visits.from_s.tolist(), visits.state.tolist(), visits.cause.tolist()
    ([0.0, 0.1, 0.35], [0, 1, 0], [-1, 0, 1])
    """

    machine: Machine
    _cuts: Mapping[str, FloatArray] = field(init=False, repr=False, compare=False)
    _tables: tuple[Any, ...] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        cuts = {one.name: _cuts_of(self.machine, one.name) for one in self.machine.inputs}
        object.__setattr__(self, "_cuts", cuts)
        object.__setattr__(self, "_tables", _tables_of(self.machine, cuts))

    @property
    def cuts(self) -> Mapping[str, FloatArray]:
        """The numbers that conditions speak of, by input, rising."""
        return self._cuts

    def begin(self, at_s: float = 0.0) -> Place:
        """Before anything was said, at a time."""
        many = len(self.machine.inputs)
        never = np.array(
            [int(Status.NOT_YET) * (len(self._cuts[one.name]) + 1) for one in self.machine.inputs],
            dtype=np.int64,
        )
        fallback = self._tables[4]
        held = np.where(fallback >= 0, fallback, never)
        return Place(
            np.array([self.machine.place_of(self.machine.start), at_s, 0.0, at_s, 0.0, -np.inf]),
            never,
            held,
            np.full(many, at_s),
            np.full((2, len(self.machine.transitions)), np.inf),
            {one.name: np.array([-1.0, -np.inf, 0.0]) for one in self.machine.inputs},
        )

    def replay(self, signals: Mapping[str, Signal], start_s: float = np.inf) -> Visits:
        """All of a recording, to its end. start_s: when it began; with the first reading where
        nobody says. Who waits for its first reading is blind, as it will be on the board. Raises
        ValueError for an input that nothing is heard of.
        """
        heard = self.heard(signals)
        began_s = float(min([start_s, *(one.time_s[0] for one in heard.values() if len(one))]))
        start_s = began_s if np.isfinite(began_s) else 0.0
        until_s = float(max([start_s, *(one.until_s for one in heard.values())]))
        visits, _ = self.run(self.begin(start_s), heard, until_s)
        first = np.array([start_s])
        from_s = np.concatenate((first, visits.from_s))
        to_s = np.append(from_s[1:], until_s)
        state = np.concatenate(([self.machine.place_of(self.machine.start)], visits.state))
        cause = np.concatenate(([AT_START], visits.cause))
        return Visits(from_s, to_s, state, cause)

    def sources(self, signals: Mapping[str, Signal]) -> dict[str, Signal | Together]:
        """Every input; of those put together also who decided. Raises ValueError for an input that
        nothing is heard of.
        """
        longest = {one.name: one.longest_s for one in self.machine.inputs}
        found: dict[str, Signal | Together] = {}
        for one in self.machine.inputs:
            if one.together:
                found[one.name] = by_name(one.name, one.of, signals, longest, one.together, one.us)
            elif one.name in signals:
                found[one.name] = signals[one.name]
            else:
                raise ValueError(f"{one.name}: nothing is heard of it here")
        return found

    def heard(self, signals: Mapping[str, Signal]) -> dict[str, Signal]:
        """Every input, those put together as well."""
        return {
            name: one.signal if isinstance(one, Together) else one
            for name, one in self.sources(signals).items()
        }

    def run(
        self, place: Place, heard: Mapping[str, Signal], until_s: float
    ) -> tuple[Visits, Place]:
        """What was entered in a block that ends at `until_s`, and where it is then.

        heard: the samples of every input in the block; see `heard`.
        """
        seen = {name: one.copy() for name, one in place.seen.items()}
        pieces = [
            self._events(one, number, heard[one.name], seen[one.name], until_s)
            for number, one in enumerate(self.machine.inputs)
        ]
        times = np.concatenate([one[0] for one in pieces])
        inputs = np.concatenate([np.full(len(one[0]), n) for n, one in enumerate(pieces)])
        codes = np.concatenate([one[1] for one in pieces])
        order = np.argsort(times, kind="stable")
        given = (times[order], inputs[order].astype(np.int64), codes[order])
        now = replace(
            place, where=place.where.copy(), codes=place.codes.copy(), held=place.held.copy(),
            invalid_s=place.invalid_s.copy(), since_s=place.since_s.copy(), seen=seen,
        )  # fmt: skip
        found = self._entered(given, until_s, now)
        now.where[2] = 0.0
        from_s, state, cause = found
        to_s = np.append(from_s[1:], until_s) if len(from_s) else from_s
        return Visits(from_s, to_s, state, cause), now

    def _events(
        self, one: MachineInput, number: int, signal: Signal, seen: FloatArray, until_s: float
    ) -> tuple[FloatArray, IntArray]:
        """Times and codes at which an input changes."""
        times, codes = [], []
        values, flags = signal.value, signal.flag
        begin = 0
        room = min(max(len(signal) + 3, 16), 65_536)
        while True:
            out_time, out_code = np.empty(room), np.empty(room, dtype=np.int64)
            count = crossings(
                signal.time_s, values, flags, self._cuts[one.name], one.longest_s,
                int(Status.OUTDATED), int(Status.MISSING), until_s, begin, seen, out_time, out_code,
            )  # fmt: skip
            times.append(out_time[:count].copy())
            codes.append(out_code[:count].copy())
            begin = int(seen[2])
            if begin >= len(signal):
                break
        return np.concatenate(times), np.concatenate(codes)

    def _entered(
        self, events: tuple[FloatArray, IntArray, IntArray], until_s: float, place: Place
    ) -> tuple[FloatArray, IntArray, IntArray]:
        """Times, states and causes of what is entered; `place` goes along."""
        found: list[tuple[FloatArray, IntArray, IntArray]] = []
        while True:
            out = (np.empty(_ROOM), np.empty(_ROOM, np.int64), np.empty(_ROOM, np.int64))
            count = run_machine(
                *events, until_s, *self._tables, place.where, place.codes, place.held,
                place.invalid_s, place.since_s, *out,
            )  # fmt: skip
            found.append((out[0][:count], out[1][:count], out[2][:count]))
            if count < _ROOM:
                break
        times, states, causes = zip(*found, strict=True)
        return np.concatenate(times), np.concatenate(states), np.concatenate(causes)


def _cuts_of(machine: Machine, name: str) -> FloatArray:
    """All numbers at which an input changes a condition, rising."""
    atoms = [one for condition in machine.conditions for one in condition.atoms]
    ends = {
        end
        for one in atoms
        if one.input == name and one.status is None
        for end in (one.low, one.high)
        if math.isfinite(end)
    }
    return np.array(sorted(ends))


def reading_of(code: int, cuts: FloatArray) -> tuple[float, Status]:
    """A value and the status that a code stands for: any value that is on the same sides."""
    status, bucket = divmod(code, len(cuts) + 1)
    if not len(cuts):
        return 0.0, Status(status)
    if bucket == 0:
        return float(np.nextafter(cuts[0], -np.inf)), Status(status)
    return float(cuts[bucket - 1]), Status(status)


def _truth(atom: Atom, code: int, cuts: FloatArray) -> int:
    value, status = reading_of(code, cuts)
    if atom.status is not None:
        return atom.told(value, status, True)
    if status.is_bound:
        # Somewhere in its bucket: what the whole bucket leaves no doubt of.
        bucket = code % (len(cuts) + 1)
        high = cuts[bucket] if bucket < len(cuts) else math.inf
        told = {atom.told(one, status, False) for one in (value, float(np.nextafter(high, -1e308)))}
        return told.pop() if len(told) == 1 else UNKNOWN
    return atom.told(value, status, status in USABLE)


def _tables_of(machine: Machine, cuts: Mapping[str, FloatArray]) -> tuple[Any, ...]:
    """Everything the compiled loop wants to know of a machine."""
    names = [one.name for one in machine.inputs]
    atoms = [one for condition in machine.conditions for one in condition.atoms]
    widest = max((len(one) + 1 for one in cuts.values()), default=1) * _STATUSES
    truths = np.full((max(1, len(atoms)), widest), UNKNOWN, dtype=np.int64)
    for number, atom in enumerate(atoms):
        width = len(cuts[atom.input]) + 1
        # All that is usable is told alike, and what is not is neither: few codes need a look.
        alike = range(int(Status.OK) * width, (int(Status.OK) + 1) * width)
        usable = [_truth(atom, code, cuts[atom.input]) for code in alike]
        for status in Status:
            at = int(status) * width
            if atom.status is not None:
                truths[number, at : at + width] = _truth(atom, at, cuts[atom.input])
            elif status in USABLE:
                truths[number, at : at + width] = usable
            elif status.is_bound:
                truths[number, at : at + width] = [
                    _truth(atom, at + n, cuts[atom.input]) for n in range(width)
                ]
    counts = np.zeros((max(1, len(names)), widest), dtype=np.bool_)
    fallback = np.full(max(1, len(names)), -1, dtype=np.int64)
    how = machine.when_blind.how
    for row, name in enumerate(names):
        width = len(cuts[name]) + 1
        for status in USABLE:
            counts[row, int(status) * width : (int(status) + 1) * width] = True
        counts[row, int(Status.SLOW) * width : (int(Status.SLOW) + 1) * width] = True
        if how in (LOWEST, HIGHEST):
            fallback[row] = 0 if how == LOWEST else width - 1
    steps, first = [], [0]
    offset = 0
    for condition in machine.conditions:
        for what, number in condition.steps:
            steps.append((what, number + offset if what == 0 else number))
        offset += len(condition.atoms)
        first.append(len(steps))
    leaving = np.full((len(machine.states), max(1, len(machine.transitions))), -1, dtype=np.int64)
    watched = np.zeros((len(machine.states), max(1, len(names))), dtype=np.bool_)
    numbers = machine.numbers
    for row, state in enumerate(machine.states):
        for column, (number, _) in enumerate(machine.leaving(state.name)):
            leaving[row, column] = number
        for name in machine.watched(state.name):
            watched[row, names.index(name)] = how in (HOLD, LAST)
    blind = machine.when_blind
    is_bounded = blind.hold_s is not None and bool(blind.go_to)
    return (
        np.array([names.index(one.input) for one in atoms], dtype=np.int64),
        np.array([one.status is not None for one in atoms], dtype=np.bool_),
        truths,
        counts,
        fallback,
        np.array(steps, dtype=np.int64).reshape(-1, 2),
        np.array(first, dtype=np.int64),
        np.array([numbers[one.to] for one in machine.transitions], dtype=np.int64),
        np.array([one.for_s for one in machine.transitions]),
        np.array([one.at_once for one in machine.transitions], dtype=np.bool_),
        leaving,
        np.array([one.stay_s for one in machine.states]),
        np.array([_or_inf(one.leave_after_s) for one in machine.states]),
        np.array([numbers.get(one.leave_to, -1) for one in machine.states], dtype=np.int64),
        watched,
        _or_inf(blind.hold_s),
        numbers[blind.go_to] if is_bounded else -1,
        how == LAST,
    )


def _or_inf(value: float | None) -> float:
    return math.inf if value is None else value


def cause_said(machine: Machine, cause: int) -> str:
    """Why a state was entered, in words."""
    if cause == AT_START:
        return "it begins so"
    if cause == BY_TIME:
        return "its time was up"
    if cause == BY_BLINDNESS:
        hold_s = machine.when_blind.hold_s
        return f"blind for {hold_s:g} s" if hold_s is not None else "blind"
    return machine.conditions[cause].said


def causes_of(machine: Machine) -> Sequence[int]:
    """Every cause there can be."""
    return [*range(len(machine.transitions)), BY_TIME, BY_BLINDNESS]
