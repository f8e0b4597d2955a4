"""Routines as text: one writer for each way of writing; what they share stands first."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from typing import ClassVar, cast

import numpy as np

from tickstone.core.emit.code import (
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
from tickstone.core.emit.routine import NOW, Routine
from tickstone.core.emit.terms import CUTS, Cell, Kind, Name, Number, Operation, Term, single_cut
from tickstone.core.emit.whole.routine import WholeTold
from tickstone.core.listening.names import plain_line
from tickstone.core.status import Status

_SIGNS = {"or": 1, "and": 2, "==": 3, "!=": 3, "<": 3, "<=": 3, ">": 3, ">=": 3,
          ">>": 4, "+": 5, "-": 5, "*": 6, "/": 6}  # fmt: skip
_TIGHTEST = 9
HELPERS = ("left_of", "carried", "quot", "root_of", "times")


class Writer(ABC):
    """Writes terms and statements of one routine at a time."""

    names: ClassVar[dict[str, str]]
    """What signs and functions are called, where that is not the sign itself."""
    indent: ClassVar[str] = "  "
    no_yes: ClassVar[tuple[str, str]] = ("false", "true")

    def __init__(self, routine: Routine) -> None:
        self.routine = routine
        self._kept = {one.name for one in routine.states}
        self._constants = {one.name: one.value for one in routine.constants}
        self._tables = {one.name: one for one in routine.tables}

    def term(self, one: Term, around: int = -1) -> str:
        """A term; in brackets where what stands around it binds as tightly."""
        text, tightness = self._written(one)
        return f"({text})" if tightness <= around else text

    def _written(self, one: Term) -> tuple[str, int]:
        match one:
            case Number(value, kind):
                text = self.number(value, kind)
                return text, _TIGHTEST if value >= 0 or value != value else 6
            case Name(text, _):
                return self.name(text), _TIGHTEST
            case Cell(array, index, kind):
                return self.cell(array, self.term(index), kind), _TIGHTEST
            case Operation(sign, of, kind):
                return self._operation(sign, of, kind)
        raise TypeError(f"{one} is no term")

    def _operation(self, sign: str, of: Sequence[Term], kind: Kind) -> tuple[str, int]:
        if sign in CUTS:
            return self.cut(sign, *of)
        special = self.special(sign, of, kind)
        if special is not None:
            return special
        if sign in _SIGNS:
            tightness = _SIGNS[sign]
            word = self.names.get(sign, sign)
            # “and” within “or” is put into brackets, though it need not be: compilers ask for it.
            left = self.term(of[0], tightness if sign not in "+*" else tightness - 1)
            if sign in ("and", "or"):
                left = self.term(of[0], tightness - 1 if _is(of[0], sign) else 2)
                return (
                    f"{left} {word} {self.term(of[1], tightness - 1 if _is(of[1], sign) else 2)}",
                    tightness,
                )
            if sign == "-":
                left = self.term(of[0], tightness - 1)
            if sign == ">>":
                left = self.term(of[0], 7)  # compilers ask for brackets
            return f"{left} {word} {self.term(of[1], tightness)}", tightness
        if sign == "neg":
            return f"-{self.term(of[0], 7)}", 7
        name = self.names.get(sign, sign)
        return f"{name}({', '.join(self.term(each) for each in of)})", _TIGHTEST

    @abstractmethod
    def told(self, kept: str, name: str, whole: WholeTold) -> str:
        """A value that is told in whole numbers, as it is printed. kept: the structure it is in."""

    @property
    def structure(self) -> str:
        """What the routine is called as a kind of thing: `FrontRangerSum`."""
        return "".join(word.capitalize() for word in self.routine.name.split("_")) + "Sum"

    def body(self, depth: int) -> str:
        """All of a step, indented."""
        return "\n".join(self.statements(self.routine.statements, depth))

    def told_first(self) -> list[StateOf]:
        """What is kept, what is told before the rest."""
        told = {name for one in self.routine.told for name in (*one.values, *one.statuses)}
        return sorted(self.routine.states, key=lambda one: one.name not in told)

    def constants(self) -> list[tuple[str, Kind, str, str]]:
        """Name, kind, value and what is known of it, of every constant."""
        return [
            (self.constant_name(one.name), one.kind, self.number(one.value, one.kind), _known(one))
            for one in self.routine.constants
        ]

    def cut(self, sign: str, left: Term, right: Term) -> tuple[str, int]:
        """A comparison with a number that is meant to its last digit."""
        return f"{self.term(left, 3)} {CUTS[sign]} {self.term(right, 3)}", 3

    def tables(self) -> list[tuple[str, Kind, list[str]]]:
        """Name, kind and values of every table."""
        return [
            (self.constant_name(one.name), one.kind, [self.number(v, one.kind) for v in one.values])
            for one in self.routine.tables
        ]

    def statements(self, of: Sequence[Statement], depth: int) -> list[str]:
        """Statements as lines, indented."""
        lines: list[str] = []
        for one in of:
            lines += [self.indent * depth + line for line in self.statement(one)]
        return lines

    @abstractmethod
    def special(self, sign: str, of: Sequence[Term], kind: Kind) -> tuple[str, int] | None:
        """What is written otherwise in this language, with how tightly it binds."""

    def number(self, value: float, kind: Kind) -> str:
        """A number that stands in the text."""
        if kind is Kind.FLAG:
            return self.no_yes[bool(value)]
        if kind is Kind.STATUS:
            return status_name(Status(int(value)))
        return self.real(value) if kind is Kind.REAL else str(int(value))

    @abstractmethod
    def real(self, value: float) -> str:
        """A real number that stands in the text."""

    @abstractmethod
    def name(self, text: str) -> str:
        """A name where it is used."""

    @abstractmethod
    def cell(self, array: str, index: str, kind: Kind) -> str:
        """One place of an array or a table."""

    @abstractmethod
    def statement(self, one: Statement) -> list[str]:
        """One statement, as lines that are not indented yet."""

    def constant_name(self, text: str) -> str:
        """What a constant is called in the block of constants."""
        return f"{self.routine.name}_{text}".upper()

    @property
    def statuses(self) -> list[Status]:
        """Those that the routine names."""
        found = {
            int(one.value)
            for one in self._terms(self.routine.statements)
            if isinstance(one, Number) and one.kind is Kind.STATUS
        }
        found |= {int(one.begins) for one in self.routine.states if one.kind is Kind.STATUS}
        return [Status(one) for one in sorted(found)]

    @property
    def helpers(self) -> frozenset[str]:
        """Signs that are a function of their own where the language lacks them."""
        return frozenset(
            one.sign
            for one in self._terms(self.routine.statements)
            if isinstance(one, Operation) and one.sign in HELPERS
        )

    def _terms(self, of: Sequence[Statement]) -> Iterator[Term]:
        """Every term that is written, those within others too."""
        for one in of:
            match one:
                case Let(_, value, _) | Set(_, value):
                    yield from _within(value)
                case When(condition, then, otherwise):
                    yield from _within(condition)
                    yield from self._terms([*then, *otherwise])
                case Each(_, value, body) | While(value, body):
                    yield from _within(value)
                    yield from self._terms(body)


def _within(one: Term) -> Iterator[Term]:
    yield one
    match one:
        case Cell(_, index, _):
            yield from _within(index)
        case Operation(_, of, _):
            for each in of:
                yield from _within(each)


def _known(one: Constant) -> str:
    """Unit, ± and what it rests on, in a few words."""
    if one.kind is Kind.WHOLE:
        return plain_line(one.rests_on)
    unit = one.unit or "no unit"
    doubt = f", ± {one.u:.2g}" if one.u else ""
    return plain_line(f"{unit}{doubt}; {one.rests_on}" if one.rests_on else f"{unit}{doubt}")


def _is(one: Term, sign: str) -> bool:
    return isinstance(one, Operation) and one.sign == sign


def status_name(one: Status) -> str:
    """What a status is called in a program."""
    return f"IS_{one.name}"


_TABLE_READS = {
    Kind.REAL: "pgm_read_float", Kind.WHOLE: "(int16_t)pgm_read_word",
    Kind.CLOCK: "pgm_read_dword",
}  # fmt: skip


_TABLE_TYPES = {Kind.REAL: "float", Kind.WHOLE: "int16_t", Kind.CLOCK: "uint32_t"}


def is_wide(table: Table) -> bool:
    """Whether whole numbers of a table want more than 16 bits."""
    return table.kind is Kind.WHOLE and max(map(abs, table.values)) >= 2**15


class CppWriter(Writer):
    """C++ of 2011, single precision."""

    names: ClassVar[dict[str, str]] = {
        "or": "||", "and": "&&", "sqrt": "sqrtf", "exp": "expf", "log": "logf", "sin": "sinf",
        "cos": "cosf", "atan2": "atan2f", "asin": "asinf", "abs": "fabsf", "floor": "floorf",
    }  # fmt: skip
    types: ClassVar[dict[Kind, str]] = {
        Kind.REAL: "float", Kind.WHOLE: "int32_t", Kind.CLOCK: "uint32_t", Kind.FLAG: "bool",
        Kind.STATUS: "uint8_t",
    }  # fmt: skip

    def special(self, sign: str, of: Sequence[Term], kind: Kind) -> tuple[str, int] | None:
        match sign:
            case "pick":
                condition, one, other = of
                return (
                    f"{self.term(condition, 1)} ? {self.term(one, 1)} : {self.term(other, 0)}",
                    0,
                )
            case "not":
                return f"!{self.term(of[0], 7)}", 7
            case "is_number":
                return f"!isnan({self.term(of[0])})", 7
            case "seconds":
                later, earlier = (self.term(each, 5) for each in of)
                return f"static_cast<float>({later} - {earlier}) * 1e-6f", 6
            case "real" | "whole" | "clock" | "status":
                return f"static_cast<{self.types[kind]}>({self.term(of[0])})", _TIGHTEST
            case "flag":
                return self._written(of[0])
            case "quot":
                return f"{self.term(of[0], 5)} / {self.term(of[1], 6)}", 6
        return None

    def told(self, kept: str, name: str, whole: WholeTold) -> str:
        value = f"static_cast<float>({kept}.{name}) / {single(2.0**whole.shift)}"
        return f"{kept}.{whole.there} ? {value} : NAN" if whole.there else value

    def real(self, value: float) -> str:
        return single(value)

    def cut(self, sign: str, left: Term, right: Term) -> tuple[str, int]:
        at = right.value if isinstance(right, Number) else self._constants[cast(Name, right).text]
        return f"{self.term(left, 3)} {single_cut(sign, at)} {self.term(right, 3)}", 3

    def name(self, text: str) -> str:
        return self.constant_name(text) if text in self._constants else text

    def cell(self, array: str, index: str, kind: Kind) -> str:
        if array not in self._tables:
            return f"{array}[{index}]"
        read = "(int32_t)pgm_read_dword" if is_wide(self._tables[array]) else _TABLE_READS[kind]
        return f"{read}(&{self.constant_name(array)}[{index}])"

    def table_type(self, name: str, kind: Kind) -> str:
        """What the numbers of a table are, by its name in the block of constants."""
        table = next(one for one in self._tables.values() if self.constant_name(one.name) == name)
        return "int32_t" if is_wide(table) else _TABLE_TYPES[kind]

    def statement(self, one: Statement) -> list[str]:
        match one:
            case Let(name, value, may_change):
                const = "" if may_change else "const "
                return [f"{const}{self.types[value.kind]} {name} = {self.term(value)};"]
            case Set(place, value):
                return [f"{self.term(place)} = {self.term(value)};"]
            case When(condition, then, otherwise):
                lines = [f"if ({self.term(condition)}) {{", *self.statements(then, 1)]
                if otherwise:
                    lines += ["} else {", *self.statements(otherwise, 1)]
                return [*lines, "}"]
            case Each(name, count, body):
                return [
                    f"for (int16_t {name} = 0; {name} < {self.term(count, 3)}; {name}++) {{",
                    *self.statements(body, 1),
                    "}",
                ]
            case While(condition, body):
                return [f"while ({self.term(condition)}) {{", *self.statements(body, 1), "}"]
            case Remark(text):
                return [f"// {plain_line(text)}"]
        raise TypeError(f"{one} is no statement")

    def state(self, one: StateOf) -> str:
        """A member of the structure with its beginning."""
        kind = self.types[one.kind]
        if one.size:
            return f"{kind} {one.name}[{one.size}] = {{}};"
        return f"{kind} {one.name} = {self.number(one.begins, one.kind)};"

    def parameters(self) -> str:
        """What a step takes; what is not used has no name, for compilers ask."""
        taken = [NOW, *(one for entry in self.routine.entries for one in entry.parameters)]
        return ", ".join(
            f"{self.types[one.kind]} {one.text}"
            if one.text in self.routine.used
            else self.types[one.kind]
            for one in taken
        )


class PythonWriter(Writer):
    """Python that small and ordinary interpreters take alike."""

    names: ClassVar[dict[str, str]] = {
        "sqrt": "math.sqrt", "exp": "math.exp", "log": "math.log", "sin": "math.sin",
        "cos": "math.cos", "atan2": "math.atan2", "asin": "math.asin", "floor": "math.floor",
    }  # fmt: skip
    indent = "    "
    no_yes = ("False", "True")

    def special(self, sign: str, of: Sequence[Term], kind: Kind) -> tuple[str, int] | None:
        match sign:
            case "pick":
                condition, one, other = of
                return (
                    f"{self.term(one, 0)} if {self.term(condition, 0)} else {self.term(other, 0)}",
                    0,
                )
            case "not":
                return f"not {self.term(of[0], 3)}", 3
            case "is_number":
                text = self.term(of[0], 3)
                return f"{text} == {text}", 3
            case "seconds":
                later, earlier = (self.term(each, 5) for each in of)
                return f"(({later} - {earlier}) & 0xFFFFFFFF) * 1e-6", 6
            case "+" | "-" if kind is Kind.CLOCK:
                left, right = self.term(of[0], 4), self.term(of[1], 5)
                return f"({left} {sign} {right}) & 0xFFFFFFFF", 4
            case "/" if kind is Kind.WHOLE:
                return f"{self.term(of[0], 5)} // {self.term(of[1], 6)}", 6
            case "/" if not isinstance(of[1], Number):
                return f"divided({self.term(of[0])}, {self.term(of[1])})", _TIGHTEST
            case "whole":
                return f"int({self.term(of[0])})", _TIGHTEST
            case "status":
                return f"int({self.term(of[0])})", _TIGHTEST
            case "real" | "clock" | "flag":
                return self._written(of[0])
        return None

    def told(self, kept: str, name: str, whole: WholeTold) -> str:
        value = f"{kept}.{name} / {2**whole.shift}"
        return f"{value} if {kept}.{whole.there} else NAN" if whole.there else value

    def real(self, value: float) -> str:
        if value != value:
            return "NAN"
        if math.isinf(value):
            return "INF" if value > 0 else "-INF"
        return repr(float(value))

    def name(self, text: str) -> str:
        if text in self._constants:
            return self.constant_name(text)
        return f"self.{text}" if text in self._kept else text

    def cell(self, array: str, index: str, kind: Kind) -> str:
        if array in self._tables:
            return f"{self.constant_name(array)}[{index}]"
        return f"self.{array}[{index}]"

    def statement(self, one: Statement) -> list[str]:
        match one:
            case Let(name, value, _):
                return [f"{name} = {self.term(value)}"]
            case Set(place, value):
                return [f"{self.term(place)} = {self.term(value)}"]
            case When(condition, then, otherwise):
                lines = [f"if {self.term(condition)}:", *self._block(then)]
                if otherwise:
                    lines += ["else:", *self._block(otherwise)]
                return lines
            case Each(name, count, body):
                return [f"for {name} in range({self.term(count)}):", *self._block(body)]
            case While(condition, body):
                return [f"while {self.term(condition)}:", *self._block(body)]
            case Remark(text):
                return [f"# {plain_line(text)}"]
        raise TypeError(f"{one} is no statement")

    def _block(self, of: Sequence[Statement]) -> list[str]:
        return self.statements(of, 1) or [f"{self.indent}pass"]

    def state(self, one: StateOf) -> str:
        """An attribute with its beginning."""
        begins = self.number(one.begins, one.kind)
        return (
            f"self.{one.name} = [{begins}] * {one.size}"
            if one.size
            else f"self.{one.name} = {begins}"
        )

    def parameters(self) -> str:
        """What a step takes."""
        taken = [NOW, *(one for entry in self.routine.entries for one in entry.parameters)]
        return ", ".join(one.text for one in taken)


def single(value: float) -> str:
    """A number in single precision, as short as it can be told apart from its neighbours.

    >>> single(0.008), single(1e-6), single(5.0), single(float("nan"))
    ('0.008f', '1e-06f', '5.0f', 'NAN')
    """
    if value != value:
        return "NAN"
    if math.isinf(value) or abs(value) > float(np.finfo(np.float32).max):
        return "INFINITY" if value > 0 else "-INFINITY"
    text = str(np.float32(value))
    return f"{text}f" if "." in text or "e" in text else f"{text}.0f"
