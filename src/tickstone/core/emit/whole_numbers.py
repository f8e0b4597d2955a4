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
    Constant,
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
from tickstone.core.emit.off import Off
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

NONE = -(2**31 - 1)
"""What goes in where there is no value."""
_STORED_BITS = 24
"""Of what has a name; a sum of a few of them, and a left shift by some, still fit."""
_MOST = 2**31 - 1
_ROUNDS = 24
_FINEST = 30
_FACTOR_BITS = 17.0
"""Of what is multiplied by a constant; the constant has what is left of 30."""
_NOTHING = Number(0.0, Kind.WHOLE)


@dataclass(frozen=True, slots=True)
class Span:
    """Between which two a number lies. has_none: whether it may not be there. Empty while nothing
    is known of it.
    """

    low: float = math.inf
    high: float = -math.inf
    has_none: bool = False

    @property
    def size(self) -> float:
        """The largest it may be, either way."""
        return max(abs(self.low), abs(self.high)) if self.low <= self.high else 0.0

    def joined(self, other: Span) -> Span:
        """Either of two."""
        return Span(
            min(self.low, other.low), max(self.high, other.high), self.has_none or other.has_none
        )


@dataclass(frozen=True, slots=True)
class Scaled:
    """An amount in whole numbers: about number · 2^−shift, off as `off` says. there: whether
    there is a value; None where there always is. Where there is none, the number is any within the
    span, so that nothing worked out of it overflows.
    """

    number: Term
    shift: int
    span: Span
    off: Off
    there: Term | None = None
    constant: Constant | None = None
    is_constant: bool = False

    @property
    def largest(self) -> float:
        """Of the integer, either way."""
        return (self.span.size + self.off.of(self.span.size)) * 2.0**self.shift


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
    def __init__(self, routine: Routine, spans: Mapping[str, tuple[int, int]]) -> None:
        self.given = routine
        self.spans: dict[str, Span] = {}
        self.offs: dict[str, Off] = {}
        self.shifts: dict[str, int] = {}
        self.caps: dict[str, int] = {}
        self.constants = {one.name: one for one in routine.constants}
        self.tables = {one.name: one for one in routine.tables}
        self.made_constants: dict[str, Constant] = {}
        self.local = {one.name for one in all_of_them(routine.statements) if isinstance(one, Let)}
        self.loops = 0
        self.ins = dict(spans)
        for entry in routine.entries:
            for name in entry.names:
                if name not in spans:
                    raise CannotEmitError(f"{entry.role} does not come as a whole number")
                low, high = spans[name]
                self.spans[name] = Span(float(low), float(high), True)
                self.shifts[name] = 0
                self.offs[name] = Off()
        for state in routine.states:
            if state.kind is Kind.REAL:
                begins = float(state.begins)
                none = begins != begins
                self.spans[state.name] = Span(has_none=True) if none else Span(begins, begins)
        for table in routine.tables:
            if table.kind is Kind.REAL:
                self.spans[table.name] = Span(min(table.values), max(table.values))

    def made(self) -> WholeRoutine:
        """The routine."""
        self._settle_spans()
        fixed = {*self.ins}
        for name, span in self.spans.items():
            if name not in fixed:
                self.caps[name] = self.shifts[name] = _shift_for(span.size, _STORED_BITS)
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
                self.offs[name].of(self.spans[name].size),
                _there(name) if self.spans[name].has_none else "",
            )
            for one in given.told
            for name in one.values
        }
        kept = [one for one in given.constants if one.kind is not Kind.REAL]
        made, used = self.made_constants.values(), used_in(statements)
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
        if not self.spans[one.name].has_none:
            return (kept,)
        flag = StateOf(_there(one.name), Kind.FLAG, float(not is_none), one.size)
        return kept, flag

    def _table(self, one: Table) -> Table:
        if one.kind is not Kind.REAL:
            return one
        scale = 2.0 ** self.shifts[one.name]
        return Table(one.name, Kind.WHOLE, tuple(float(round(v * scale)) for v in one.values))

    # Between which two everything lies

    def _settle_spans(self) -> None:
        for _ in range(_ROUNDS):
            before = dict(self.spans)
            self._span_all(self.given.statements)
            if self.spans == before:
                return
        grows = [name for name, span in self.spans.items() if before.get(name) != span]
        raise CannotEmitError(f"“{grows[0]}” grows without a bound that can be proven")

    def _span_all(self, statements: Sequence[Statement]) -> None:
        for one in statements:
            match one:
                case Let(name, value, _) if value.kind is Kind.REAL:
                    self._widen(name, self._span(value))
                case Set(Name(name, Kind.REAL) | Cell(name, _, Kind.REAL), value):
                    self._widen(name, self._span(value))
                case When(_, then, otherwise):
                    self._span_all(then)
                    self._span_all(otherwise)
                case Each(_, _, body) | While(_, body):
                    self._span_all(body)

    def _widen(self, name: str, span: Span) -> None:
        self.spans[name] = self.spans.get(name, Span()).joined(span)

    def _span(self, one: Term) -> Span:
        match one:
            case Number(value, _):
                return Span(has_none=True) if value != value else Span(value, value)
            case Name(text, _) if text in self.constants:
                return Span(self.constants[text].value, self.constants[text].value)
            case Name(text, _) | Cell(text, _, _):
                return self.spans.get(text, Span())
            case Operation("pick", (condition, left, right), _):
                chosen, other = self._span(left), self._span(right)
                return _narrowed(condition, left, chosen, True).joined(
                    _narrowed(condition, right, other, False)
                )
            case Operation(sign, of, _):
                spans = [self._span(each) for each in of if each.kind is Kind.REAL]
                if _is_fading(one):
                    mean, share, fresh = _fading_parts(one)
                    if self._span(share).low >= 0.0 and self._span(share).high <= 1.0:
                        return self._span(mean).joined(self._span(fresh))
                return _span_of(sign, spans, one)
        raise TypeError(f"{one} is no term")

    # How far off everything may be: what is written tells it, so it is written until that stands

    def _settled(self) -> list[Statement]:
        """Every statement anew, when what is off of what is kept no longer grows."""
        for _ in range(_ROUNDS * 4):
            before = dict(self.offs)
            self.made_constants.clear()
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
        found = self._at(found, self.shifts[name])
        self._now_off(name, found.off)
        if not self.spans[name].has_none:
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
                found = self._at(self._scaled(x), 0)
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
        one, other = self._alike(self._scaled(left), self._scaled(right), 30)
        told = Operation(sign, (one.number, other.number), Kind.FLAG)
        # A value that is not there compares with nothing.
        there = _both_there(one, other)
        if there is None:
            return told
        return ~there | told if sign == "!=" else there & told

    def _scaled(self, one: Term) -> Scaled:
        """An amount in whole numbers."""
        match one:
            case Number(value, _) if value != value:
                return Scaled(_NOTHING, _FINEST, Span(has_none=True), Off(), term(False))
            case Number(value, _):
                return self._fixed(value, _shift_for(abs(value), _STORED_BITS), None)
            case Name(text, _) if text in self.constants:
                constant = self.constants[text]
                shift = _shift_for(abs(constant.value), _STORED_BITS)
                return self._fixed(constant.value, shift, constant)
            case Name(text, _):
                span = self.spans[text]
                flag = Name(_there(text), Kind.FLAG) if span.has_none else None
                name = Name(text, Kind.WHOLE)
                return Scaled(name, self.shifts[text], span, self.offs[text], flag)
            case Cell(text, index, _):
                at, span = self._other(index), self.spans[text]
                is_there = Cell(_there(text), at, Kind.FLAG) if span.has_none else None
                cell = Cell(text, at, Kind.WHOLE)
                return Scaled(cell, self.shifts[text], span, self.offs[text], is_there)
            case Operation("pick", (condition, left, right), _):
                return self._picked(self._other(condition), one)
            case Operation("*", (left, right), _):
                return self._product(left, right, self._span(one))
            case Operation("/", (left, right), _):
                return self._quotient(left, right, self._span(one))
            case Operation("+" | "-" as sign, (left, right), _):
                return self._sum(sign, left, right, one)
            case Operation("neg", (x,), _):
                found = self._scaled(x)
                return self._each(found, -found.number, self._span(one), found.off, found.shift)
            case Operation("abs", (x,), _):
                found = self._scaled(x)
                size = pick(found.number < 0, -found.number, found.number)
                return self._each(found, size, self._span(one), found.off, found.shift)
            case Operation("floor", (x,), _):
                found = self._scaled(x)
                below = Operation(">>", (found.number, term(found.shift)), Kind.WHOLE)
                off = Off(1.0 if found.off.of(found.span.size) else 0.0)
                return self._each(found, below, self._span(one), off, 0)
            case Operation("sqrt", (x,), _):
                return self._rooted(self._scaled(x), self._span(one))
        word = one.sign if isinstance(one, Operation) else "?"
        raise CannotEmitError(f"{_WORDS.get(word, f'“{word}”')} wants floating point")

    def _each(self, of: Scaled, number: Term, span: Span, off: Off, shift: int) -> Scaled:
        """A number worked out of another; there where that is."""
        return Scaled(number, shift, replace(span, has_none=of.span.has_none), off, of.there)

    def _rooted(self, of: Scaled, span: Span) -> Scaled:
        """A root, cut to the whole number below; of what is below 0 by its own rounding, 0."""
        up = max(0, math.floor(30.0 - _bits(of)))
        up -= (of.shift + up) % 2
        raised = of.number * Number(2.0**up, Kind.WHOLE) if up > 0 else of.number
        shift = (of.shift + up) // 2
        number = Operation("root_of", (raised,), Kind.WHOLE)
        low = max(0.0, of.span.low)
        off = of.off.root(low).plus(2.0**-shift)
        return self._each(of, number, span, off, shift)

    def _fixed(self, value: float, shift: int, constant: Constant | None) -> Scaled:
        number = round(value * 2.0**shift)
        while shift > 0 and number % 2 == 0:
            number, shift = number // 2, shift - 1  # as exact, and leaves more room
        blank = Scaled(_NOTHING, shift, Span(value, value), Off(), None, constant, True)
        return self._fixed_at(blank, shift)

    def _folded(self, value: float, of: Constant | None, how: str) -> Scaled:
        """What is worked out of constants alone, as one of its own."""
        made = None
        if of is not None:
            made = replace(of, name=f"{of.name}_{how}", value=value, u=None, unit="")
        return self._fixed(value, _shift_for(abs(value), _STORED_BITS), made)

    def _at(self, of: Scaled, shift: int) -> Scaled:
        """The same at another scale: rounded where that is coarser."""
        if shift == of.shift or not of.span.size:
            return replace(of, shift=shift)
        if of.is_constant:
            return self._fixed_at(of, shift)
        if shift > of.shift:
            if of.largest * 2.0 ** (shift - of.shift) > _MOST:
                raise CannotEmitError("a number is too large for 32 bits at the scale it wants")
            factor = Number(2.0 ** (shift - of.shift), Kind.WHOLE)
            return self._each(of, of.number * factor, of.span, of.off, shift)
        by = of.shift - shift
        half = Number(2.0 ** (by - 1), Kind.WHOLE)
        number = Operation(">>", (of.number + half, term(by)), Kind.WHOLE)
        return self._each(of, number, of.span, of.off.plus(0.5 * 2.0**-shift), shift)

    def _fixed_at(self, of: Scaled, shift: int) -> Scaled:
        """A constant at just that scale."""
        number = round(of.span.low * 2.0**shift)
        off = Off(abs(number * 2.0**-shift - of.span.low))
        named: Term = Number(float(number), Kind.WHOLE)
        if of.constant is not None:
            name = f"{of.constant.name}_q{shift}"
            unit = f" {of.constant.unit}" if of.constant.unit else ""
            known = f"{of.span.low:.7g}{unit} · 2^{shift}; {of.constant.rests_on}".rstrip("; ")
            self.made_constants[name] = Constant(
                name, float(number), "", of.constant.u, known, Kind.WHOLE
            )
            named = Name(name, Kind.WHOLE)
        return replace(of, number=named, shift=shift, off=off)

    def _picked(self, condition: Term, one: Operation) -> Scaled:
        left, right = self._scaled(one.of[1]), self._scaled(one.of[2])
        span = self._span(one)
        known = [each.shift for each in (left, right) if each.span.low <= each.span.high]
        shift = min(max(known, default=0), _shift_for(span.size, _STORED_BITS))
        left, right = self._at(left, shift), self._at(right, shift)
        there: Term | None = None
        if left.there is not None or right.there is not None:
            sides = [each.there if each.there is not None else term(True) for each in (left, right)]
            there = pick(condition, *sides)
        number = pick(condition, left.number, right.number)
        return Scaled(number, shift, span, left.off.or_(right.off), there)

    def _sum(self, sign: str, left: Term, right: Term, whole: Term) -> Scaled:
        if _is_fading(whole):
            faded = self._faded(whole)
            if faded is not None:
                return faded
        one, other = self._scaled(left), self._scaled(right)
        span = self._span(whole)
        if one.is_constant and other.is_constant:
            return self._folded(span.low, one.constant or other.constant, "and_more")
        if other.is_constant and not other.span.size:
            return one
        one, other = self._alike(one, other, 29, span.size)
        number = Operation(sign, (one.number, other.number), Kind.WHOLE)
        off = one.off.sum(one.span.size, other.off, other.span.size)
        return self._both(one, other, number, span, off, one.shift)

    def _alike(
        self, one: Scaled, other: Scaled, bits: int, size: float = 0.0
    ) -> tuple[Scaled, Scaled]:
        """Two at one scale: the finer, where there is room."""
        largest = max(size, one.span.size, other.span.size)
        room, cap = _shift_for(largest, bits), _shift_for(largest, _STORED_BITS)
        wanted = [min(each.shift, cap) if each.is_constant else each.shift for each in (one, other)]
        shift = min(room, max(wanted))
        return self._at(one, shift), self._at(other, shift)

    def _faded(self, whole: Term) -> Scaled | None:
        """mean + share · (value − mean): what is off of the mean fades like the mean itself."""
        mean, share, value = (self._scaled(each) for each in _fading_parts(whole))
        if not 0.0 < share.span.low == share.span.high <= 1.0:
            return None
        a = share.span.low
        apart = self._sum("-", _fading_parts(whole)[2], _fading_parts(whole)[0],
                          _fading_parts(whole)[2] - _fading_parts(whole)[0])  # fmt: skip
        step = self._times(apart, share, Span(-apart.span.size * a, apart.span.size * a, True))
        shift = min(mean.shift, step.shift)
        mean_at, step_at = self._at(mean, shift), self._at(step, shift)
        number = mean_at.number + step_at.number
        size = value.span.size
        rounding = step_at.off.of(size) - apart.off.of(size) * a + mean_at.off.flat - mean.off.flat
        off = Off((1.0 - a) * mean.off.of(mean.span.size) + a * value.off.of(size) + rounding)
        return self._both(mean_at, step_at, number, self._span(whole), off, shift)

    def _product(self, left: Term, right: Term, span: Span) -> Scaled:
        return self._times(self._scaled(left), self._scaled(right), span)

    def _times(self, one: Scaled, other: Scaled, span: Span) -> Scaled:
        """A product: with a constant in 32 bits, of two that vary by way of 64."""
        if one.is_constant and other.is_constant:
            value = one.span.low * other.span.low
            return self._folded(value, one.constant or other.constant, "scaled")
        if one.is_constant:
            one, other = other, one
        if other.is_constant:
            return self._times_constant(one, other, span)
        shift = min(one.shift + other.shift, _shift_for(span.size, _STORED_BITS))
        by = one.shift + other.shift - shift
        off = one.off.product(one.span.size, other.off, other.span.size)
        number: Term = one.number * other.number
        if by > 0:
            number = Operation("times", (one.number, other.number, term(by)), Kind.WHOLE)
            off = off.plus(0.5 * 2.0**-shift)
        return self._both(one, other, number, span, off, shift)

    def _times_constant(self, of: Scaled, constant: Scaled, span: Span) -> Scaled:
        if _bits(of) > _FACTOR_BITS:
            of = self._at(of, of.shift - math.ceil(_bits(of) - _FACTOR_BITS))
        value = constant.span.low
        if not value:
            return self._each(of, Number(0.0, Kind.WHOLE), span, Off(), of.shift)
        factor = self._fixed(
            value, _shift_for(abs(value), math.floor(30.0 - _bits(of))), constant.constant
        )
        share = factor.off.flat / abs(value)
        off = of.off.product(of.span.size, Off(0.0, share), abs(value))
        is_one = isinstance(factor.number, Number) and factor.number.value == 1.0
        number = of.number if is_one else of.number * factor.number
        return self._tamed(self._each(of, number, span, off, of.shift + factor.shift))

    def _tamed(self, of: Scaled) -> Scaled:
        """No finer than what has a name."""
        shift = min(of.shift, _shift_for(of.span.size, _STORED_BITS))
        return self._at(of, shift) if shift < of.shift else of

    def _quotient(self, left: Term, right: Term, span: Span) -> Scaled:
        below = self._span(right)
        if below.low == below.high and below.low:
            inverse = self._folded(1.0 / below.low, self._scaled(right).constant, "inverse")
            return self._times(self._scaled(left), inverse, span)
        if below.low <= 0.0 <= below.high:
            raise CannotEmitError("a division by what may be 0 wants floating point")
        one, other = self._scaled(left), self._scaled(right)
        while _bits(other) > 15.0:
            other = self._at(other, other.shift - 1)
        up = max(0, math.floor(30.0 - _bits(one)))
        least = min(abs(below.low), abs(below.high))
        if not math.isfinite(one.off.quotient(other.off, least).flat):
            raise CannotEmitError("a division by what may be 0 wants floating point")
        raised = self._each(one, one.number * Number(2.0**up, Kind.WHOLE), one.span, one.off,
                            one.shift + up)  # fmt: skip
        shift = raised.shift - other.shift
        number = Operation("quot", (raised.number, other.number), Kind.WHOLE)
        off = one.off.quotient(other.off, least).plus(2.0**-shift)
        return self._tamed(self._both(raised, other, number, span, off, shift))

    def _both(
        self, one: Scaled, other: Scaled, number: Term, span: Span, off: Off, shift: int
    ) -> Scaled:
        """A number worked out of two; there where both are."""
        there = _both_there(one, other)
        return Scaled(number, shift, replace(span, has_none=there is not None), off, there)


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


def _both_there(one: Scaled, other: Scaled) -> Term | None:
    if one.there is None or other.there is None:
        return one.there if other.there is None else other.there
    return one.there if _is_same(one.there, other.there) else one.there & other.there


def _is_same(one: Term, other: Term) -> bool:
    return isinstance(one, Name) and isinstance(other, Name) and one.text == other.text


_COMPARED = ("<", "<=", ">", ">=", "==", "!=", *CUTS)
_TURNED = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "==": "==", "!=": "!="}
_WORDS = {
    "exp": "e^x", "log": "a logarithm", "sin": "a sine", "cos": "a cosine",
    "atan2": "an angle", "asin": "an angle", "seconds": "a time that is multiplied",
    "real": "a count that is multiplied",
}  # fmt: skip


def _shift_for(size: float, bits: int) -> int:
    """The finest scale at which so large a number has that many bits."""
    if size == 0.0:
        return 0
    if not math.isfinite(size):
        raise CannotEmitError("a number has no end that is known")
    return min(_FINEST, math.floor(bits - math.log2(size) - 1e-9))


def _bits(of: Scaled) -> float:
    return math.log2(max(1.0, of.largest)) if math.isfinite(of.largest) else math.inf


def _is_fading(one: Term) -> bool:
    match one:
        case Operation(
            "+", (Name(mean, _), Operation("*", (_, Operation("-", (_, Name(again, _)), _)), _)), _
        ):
            return mean == again
    return False


def _fading_parts(one: Term) -> tuple[Term, Term, Term]:
    """mean, share and value of mean + share · (value − mean)."""
    assert isinstance(one, Operation)
    product = one.of[1]
    assert isinstance(product, Operation)
    apart = product.of[1]
    assert isinstance(apart, Operation)
    return one.of[0], product.of[0], apart.of[0]


def _narrowed(condition: Term, value: Term, span: Span, is_so: bool) -> Span:
    """What a condition about a number itself says of it where it is chosen."""
    if not isinstance(value, Name) or span.low > span.high:
        return span
    for limit, is_above in _limits(condition, value.text, is_so):
        span = replace(span, low=max(span.low, limit)) if is_above else replace(
            span, high=min(span.high, limit)
        )  # fmt: skip
    return span if span.low <= span.high else Span(has_none=span.has_none)


def _limits(condition: Term, name: str, is_so: bool) -> Sequence[tuple[float, bool]]:
    match condition:
        case Operation("not", (inner,), _):
            return _limits(inner, name, not is_so)
        case Operation("and" | "or" as sign, (one, other), _) if (sign == "and") == is_so:
            return [*_limits(one, name, is_so), *_limits(other, name, is_so)]
        case Operation("<" | "<=", (Name(text, _), Number(limit, _)), _) if text == name:
            return [(limit, not is_so)]
        case Operation(">" | ">=", (Name(text, _), Number(limit, _)), _) if text == name:
            return [(limit, is_so)]
    return []


def _span_of(sign: str, spans: Sequence[Span], one: Operation) -> Span:
    has_none = any(each.has_none for each in spans)
    if any(each.low > each.high for each in spans):
        return Span(has_none=has_none)
    match sign:
        case "+":
            a, b = spans
            return Span(a.low + b.low, a.high + b.high, has_none)
        case "-":
            a, b = spans
            return Span(a.low - b.high, a.high - b.low, has_none)
        case "*":
            a, b = spans
            ends = [x * y for x in (a.low, a.high) for y in (b.low, b.high)]
            return Span(min(ends), max(ends), has_none)
        case "/":
            a, b = spans
            if b.low <= 0.0 <= b.high:
                raise CannotEmitError("a division by what may be 0 wants floating point")
            ends = [x / y for x in (a.low, a.high) for y in (b.low, b.high)]
            return Span(min(ends), max(ends), has_none)
        case "neg":
            return Span(-spans[0].high, -spans[0].low, has_none)
        case "abs":
            (a,) = spans
            low = 0.0 if a.low <= 0.0 <= a.high else min(abs(a.low), abs(a.high))
            return Span(low, a.size, has_none)
        case "sqrt":
            low, high = (math.sqrt(max(0.0, end)) for end in (spans[0].low, spans[0].high))
            return Span(low, high, has_none)
        case "floor":
            return Span(math.floor(spans[0].low), math.floor(spans[0].high), has_none)
    raise CannotEmitError(f"{_WORDS.get(sign, f'“{sign}”')} wants floating point")
