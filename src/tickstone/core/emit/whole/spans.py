"""Between which two every number of a routine lies, by interval arithmetic."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from tickstone.core.emit.code import CannotEmitError, Each, Let, Set, Statement, When, While
from tickstone.core.emit.routine import Routine
from tickstone.core.emit.terms import Cell, Kind, Name, Number, Operation, Term

_ROUNDS = 24
WORDS = {
    "exp": "e^x", "log": "a logarithm", "sin": "a sine", "cos": "a cosine",
    "atan2": "an angle", "asin": "an angle", "seconds": "a time that is multiplied",
    "real": "a count that is multiplied",
}  # fmt: skip


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


class Spans:
    """Of every name of a routine, whatever way it was gone through. by_name: as far as is known."""

    def __init__(self, routine: Routine, given: Mapping[str, tuple[int, int]]) -> None:
        self._statements = routine.statements
        self._constants = {one.name: one.value for one in routine.constants}
        self.by_name: dict[str, Span] = {
            name: Span(float(low), float(high), True) for name, (low, high) in given.items()
        }
        for state in routine.states:
            if state.kind is Kind.REAL:
                begins = float(state.begins)
                is_none = begins != begins
                self.by_name[state.name] = Span(has_none=True) if is_none else Span(begins, begins)
        for table in routine.tables:
            if table.kind is Kind.REAL:
                self.by_name[table.name] = Span(min(table.values), max(table.values))

    def settle(self) -> None:
        """Until nothing more is widened. Raises CannotEmitError where that has no end."""
        for _ in range(_ROUNDS):
            before = dict(self.by_name)
            self._span_all(self._statements)
            if self.by_name == before:
                return
        grows = [name for name, span in self.by_name.items() if before.get(name) != span]
        raise CannotEmitError(f"“{grows[0]}” grows without a bound that can be proven")

    def _span_all(self, statements: Sequence[Statement]) -> None:
        for one in statements:
            match one:
                case Let(name, value, _) if value.kind is Kind.REAL:
                    self._widen(name, self.of(value))
                case Set(Name(name, Kind.REAL) | Cell(name, _, Kind.REAL), value):
                    self._widen(name, self.of(value))
                case When(_, then, otherwise):
                    self._span_all(then)
                    self._span_all(otherwise)
                case Each(_, _, body) | While(_, body):
                    self._span_all(body)

    def _widen(self, name: str, span: Span) -> None:
        self.by_name[name] = self.by_name.get(name, Span()).joined(span)

    def of(self, one: Term) -> Span:
        """Of a term."""
        match one:
            case Number(value, _):
                return Span(has_none=True) if value != value else Span(value, value)
            case Name(text, _) if text in self._constants:
                return Span(self._constants[text], self._constants[text])
            case Name(text, _) | Cell(text, _, _):
                return self.by_name.get(text, Span())
            case Operation("pick", (condition, left, right), _):
                chosen, other = self.of(left), self.of(right)
                return _narrowed(condition, left, chosen, True).joined(
                    _narrowed(condition, right, other, False)
                )
            case Operation(sign, of, _):
                spans = [self.of(each) for each in of if each.kind is Kind.REAL]
                if is_fading(one):
                    mean, share, fresh = fading_parts(one)
                    if self.of(share).low >= 0.0 and self.of(share).high <= 1.0:
                        return self.of(mean).joined(self.of(fresh))
                return _span_of(sign, spans, one)
        raise TypeError(f"{one} is no term")

    # How far off everything may be: what is written tells it, so it is written until that stands


def is_fading(one: Term) -> bool:
    """Whether it is mean + share · (value − mean), whose span is that of both."""
    match one:
        case Operation(
            "+", (Name(mean, _), Operation("*", (_, Operation("-", (_, Name(again, _)), _)), _)), _
        ):
            return mean == again
    return False


def fading_parts(one: Term) -> tuple[Term, Term, Term]:
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
    raise CannotEmitError(f"{WORDS.get(sign, f'“{sign}”')} wants floating point")
