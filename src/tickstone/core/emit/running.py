"""Runs a routine here, sample by sample: in double precision, or as a board does in single."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tickstone.core.emit.code import Each, Let, Remark, Set, Statement, When, While
from tickstone.core.emit.routine import NOW, Routine
from tickstone.core.emit.terms import (
    CUTS,
    LONGEST_AGO_US,
    Cell,
    Kind,
    Name,
    Number,
    Operation,
    Term,
    single_cut,
)

_WRAP = 2**32


@dataclass(slots=True)
class Runner:
    """One routine with its state. is_single: whether every real number is rounded to single
    precision, as the boards' floating point does.
    """

    routine: Routine
    is_single: bool = False
    values: dict[str, Any] = field(default_factory=dict)
    _exact: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for one in self.routine.constants:
            self.values[one.name] = self._kept(one.value, one.kind)
            self._exact[one.name] = one.value
        for table in self.routine.tables:
            self.values[table.name] = [self._kept(one, table.kind) for one in table.values]
        for state in self.routine.states:
            begins = self._kept(state.begins, state.kind)
            self.values[state.name] = [begins] * state.size if state.size else begins

    def step(
        self, now_us: int, given: Mapping[str, float]
    ) -> dict[str, tuple[list[float], list[int]]]:
        """One sample of every input, by name; the values and statuses told, by output."""
        self.values[NOW.text] = now_us % _WRAP
        for entry in self.routine.entries:
            for one in entry.parameters:
                self.values[one.text] = self._kept(given[one.text], one.kind)
        with np.errstate(all="ignore"):
            self._do(self.routine.statements)
        return {
            told.name: (
                [float(self.values[name]) for name in told.values],
                [int(self.values[name]) for name in told.statuses],
            )
            for told in self.routine.told
        }

    def _real(self, value: float) -> Any:
        return np.float32(value) if self.is_single else float(value)

    def _kept(self, value: Any, kind: Kind) -> Any:
        if kind is Kind.REAL:
            return self._real(value)
        if kind is Kind.CLOCK:
            return int(value) % _WRAP
        return bool(value) if kind is Kind.FLAG else int(value)

    def _do(self, statements: Sequence[Statement]) -> None:
        for one in statements:
            match one:
                case Let(name, value, _):
                    self.values[name] = self._of(value)
                case Set(Name(text, kind), value):
                    self.values[text] = self._kept(self._of(value), kind)
                case Set(Cell(array, index, kind), value):
                    self.values[array][self._of(index)] = self._kept(self._of(value), kind)
                case When(condition, then, otherwise):
                    self._do(then if self._of(condition) else otherwise)
                case Each(name, count, body):
                    for number in range(self._of(count)):
                        self.values[name] = number
                        self._do(body)
                case While(condition, body):
                    while self._of(condition):
                        self._do(body)
                case Remark():
                    pass

    def _of(self, one: Term) -> Any:
        match one:
            case Number(value, kind):
                return self._kept(value, kind) if value == value else self._real(value)
            case Name(text, _):
                return self.values[text]
            case Cell(array, index, _):
                return self.values[array][self._of(index)]
            case Operation("pick", (condition, left, right), _):
                return self._of(left) if self._of(condition) else self._of(right)
            case Operation("below" | "at_most" | "above" | "reaches" as sign, (left, right), _):
                return _OPERATIONS[self._cut(sign, right)](self._of(left), self._of(right))
            case Operation("and", (left, right), _):
                return self._of(left) and self._of(right)
            case Operation("or", (left, right), _):
                return self._of(left) or self._of(right)
            case Operation(sign, of, kind):
                found = _OPERATIONS[sign](*(self._of(each) for each in of))
                if kind is Kind.WHOLE and not -(2**31) <= found < 2**31:
                    raise OverflowError(f"{found} does not fit 32 bits: {one}")
                return self._kept(found, kind)
        raise TypeError(f"{one} is no term")

    def _cut(self, sign: str, at: Term) -> str:
        if not self.is_single:
            return CUTS[sign]
        assert isinstance(at, Name | Number)
        return single_cut(sign, at.value if isinstance(at, Number) else self._exact[at.text])


def _divided(a: Any, b: Any) -> Any:
    if b == 0:
        return math.nan if a == 0 or a != a else math.copysign(math.inf, a) * math.copysign(1, b)
    return a / b


_OPERATIONS: dict[str, Any] = {
    "+": lambda a, b: a + b,
    "-": lambda a, b: a - b,
    "*": lambda a, b: a * b,
    "/": _divided,
    "neg": lambda a: -a,
    "<": lambda a, b: a < b,
    "<=": lambda a, b: a <= b,
    ">": lambda a, b: a > b,
    ">=": lambda a, b: a >= b,
    "==": lambda a, b: a == b,
    "!=": lambda a, b: a != b,
    "not": lambda a: not a,
    "sqrt": np.sqrt,
    "exp": np.exp,
    "log": np.log,
    "sin": np.sin,
    "cos": np.cos,
    "atan2": np.arctan2,
    "asin": np.arcsin,
    "abs": abs,
    "floor": np.floor,
    "is_number": lambda a: a == a,
    "seconds": lambda later, earlier: ((later - earlier) % _WRAP) * np.float64(1e-6),
    "left_of": lambda lasts, since, at: max(0, lasts - (at - since) % _WRAP),
    "carried": lambda mark, at: (
        at - LONGEST_AGO_US if (at - mark) % _WRAP > LONGEST_AGO_US else mark
    ),
    ">>": lambda a, by: a >> by,
    "times": lambda a, b, by: (a * b + (1 << (by - 1))) >> by,
    "root_of": lambda a: math.isqrt(max(0, a)),
    "quot": lambda a, b: abs(a) // abs(b) * (1 if (a < 0) == (b < 0) else -1),
    "real": lambda a: a,
    "whole": lambda a: int(a) if a == a else 0,
    "clock": lambda a: a,
    "status": lambda a: a,
    "flag": lambda a: a,
}
