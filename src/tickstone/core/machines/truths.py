"""What conditions are on a board: true, false, or neither, from what is kept of the inputs."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tickstone.core.emit.code import Array, Code
from tickstone.core.emit.terms import Kind, Name, Number, Term, all_of, any_of, cut, pick, term
from tickstone.core.machines.conditions import AND, ATOM, NOT, OR, Atom, Condition
from tickstone.core.machines.machine import MachineInput
from tickstone.core.signal import FloatArray

_LOW = {False: ("reaches", "below"), True: ("above", "at_most")}
_HIGH = {False: ("below", "reaches"), True: ("at_most", "above")}


@dataclass(slots=True)
class Truths:
    """values, statuses, is_told, is_slow: of every input, by its place. cuts: the numbers that
    conditions speak of, by input.
    """

    code: Code
    inputs: Sequence[MachineInput]
    cuts: Mapping[str, FloatArray]
    values: Array
    statuses: Array
    is_told: Array
    is_slow: Array

    @property
    def places(self) -> dict[str, int]:
        """Of the inputs, by name."""
        return {one.name: n for n, one in enumerate(self.inputs)}

    def told(self, condition: Condition) -> tuple[Term, Term]:
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
                stack.append(so_many(given, k))
        return stack[0]

    def _atom(self, atom: Atom) -> tuple[Term, Term]:
        at = self.places[atom.input]
        if atom.status is not None:
            says = self.statuses[at].is_(atom.status)
            not_so = self.statuses[at].is_not(atom.status)
            return (not_so, says) if atom.is_not else (says, not_so)
        told, slow = self.is_told[at], self.is_slow[at]
        inside, outside = self._ends(atom)
        if math.isinf(atom.low):
            # Of a bound the truth lies below what is told: it may be below this too.
            yes, no = told & inside[0], told & ~slow & outside[0]
        else:
            yes = all_of([told, ~slow, *inside])
            over = [~slow & one for one in outside[1:]]
            no = told & any_of([outside[0], *over])
        return (no, yes) if atom.is_not else (yes, no)

    def _ends(self, atom: Atom) -> tuple[list[Term], list[Term]]:
        """What has to hold of its value; and each the other way round, the lower end first."""
        code = self.code
        at = self.places[atom.input]
        inside: list[Term] = []
        outside: list[Term] = []
        for end, signs in ((atom.low, _LOW), (atom.high, _HIGH)):
            if math.isinf(end):
                continue
            number, is_past = plain_cut(end)
            sign, other = signs[is_past]
            limit: Term = Number(number, Kind.REAL)
            if not self.inputs[at].states:
                code.prefix = atom.input
                limit = self._named_cut(sign, number, atom)
                code.prefix = ""
            inside.append(cut(sign, self.values[at], limit))
            outside.append(cut(other, self.values[at], limit))
        return inside, outside

    def _named_cut(self, sign: str, number: float, atom: Atom) -> Name:
        """Each number once, however many conditions speak of it."""
        unit = self.inputs[self.places[atom.input]].unit
        for one in self.code.constants:
            if one.name.startswith(f"{atom.input}_{sign}") and one.value == number:
                return Name(one.name, Kind.REAL)
        return self.code.constant(sign, number, unit, None, atom.said)

    def side(self, one: MachineInput, value: Term) -> Term:
        """How many of the numbers that conditions speak of it has reached."""
        found: Term = term(0)
        for end in self.cuts[one.name]:
            number, is_past = plain_cut(float(end))
            limit: Term = Number(number, Kind.REAL)
            for known in self.code.constants:
                if known.name.startswith(f"{one.name}_") and known.value == number:
                    limit = Name(known.name, Kind.REAL)
            over = cut("above" if is_past else "reaches", value, limit)
            found = found + pick(over, term(1), term(0))
        return found


def plain_cut(end: float) -> tuple[float, bool]:
    """A number that a condition speaks of as it was written, and whether what is meant begins just
    past it.

    >>> plain_cut(0.42), plain_cut(math.nextafter(5.0, math.inf))
    ((0.42, False), (5.0, True))
    """
    before = math.nextafter(end, -math.inf)
    return (before, True) if len(repr(before)) < len(repr(end)) else (end, False)


def so_many(given: Sequence[tuple[Term, Term]], k: int) -> tuple[Term, Term]:
    """Whether k of them are true, and whether that many can no longer be."""
    yes, no = [one for one, _ in given], [one for _, one in given]
    n = len(given)
    if k == n:
        return all_of(yes), any_of(no)
    if k == 1:
        return any_of(yes), all_of(no)
    return count_of(yes) >= k, count_of(no) >= n - k + 1


def count_of(flags: Sequence[Term]) -> Term:
    """How many of them are so."""
    total: Term = term(0)
    for n, one in enumerate(flags):
        counted = pick(one, term(1), term(0))
        total = total + counted if n else counted
    return total
