"""What a program on a board can compute, as terms that any language can write down.

Built by the usual signs: ``a + 2.0 * b``, ``x < 3.0``, ``is_ok & (x > 0.0)``.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np

from tickstone.core.status import Status


class Kind(Enum):
    """REAL: a floating-point number; NaN where there is none. WHOLE: an integer of 32 bits with its
    sign. CLOCK: µs of a counter of 32 bits that wraps. FLAG: yes or no. STATUS: see `Status`.
    """

    REAL = "real"
    WHOLE = "whole"
    CLOCK = "clock"
    FLAG = "flag"
    STATUS = "status"


class Term:
    """Anything that has a value. Signs make new terms of it."""

    __slots__ = ()
    kind: Kind

    def __add__(self, other: Given) -> Term:
        return _joined("+", self, other)

    def __radd__(self, other: Given) -> Term:
        return _joined("+", other, self)

    def __sub__(self, other: Given) -> Term:
        return _joined("-", self, other)

    def __rsub__(self, other: Given) -> Term:
        return _joined("-", other, self)

    def __mul__(self, other: Given) -> Term:
        return _joined("*", self, other)

    def __rmul__(self, other: Given) -> Term:
        return _joined("*", other, self)

    def __truediv__(self, other: Given) -> Term:
        return _joined("/", self, other)

    def __rtruediv__(self, other: Given) -> Term:
        return _joined("/", other, self)

    def __neg__(self) -> Term:
        return Operation("neg", (self,), self.kind)

    def __lt__(self, other: Given) -> Term:
        return _compared("<", self, other)

    def __le__(self, other: Given) -> Term:
        return _compared("<=", self, other)

    def __gt__(self, other: Given) -> Term:
        return _compared(">", self, other)

    def __ge__(self, other: Given) -> Term:
        return _compared(">=", self, other)

    def is_(self, other: Given) -> Term:
        """Whether both are the same."""
        return _compared("==", self, other)

    def is_not(self, other: Given) -> Term:
        """Whether they differ."""
        return _compared("!=", self, other)

    def __and__(self, other: Term) -> Term:
        return Operation("and", (self, other), Kind.FLAG)

    def __or__(self, other: Term) -> Term:
        return Operation("or", (self, other), Kind.FLAG)

    def __invert__(self) -> Term:
        return Operation("not", (self,), Kind.FLAG)


Given = Term | float | int | bool | Status


@dataclass(frozen=True, slots=True, eq=False)
class Number(Term):
    """A number that stands in the text."""

    value: float
    kind: Kind


@dataclass(frozen=True, slots=True, eq=False)
class Name(Term):
    """Something that has a name: a local value, a state, an input, a constant."""

    text: str
    kind: Kind


@dataclass(frozen=True, slots=True, eq=False)
class Cell(Term):
    """One place of an array."""

    array: str
    index: Term
    kind: Kind


@dataclass(frozen=True, slots=True, eq=False)
class Operation(Term):
    """A sign or a function with what it is applied to."""

    sign: str
    of: tuple[Term, ...]
    kind: Kind


NOTHING = Number(math.nan, Kind.REAL)
"""What stands where there is no value."""


def term(value: Given) -> Term:
    """A term as it is; a plain number as one."""
    if isinstance(value, Term):
        return value
    if isinstance(value, Status):
        return Number(float(value), Kind.STATUS)
    if isinstance(value, bool):
        return Number(float(value), Kind.FLAG)
    return Number(float(value), Kind.WHOLE if isinstance(value, int) else Kind.REAL)


CUTS = {"below": "<", "at_most": "<=", "above": ">", "reaches": ">="}
"""Comparisons with a number that is meant to its last digit, however few the board has."""


def cut(sign: str, x: Term, at: Given) -> Term:
    """x against a number, by one of CUTS."""
    return Operation(sign, (x, term(at)), Kind.FLAG)


def single_cut(sign: str, at: float) -> str:
    """The sign by which a number of single precision lies on its side of a cut, which a board has
    only to the nearest of them.

    0.42 in single precision is a little less: what is below 0.42 may be just that.

    >>> single_cut("below", 0.42), single_cut("below", 0.5), single_cut("reaches", 0.42)
    ('<=', '<', '>')
    """
    near = float(np.float32(at))
    if near < at and sign in ("below", "reaches"):
        return {"below": "<=", "reaches": ">"}[sign]
    if near > at and sign in ("at_most", "above"):
        return {"at_most": "<", "above": ">="}[sign]
    return CUTS[sign]


_WIDER = (Kind.FLAG, Kind.STATUS, Kind.WHOLE, Kind.CLOCK, Kind.REAL)


def _both(one: Given, other: Given) -> tuple[Term, Term, Kind]:
    """Two as terms of one kind: a plain number takes the kind of what it meets."""
    left, right = term(one), term(other)
    kind = max(left.kind, right.kind, key=_WIDER.index)
    return _as(left, kind), _as(right, kind), kind


def _as(one: Term, kind: Kind) -> Term:
    if one.kind is kind:
        return one
    if isinstance(one, Number):
        return Number(one.value, kind)
    return Operation(kind.value, (one,), kind)


def _joined(sign: str, one: Given, other: Given) -> Term:
    left, right, kind = _both(one, other)
    return Operation(sign, (left, right), kind)


def _compared(sign: str, one: Given, other: Given) -> Term:
    left, right, _ = _both(one, other)
    return Operation(sign, (left, right), Kind.FLAG)


def _real(sign: str, *of: Given) -> Term:
    return Operation(sign, tuple(_as(term(one), Kind.REAL) for one in of), Kind.REAL)


def root(x: Given) -> Term:
    """√x."""
    return _real("sqrt", x)


def exp(x: Given) -> Term:
    """e^x."""
    return _real("exp", x)


def log(x: Given) -> Term:
    """The natural logarithm; of what is above 0."""
    return _real("log", x)


def sine(x: Given) -> Term:
    """Of an angle, rad."""
    return _real("sin", x)


def cosine(x: Given) -> Term:
    """Of an angle, rad."""
    return _real("cos", x)


def angle(y: Given, x: Given) -> Term:
    """atan2(y, x), rad."""
    return _real("atan2", y, x)


def arc_sine(x: Given) -> Term:
    """rad."""
    return _real("asin", x)


def size(x: Given) -> Term:
    """|x|."""
    return _real("abs", x)


def floor(x: Given) -> Term:
    """The whole number at or below."""
    return _real("floor", x)


def whole(x: Given) -> Term:
    """A real number that is whole, as an integer."""
    return Operation("whole", (term(x),), Kind.WHOLE)


def real(x: Given) -> Term:
    """An integer as a real number."""
    return _as(term(x), Kind.REAL)


def pick(condition: Term, one: Given, other: Given) -> Term:
    """One of two."""
    left, right, kind = _both(one, other)
    return Operation("pick", (condition, left, right), kind)


def is_number(x: Term) -> Term:
    """Whether there is a value."""
    return Operation("is_number", (x,), Kind.FLAG)


def seconds_between(later: Term, earlier: Term) -> Term:
    """From one reading of the clock to another, s; right across one wrap."""
    return Operation("seconds", (later, earlier), Kind.REAL)


def left_of(lasts: Term, since: Term, at: Term) -> Term:
    """How much is left of a time that began once, µs; none when it is over."""
    return Operation("left_of", (lasts, since, at), Kind.CLOCK)


LONGEST_AGO_US = 2**31 - 1
"""Half way round the clock: marks no longer ago than that are told from ones to come."""


def carried(mark: Term, at: Term) -> Term:
    """A mark in time; one half the clock ago at most, if it was longer ago."""
    return Operation("carried", (mark, at), Kind.CLOCK)


def faded(mean: Term, share: Term, value: Given) -> Term:
    """A mean that fades: a share of each new value; the first one as it is."""
    return pick(is_number(mean), mean + share * (term(value) - mean), value)


def any_of(of: Sequence[Term]) -> Term:
    """Whether one of them is so."""
    found = of[0]
    for other in of[1:]:
        found = found | other
    return found


def all_of(of: Sequence[Term]) -> Term:
    """Whether all of them are so."""
    found = of[0]
    for other in of[1:]:
        found = found & other
    return found


def is_among(x: Term, statuses: Sequence[Status]) -> Term:
    """Whether a status is one of these."""
    if not statuses:
        return Number(0.0, Kind.FLAG)
    return any_of([x.is_(one) for one in statuses])


def names_in(one: Term) -> Iterator[str]:
    """Every name that a term refers to, arrays too."""
    match one:
        case Name(text, _):
            yield text
        case Cell(array, index, _):
            yield array
            yield from names_in(index)
        case Operation(_, of, _):
            for each in of:
                yield from names_in(each)
