"""A routine in whole numbers: every amount as an integer times a power of two, chosen so that
nothing overflows 32 bits; how far it may lie off is bounded by interval arithmetic over what comes
in.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from tickstone.core.emit.code import (
    CannotEmitError,
    Each,
    Let,
    Remark,
    Set,
    Statement,
    StateOf,
    Table,
    When,
    While,
)
from tickstone.core.emit.routine import Routine, all_of_them, used_in
from tickstone.core.emit.terms import (
    CUTS,
    Cell,
    Kind,
    Name,
    Number,
    Operation,
    Term,
    names_in,
    pick,
    term,
)
from tickstone.core.emit.whole.off import Off
from tickstone.core.emit.whole.scaled import (
    FINEST,
    NOTHING_THERE,
    STORED_BITS,
    Arithmetic,
    Scaled,
    bits_of,
    both_there,
    shift_for,
)
from tickstone.core.emit.whole.spans import WORDS, Span, Spans, fading_parts, is_fading

NONE = -(2**31 - 1)
"""What goes in where there is no value."""
_ROUNDS = 24


@dataclass(frozen=True, slots=True)
class WholeTold:
    """How a value is told: number · 2^−shift, at most `off` from what the chain tells. there: what
    tells whether there is a value; empty where there always is.
    """

    shift: int
    off: float
    there: str = ""


@dataclass(frozen=True, slots=True)
class WholeRoutine:
    """A routine whose amounts are integers. told: by the name of each value. spans: of what comes
    in, by name: the bound holds for those.
    """

    routine: Routine
    told: Mapping[str, WholeTold]
    spans: Mapping[str, tuple[int, int]]


def in_whole_numbers(routine: Routine, spans: Mapping[str, tuple[int, int]]) -> WholeRoutine:
    """The same routine without floating point. spans: of each value that goes in, which has to be a
    whole number, NONE where it is none.

    Raises CannotEmitError for what wants floating point, or grows without a bound.
    """
    return _Whole(routine, spans).made()


class _Whole:
    """One routine being worked out anew. offs: how far off every name may be: a local value at the
    place that is written, what is kept ever.
    """

    def __init__(self, routine: Routine, spans: Mapping[str, tuple[int, int]]) -> None:
        self.given = routine
        self.ins = dict(spans)
        for entry in routine.entries:
            for name in entry.names:
                if name not in spans:
                    raise CannotEmitError(f"{entry.role} does not come as a whole number")
        self.spans = Spans(routine, spans)
        self.sums = Arithmetic()
        self.offs: dict[str, Off] = dict.fromkeys(spans, Off())
        self.shifts: dict[str, int] = dict.fromkeys(spans, 0)
        self.caps: dict[str, int] = {}
        self.constants = {one.name: one for one in routine.constants}
        self.tables = {one.name: one for one in routine.tables}
        self.local = {one.name for one in all_of_them(routine.statements) if isinstance(one, Let)}
        self.loops = 0

    def made(self) -> WholeRoutine:
        """The routine."""
        self.spans.settle()
        fixed = {*self.ins}
        for name, span in self.spans.by_name.items():
            if name not in fixed:
                self.caps[name] = self.shifts[name] = shift_for(span.size, STORED_BITS)
                self.offs.setdefault(name, Off())
        for table in self.tables.values():
            if table.kind is Kind.REAL:
                self.offs[table.name] = Off(0.5 * 2.0 ** -self.shifts[table.name])
        statements = self._settled()
        given = self.given
        entries = tuple(
            replace(one, names=tuple(f"{name}_given" for name in one.names), kind=Kind.WHOLE)
            for one in given.entries
        )
        told = {
            name: WholeTold(
                self.shifts[name],
                self.offs[name].of(self.spans.by_name[name].size),
                _there(name) if self.spans.by_name[name].has_none else "",
            )
            for one in given.told
            for name in one.values
        }
        kept = [one for one in given.constants if one.kind is not Kind.REAL]
        made, used = self.sums.constants.values(), used_in(statements)
        routine = replace(
            given,
            entries=entries,
            states=tuple(each for one in given.states for each in self._state(one)),
            constants=(*(one for one in made if one.name in used), *kept),
            tables=tuple(self._table(one) for one in given.tables),
            statements=tuple(statements),
            used=used,
        )
        return WholeRoutine(routine, told, self.ins)

    def _state(self, one: StateOf) -> Sequence[StateOf]:
        if one.kind is not Kind.REAL:
            return (one,)
        is_none = one.begins != one.begins
        begins = 0 if is_none else round(one.begins * 2.0 ** self.shifts[one.name])
        kept = StateOf(one.name, Kind.WHOLE, float(begins), one.size)
        if not self.spans.by_name[one.name].has_none:
            return (kept,)
        flag = StateOf(_there(one.name), Kind.FLAG, float(not is_none), one.size)
        return kept, flag

    def _table(self, one: Table) -> Table:
        if one.kind is not Kind.REAL:
            return one
        scale = 2.0 ** self.shifts[one.name]
        return Table(one.name, Kind.WHOLE, tuple(float(round(v * scale)) for v in one.values))

    def _settled(self) -> list[Statement]:
        """Every statement anew, when what is off of what is kept no longer grows."""
        for _ in range(_ROUNDS * 4):
            before = dict(self.offs)
            self.sums.constants.clear()
            statements = [*self._entering(), *self._statements(self.given.statements)]
            kept = [one.name for one in self.given.states if one.kind is Kind.REAL]
            if all(self.offs[name].is_within(before[name]) for name in kept):
                return statements
        raise CannotEmitError("its rounding adds up without a bound that can be proven")

    def _now_off(self, name: str, off: Off) -> None:
        """A local value is off by what it was given last; what is kept, by the most ever."""
        if name in self.local and not self.loops:
            self.offs[name] = off
        else:
            self.offs[name] = self.offs.get(name, Off()).or_(off)

    def _branches(self, then: Sequence[Statement], otherwise: Sequence[Statement]) -> Any:
        before = dict(self.offs)
        one = self._statements(then)
        after = self.offs
        self.offs = before
        other = self._statements(otherwise)
        for name, off in after.items():
            self.offs[name] = self.offs.get(name, Off()).or_(off)
        return one, other

    def _looped(self, body: Sequence[Statement]) -> list[Statement]:
        self.loops += 1
        self._statements(body)
        written = self._statements(body)
        self.loops -= 1
        return written

    # Written anew

    def _entering(self) -> list[Statement]:
        """What comes in, with whether it is there."""
        found: list[Statement] = []
        for name in self.ins:
            given = Name(f"{name}_given", Kind.WHOLE)
            there = Name(_there(name), Kind.FLAG)
            found.append(Let(there.text, given.is_not(Number(float(NONE), Kind.WHOLE))))
            found.append(Let(name, pick(there, given, Number(0.0, Kind.WHOLE))))
        return found

    def _statements(self, statements: Sequence[Statement]) -> list[Statement]:
        return [each for one in statements for each in self._statement(one)]

    def _statement(self, one: Statement) -> Sequence[Statement]:
        match one:
            case Let(name, value, may_change) if value.kind is Kind.REAL:
                number, there = self._stored(name, value, is_natural=not may_change)
                lets: list[Statement] = [Let(name, number, may_change)]
                if there is not None:
                    lets.insert(0, Let(_there(name), there, may_change))
                return lets
            case Let(name, value, may_change):
                return [Let(name, self._other(value), may_change)]
            case Set(Name(name, Kind.REAL), value):
                number, there = self._stored(name, value)
                return _set_both(
                    Name(name, Kind.WHOLE), Name(_there(name), Kind.FLAG), number, there
                )
            case Set(Cell(name, index, Kind.REAL), value):
                at = self._other(index)
                number, there = self._stored(name, value)
                cell, is_told = Cell(name, at, Kind.WHOLE), Cell(_there(name), at, Kind.FLAG)
                return _set_both(cell, is_told, number, there)
            case Set(Cell(name, index, kind), value):
                return [Set(Cell(name, self._other(index), kind), self._other(value))]
            case Set(place, value):
                return [Set(place, self._other(value))]
            case When(condition, then, otherwise):
                told = self._other(condition)
                return [When(told, *self._branches(then, otherwise))]
            case Each(name, count, body):
                return [Each(name, self._other(count), self._looped(body))]
            case While(condition, body):
                return [While(self._other(condition), self._looped(body))]
            case Remark():
                return [one]
        raise TypeError(f"{one} is no statement")

    def _stored(self, name: str, value: Term, is_natural: bool = False) -> tuple[Term, Term | None]:
        """The number as it is kept, and whether it is there where that is asked of its name.

        is_natural: it may be kept as coarsely as it comes.
        """
        found = self._scaled(value)
        if is_natural:
            self.shifts[name] = min(found.shift, self.caps[name])
        found = self.sums.at(found, self.shifts[name])
        self._now_off(name, found.off)
        if not self.spans.by_name[name].has_none:
            return found.number, None
        return found.number, found.there if found.there is not None else term(True)

    def _other(self, one: Term) -> Term:
        """A term that is no amount, with what is compared in it in whole numbers."""
        match one:
            case Number() | Name():
                return one
            case Cell(array, index, kind):
                return Cell(array, self._other(index), kind)
            case Operation("is_number", (x,), _):
                found = self._scaled(x)
                return term(True) if found.there is None else found.there
            case Operation(sign, (left, right), _) if left.kind is Kind.REAL and sign in _COMPARED:
                return self._compared(CUTS.get(sign, sign), left, right)
            case Operation("whole" | "status" as sign, (x,), kind) if x.kind is Kind.REAL:
                found = self.sums.at(self._scaled(x), 0)
                return found.number if sign == "whole" else Operation(sign, (found.number,), kind)
            case Operation(sign, of, kind):
                return Operation(sign, tuple(self._other(each) for each in of), kind)
        raise TypeError(f"{one} is no term")

    def _compared(self, sign: str, left: Term, right: Term) -> Term:
        for clock, limit, way in ((left, right, sign), (right, left, _TURNED[sign])):
            if isinstance(clock, Operation) and clock.sign == "seconds":
                if not isinstance(limit, Number):
                    raise CannotEmitError("a time is held against what changes")
                later, earlier = clock.of
                passed = self._other(later) - self._other(earlier)
                most = round(limit.value * 1e6)
                return Operation(way, (passed, Number(float(most), Kind.CLOCK)), Kind.FLAG)
        one, other = self.sums.alike(self._scaled(left), self._scaled(right), 30)
        told = Operation(sign, (one.number, other.number), Kind.FLAG)
        # A value that is not there compares with nothing.
        there = both_there(one, other)
        if there is None:
            return told
        return ~there | told if sign == "!=" else there & told

    def _scaled(self, one: Term) -> Scaled:
        """An amount in whole numbers."""
        match one:
            case Number(value, _) if value != value:
                return Scaled(NOTHING_THERE, FINEST, Span(has_none=True), Off(), term(False))
            case Number(value, _):
                return self.sums.fixed(value, shift_for(abs(value), STORED_BITS), None)
            case Name(text, _) if text in self.constants:
                constant = self.constants[text]
                shift = shift_for(abs(constant.value), STORED_BITS)
                return self.sums.fixed(constant.value, shift, constant)
            case Name(text, _):
                span = self.spans.by_name[text]
                flag = Name(_there(text), Kind.FLAG) if span.has_none else None
                name = Name(text, Kind.WHOLE)
                return Scaled(name, self.shifts[text], span, self.offs[text], flag)
            case Cell(text, index, _):
                at, span = self._other(index), self.spans.by_name[text]
                is_there = Cell(_there(text), at, Kind.FLAG) if span.has_none else None
                cell = Cell(text, at, Kind.WHOLE)
                return Scaled(cell, self.shifts[text], span, self.offs[text], is_there)
            case Operation("pick", (condition, left, right), _):
                return self._picked(self._other(condition), one)
            case Operation("*", (left, right), _):
                return self._product(left, right, self.spans.of(one))
            case Operation("/", (left, right), _):
                return self._quotient(left, right, self.spans.of(one))
            case Operation("+" | "-" as sign, (left, right), _):
                return self._sum(sign, left, right, one)
            case Operation("neg", (x,), _):
                found = self._scaled(x)
                return self.sums.each(
                    found, -found.number, self.spans.of(one), found.off, found.shift
                )
            case Operation("abs", (x,), _):
                found = self._scaled(x)
                size = pick(found.number < 0, -found.number, found.number)
                return self.sums.each(found, size, self.spans.of(one), found.off, found.shift)
            case Operation("floor", (x,), _):
                found = self._scaled(x)
                below = Operation(">>", (found.number, term(found.shift)), Kind.WHOLE)
                off = Off(1.0 if found.off.of(found.span.size) else 0.0)
                return self.sums.each(found, below, self.spans.of(one), off, 0)
            case Operation("sqrt", (x,), _):
                return self.sums.rooted(self._scaled(x), self.spans.of(one))
        word = one.sign if isinstance(one, Operation) else "?"
        raise CannotEmitError(f"{WORDS.get(word, f'“{word}”')} wants floating point")

    def _picked(self, condition: Term, one: Operation) -> Scaled:
        left, right = self._scaled(one.of[1]), self._scaled(one.of[2])
        span = self.spans.of(one)
        known = [each.shift for each in (left, right) if each.span.low <= each.span.high]
        shift = min(max(known, default=0), shift_for(span.size, STORED_BITS))
        left, right = self.sums.at(left, shift), self.sums.at(right, shift)
        there: Term | None = None
        if left.there is not None or right.there is not None:
            sides = [each.there if each.there is not None else term(True) for each in (left, right)]
            there = pick(condition, *sides)
        number = pick(condition, left.number, right.number)
        return Scaled(number, shift, span, left.off.or_(right.off), there)

    def _sum(self, sign: str, left: Term, right: Term, whole: Term) -> Scaled:
        if is_fading(whole):
            faded = self._faded(whole)
            if faded is not None:
                return faded
        one, other = self._scaled(left), self._scaled(right)
        span = self.spans.of(whole)
        if one.is_constant and other.is_constant:
            return self.sums.folded(span.low, one.constant or other.constant, "and_more")
        if other.is_constant and not other.span.size:
            return one
        one, other = self.sums.alike(one, other, 29, span.size)
        number = Operation(sign, (one.number, other.number), Kind.WHOLE)
        off = one.off.sum(one.span.size, other.off, other.span.size)
        return self.sums.both(one, other, number, span, off, one.shift)

    def _faded(self, whole: Term) -> Scaled | None:
        """mean + share · (value − mean): what is off of the mean fades like the mean itself."""
        mean, share, value = (self._scaled(each) for each in fading_parts(whole))
        if not 0.0 < share.span.low == share.span.high <= 1.0:
            return None
        a = share.span.low
        apart = self._sum("-", fading_parts(whole)[2], fading_parts(whole)[0],
                          fading_parts(whole)[2] - fading_parts(whole)[0])  # fmt: skip
        step = self.sums.times(apart, share, Span(-apart.span.size * a, apart.span.size * a, True))
        shift = min(mean.shift, step.shift)
        mean_at, step_at = self.sums.at(mean, shift), self.sums.at(step, shift)
        number = mean_at.number + step_at.number
        size = value.span.size
        rounding = step_at.off.of(size) - apart.off.of(size) * a + mean_at.off.flat - mean.off.flat
        off = Off((1.0 - a) * mean.off.of(mean.span.size) + a * value.off.of(size) + rounding)
        return self.sums.both(mean_at, step_at, number, self.spans.of(whole), off, shift)

    def _product(self, left: Term, right: Term, span: Span) -> Scaled:
        return self.sums.times(self._scaled(left), self._scaled(right), span)

    def _quotient(self, left: Term, right: Term, span: Span) -> Scaled:
        below = self.spans.of(right)
        if below.low == below.high and below.low:
            inverse = self.sums.folded(1.0 / below.low, self._scaled(right).constant, "inverse")
            return self.sums.times(self._scaled(left), inverse, span)
        if below.low <= 0.0 <= below.high:
            raise CannotEmitError("a division by what may be 0 wants floating point")
        one, other = self._scaled(left), self._scaled(right)
        while bits_of(other) > 15.0:
            other = self.sums.at(other, other.shift - 1)
        up = max(0, math.floor(30.0 - bits_of(one)))
        least = min(abs(below.low), abs(below.high))
        if not math.isfinite(one.off.quotient(other.off, least).flat):
            raise CannotEmitError("a division by what may be 0 wants floating point")
        raised = self.sums.each(one, one.number * Number(2.0**up, Kind.WHOLE), one.span, one.off,
                            one.shift + up)  # fmt: skip
        shift = raised.shift - other.shift
        number = Operation("quot", (raised.number, other.number), Kind.WHOLE)
        off = one.off.quotient(other.off, least).plus(2.0**-shift)
        return self.sums.tamed(self.sums.both(raised, other, number, span, off, shift))


def _set_both(
    place: Name | Cell, flag: Name | Cell, number: Term, there: Term | None
) -> Sequence[Statement]:
    """A number and whether it is there, each worked out of what both were before."""
    if there is None:
        return [Set(place, number)]
    own, other = _called(place), _called(flag)
    if other not in names_in(number):
        return [Set(flag, there), Set(place, number)] if own in names_in(there) else [
            Set(place, number), Set(flag, there),
        ]  # fmt: skip
    if own not in names_in(there):
        return [Set(place, number), Set(flag, there)]
    kept = Name(f"{other}_then", Kind.FLAG)
    return [Let(kept.text, there), Set(place, number), Set(flag, kept)]


def _called(place: Name | Cell) -> str:
    return place.text if isinstance(place, Name) else place.array


def _there(name: str) -> str:
    """What tells whether there is a value of a name."""
    return f"{name}_is_there"


_COMPARED = ("<", "<=", ">", ">=", "==", "!=", *CUTS)
_TURNED = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "==": "==", "!=": "!="}
