"""Amounts as integers times a power of two, and the arithmetic of them: how far off each may be
goes along.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from tickstone.core.emit.code import CannotEmitError, Constant
from tickstone.core.emit.terms import Kind, Name, Number, Operation, Term, term
from tickstone.core.emit.whole.off import Off
from tickstone.core.emit.whole.spans import Span

STORED_BITS = 24
"""Of what has a name; a sum of a few of them, and a left shift by some, still fit."""
_MOST = 2**31 - 1
FINEST = 30
_FACTOR_BITS = 17.0
"""Of what is multiplied by a constant; the constant has what is left of 30."""
NOTHING_THERE = Number(0.0, Kind.WHOLE)


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


@dataclass(slots=True)
class Arithmetic:
    """Signs applied to amounts. constants: those that were given a whole number so far, by name."""

    constants: dict[str, Constant] = field(default_factory=dict)

    def each(self, of: Scaled, number: Term, span: Span, off: Off, shift: int) -> Scaled:
        """A number worked out of another; there where that is."""
        return Scaled(number, shift, replace(span, has_none=of.span.has_none), off, of.there)

    def rooted(self, of: Scaled, span: Span) -> Scaled:
        """A root, cut to the whole number below; of what is below 0 by its own rounding, 0."""
        up = max(0, math.floor(30.0 - bits_of(of)))
        up -= (of.shift + up) % 2
        raised = of.number * Number(2.0**up, Kind.WHOLE) if up > 0 else of.number
        shift = (of.shift + up) // 2
        number = Operation("root_of", (raised,), Kind.WHOLE)
        low = max(0.0, of.span.low)
        off = of.off.root(low).plus(2.0**-shift)
        return self.each(of, number, span, off, shift)

    def fixed(self, value: float, shift: int, constant: Constant | None) -> Scaled:
        number = round(value * 2.0**shift)
        while shift > 0 and number % 2 == 0:
            number, shift = number // 2, shift - 1  # as exact, and leaves more room
        blank = Scaled(NOTHING_THERE, shift, Span(value, value), Off(), None, constant, True)
        return self.fixed_at(blank, shift)

    def folded(self, value: float, of: Constant | None, how: str) -> Scaled:
        """What is worked out of constants alone, as one of its own."""
        made = None
        if of is not None:
            made = replace(of, name=f"{of.name}_{how}", value=value, u=None, unit="")
        return self.fixed(value, shift_for(abs(value), STORED_BITS), made)

    def at(self, of: Scaled, shift: int) -> Scaled:
        """The same at another scale: rounded where that is coarser."""
        if shift == of.shift or not of.span.size:
            return replace(of, shift=shift)
        if of.is_constant:
            return self.fixed_at(of, shift)
        if shift > of.shift:
            if of.largest * 2.0 ** (shift - of.shift) > _MOST:
                raise CannotEmitError("a number is too large for 32 bits at the scale it wants")
            factor = Number(2.0 ** (shift - of.shift), Kind.WHOLE)
            return self.each(of, of.number * factor, of.span, of.off, shift)
        by = of.shift - shift
        half = Number(2.0 ** (by - 1), Kind.WHOLE)
        number = Operation(">>", (of.number + half, term(by)), Kind.WHOLE)
        return self.each(of, number, of.span, of.off.plus(0.5 * 2.0**-shift), shift)

    def fixed_at(self, of: Scaled, shift: int) -> Scaled:
        """A constant at just that scale."""
        number = round(of.span.low * 2.0**shift)
        off = Off(abs(number * 2.0**-shift - of.span.low))
        named: Term = Number(float(number), Kind.WHOLE)
        if of.constant is not None:
            name = f"{of.constant.name}_q{shift}"
            unit = f" {of.constant.unit}" if of.constant.unit else ""
            known = f"{of.span.low:.7g}{unit} · 2^{shift}; {of.constant.rests_on}".rstrip("; ")
            self.constants[name] = Constant(
                name, float(number), "", of.constant.u, known, Kind.WHOLE
            )
            named = Name(name, Kind.WHOLE)
        return replace(of, number=named, shift=shift, off=off)

    def alike(
        self, one: Scaled, other: Scaled, bits: int, size: float = 0.0
    ) -> tuple[Scaled, Scaled]:
        """Two at one scale: the finer, where there is room."""
        largest = max(size, one.span.size, other.span.size)
        room, cap = shift_for(largest, bits), shift_for(largest, STORED_BITS)
        wanted = [min(each.shift, cap) if each.is_constant else each.shift for each in (one, other)]
        shift = min(room, max(wanted))
        return self.at(one, shift), self.at(other, shift)

    def times(self, one: Scaled, other: Scaled, span: Span) -> Scaled:
        """A product: with a constant in 32 bits, of two that vary by way of 64."""
        if one.is_constant and other.is_constant:
            value = one.span.low * other.span.low
            return self.folded(value, one.constant or other.constant, "scaled")
        if one.is_constant:
            one, other = other, one
        if other.is_constant:
            return self.times_constant(one, other, span)
        shift = min(one.shift + other.shift, shift_for(span.size, STORED_BITS))
        by = one.shift + other.shift - shift
        off = one.off.product(one.span.size, other.off, other.span.size)
        number: Term = one.number * other.number
        if by > 0:
            number = Operation("times", (one.number, other.number, term(by)), Kind.WHOLE)
            off = off.plus(0.5 * 2.0**-shift)
        return self.both(one, other, number, span, off, shift)

    def times_constant(self, of: Scaled, constant: Scaled, span: Span) -> Scaled:
        if bits_of(of) > _FACTOR_BITS:
            of = self.at(of, of.shift - math.ceil(bits_of(of) - _FACTOR_BITS))
        value = constant.span.low
        if not value:
            return self.each(of, Number(0.0, Kind.WHOLE), span, Off(), of.shift)
        factor = self.fixed(
            value, shift_for(abs(value), math.floor(30.0 - bits_of(of))), constant.constant
        )
        share = factor.off.flat / abs(value)
        off = of.off.product(of.span.size, Off(0.0, share), abs(value))
        is_one = isinstance(factor.number, Number) and factor.number.value == 1.0
        number = of.number if is_one else of.number * factor.number
        return self.tamed(self.each(of, number, span, off, of.shift + factor.shift))

    def tamed(self, of: Scaled) -> Scaled:
        """No finer than what has a name."""
        shift = min(of.shift, shift_for(of.span.size, STORED_BITS))
        return self.at(of, shift) if shift < of.shift else of

    def both(
        self, one: Scaled, other: Scaled, number: Term, span: Span, off: Off, shift: int
    ) -> Scaled:
        """A number worked out of two; there where both are."""
        there = both_there(one, other)
        return Scaled(number, shift, replace(span, has_none=there is not None), off, there)


def both_there(one: Scaled, other: Scaled) -> Term | None:
    if one.there is None or other.there is None:
        return one.there if other.there is None else other.there
    return one.there if _is_same(one.there, other.there) else one.there & other.there


def _is_same(one: Term, other: Term) -> bool:
    return isinstance(one, Name) and isinstance(other, Name) and one.text == other.text


def shift_for(size: float, bits: int) -> int:
    """The finest scale at which so large a number has that many bits."""
    if size == 0.0:
        return 0
    if not math.isfinite(size):
        raise CannotEmitError("a number has no end that is known")
    return min(FINEST, math.floor(bits - math.log2(size) - 1e-9))


def bits_of(of: Scaled) -> float:
    return math.log2(max(1.0, of.largest)) if math.isfinite(of.largest) else math.inf
