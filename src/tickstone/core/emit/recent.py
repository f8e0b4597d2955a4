"""The last few values of a lane on a board: a ring of fixed length, and what is made of it."""

from __future__ import annotations

from tickstone.core.emit.code import Array, Code
from tickstone.core.emit.terms import Kind, Name, Term, pick, real, size


class Recent:
    """The last n values. Said anew for each lane that has one."""

    def __init__(self, code: Code, n: int) -> None:
        self._code = code
        self._n = n
        self._recent = code.array("recent", n)
        self._filled = code.state("filled", 0.0, Kind.WHOLE)
        self._next = code.state("next", 0.0, Kind.WHOLE)
        self._sorted: Array | None = None

    def take(self, value: Term) -> None:
        """Put the newest in the place of the oldest."""
        code = self._code
        code.set(self._recent[self._next], value)
        code.set(self._next, pick((self._next + 1).is_(self._n), 0, self._next + 1))
        code.set(self._filled, pick(self._filled < self._n, self._filled + 1, self._filled))

    def mean(self) -> Name:
        """Of those there are."""
        code = self._code
        total = code.variable("total", 0.0)
        with code.each("n", self._filled) as n:
            code.set(total, total + self._recent[n])
        return code.let("mean", total / real(self._filled))

    def median(self) -> Name:
        """The middle one of those there are, or half way between the two in the middle."""
        code = self._code
        into = self._scratch()
        with code.each("n", self._filled) as n:
            code.set(into[n], self._recent[n])
        return self._middle_of(into)

    def median_apart(self, middle: Term) -> Name:
        """The median of how far they lie from it."""
        code = self._code
        into = self._scratch()
        with code.each("n", self._filled) as n:
            code.set(into[n], size(self._recent[n] - middle))
        return self._middle_of(into)

    def _scratch(self) -> Array:
        if self._sorted is None:
            self._sorted = self._code.array("sorted", self._n)
        return self._sorted

    def _middle_of(self, values: Array) -> Name:
        code, filled = self._code, self._filled
        with code.each("pass", filled) as done, code.each("n", filled - 1 - done) as n:
            below = code.let("below", values[n])
            with code.when(below > values[n + 1]):
                code.set(values[n], values[n + 1])
                code.set(values[n + 1], below)
        return code.let("middle", (values[(filled - 1) / 2] + values[filled / 2]) * 0.5)
