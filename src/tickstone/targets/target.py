"""A target: a language for a family of boards. A folder of templates, and what stands here."""

from __future__ import annotations

import hashlib
import math
import re
import textwrap
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from types import MappingProxyType
from typing import Any

import jinja2

from tickstone.core.emit.deciding import Deciding, FromSum
from tickstone.core.emit.routine import Routine
from tickstone.core.emit.summing import Summing
from tickstone.core.emit.terms import Kind
from tickstone.core.emit.whole.routine import NONE, WholeRoutine
from tickstone.core.families.board_family import BoardFamily
from tickstone.core.listening.names import plain_line
from tickstone.core.listening.plan import TIME, USUAL_BAUD, USUAL_HZ, Listening, ListeningPlan
from tickstone.core.listening.reading import PrintedColumn
from tickstone.core.listening.ways.echo import EchoReading
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import displays
from tickstone.core.status import Status
from tickstone.targets.folding import WIDTH, folded
from tickstone.targets.writing import PythonWriter, Writer, status_name

IDENTITY = re.compile(r"Tick Stone: (?P<kind>[a-z]+) program (?P<identity>[0-9a-f]{8})")
_BLANK = "0" * 8


@dataclass(frozen=True, slots=True)
class ProgramFile:
    """A program as text. path: within the folder it is written to. identity: of just this text."""

    path: str
    text: str
    identity: str


@dataclass(frozen=True)
class Target:
    """name: for commands, and of its folder. suffix: of its files. suits: whether a board runs it.

    like: the target whose templates it has where it has none of its own. path: where a program of a
    name goes. facts: what its templates need besides the plan.
    cannot: ways of reading that it does not have: why, and the next best. baud: of its line, where
    a program does not choose it.
    """

    name: str
    label: str
    what: str
    suits: Callable[[BoardFamily], bool]
    path: Callable[[str], str]
    facts: Callable[[ListeningPlan], Mapping[str, Any]] = field(default=lambda plan: {})
    cannot: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    baud: int = 0
    writer: type[Writer] = PythonWriter
    sums_path: str = "sums.py"
    like: str = ""

    def wanted(self, rate_hz: float = USUAL_HZ, baud: int = USUAL_BAUD) -> Listening:
        """What may be wanted of a listening program for this target."""
        if self.baud:
            return Listening(rate_hz, self.baud, self.baud, self.cannot)
        return Listening(rate_hz, baud, cannot=self.cannot)

    @cached_property
    def _environment(self) -> jinja2.Environment:
        environment = jinja2.Environment(
            loader=jinja2.ChoiceLoader(
                [
                    jinja2.PackageLoader("tickstone.targets", one.replace("-", "_"))
                    for one in filter(None, (self.name, self.like))
                ]
            ),
            undefined=jinja2.StrictUndefined,
            trim_blocks=True,
            lstrip_blocks=True,
            keep_trailing_newline=True,
            autoescape=False,  # no markup; what people wrote goes through “plain”
        )
        environment.filters |= {
            "plain": plain_line,
            "comment": _comment,
            "indent_lines": _indented,
            "columns": _columns,
            "byte": "0x{:02X}".format,
        }
        environment.tests["first_of_slot"] = _is_first_of_slot
        return environment

    def listening(self, plan: ListeningPlan, name: str) -> ProgramFile:
        """The program that listens."""
        return self._program("listening", plan, f"{name}_listen", (), ())

    def converting(
        self, plan: ListeningPlan, name: str, summings: Sequence[Summing]
    ) -> tuple[ProgramFile, ProgramFile]:
        """The program that converts what it reads, and the file with its chains beside it."""
        return self._with_sums("converting", plan, f"{name}_convert", summings, ())

    def deciding(
        self, plan: ListeningPlan, name: str, summings: Sequence[Summing],
        decidings: Sequence[Deciding],
    ) -> tuple[ProgramFile, ProgramFile]:  # fmt: skip
        """The program that also decides by what it converts, and the file with all of it beside."""
        return self._with_sums("deciding", plan, f"{name}_rules", summings, decidings)

    def _with_sums(
        self, kind: str, plan: ListeningPlan, name: str, summings: Sequence[Summing],
        decidings: Sequence[Deciding],
    ) -> tuple[ProgramFile, ProgramFile]:  # fmt: skip
        routines = [*(one.written for one in summings), *(one.routine for one in decidings)]
        bounds = {one.routine.name: _bounds(one.whole) for one in summings if one.whole}
        sums = self.sums(plan.rig, routines, bounds)
        program = self._program(kind, plan, name, summings, decidings)
        folder = program.path.rpartition("/")[0]
        return program, replace(sums, path=f"{folder}/{sums.path}")

    def _program(
        self, kind: str, plan: ListeningPlan, name: str, summings: Sequence[Summing],
        decidings: Sequence[Deciding],
    ) -> ProgramFile:  # fmt: skip
        globals_ = dict(self.facts(plan))
        ways = {
            way: self._environment.get_template(f"ways/{way}.j2", globals=globals_).module
            for way in plan.ways
        }
        by_way = {way: tuple(one for one in plan.readings if one.way == way) for way in plan.ways}
        sums = {one.device: self._summed(one, plan, ways) for one in summings}
        text = self._environment.get_template("listen.j2").render(
            plan=plan,
            ways=ways,
            by_way=by_way,
            sums=[*sums.values()],
            sum_of=sums,
            decisions=[self._decided(one, summings) for one in decidings],
            columns=(*converted_columns(plan, summings), *(one.column for one in decidings)),
            banner=f"Tick Stone: {kind} program {_BLANK}",
            **globals_,
        )
        return finished(self.path(name), text)

    def _summed(self, one: Summing, plan: ListeningPlan, ways: Mapping[str, Any]) -> dict[str, Any]:
        """What a template has to know of a chain behind its readings."""
        writer = self.writer(one.written)
        arguments = []
        for fed in one.fed:
            if fed.column is None:
                arguments.append("NAN" if one.whole is None else str(NONE))
                continue
            reading = next(r for r in plan.readings if any(c.name == fed.column for c in r.columns))
            place = [column.name for column in reading.columns].index(fed.column)
            text = str(ways[reading.way].value(reading, place)).strip()
            scale = writer.number(fed.scale, Kind.REAL)
            arguments.append(text if fed.scale == 1.0 else f"({text}) * {scale}")
        return {
            "name": one.routine.name,
            "structure": writer.structure,
            "arguments": arguments,
            "told": [
                {
                    "value": self._text_of(one, value),
                    "status": status,
                    "decimals": _decimals(told.quantity),
                }
                for told in one.routine.told
                for value, status in zip(told.values, told.statuses, strict=True)
            ],
        }

    def _text_of(self, one: Summing, value: str) -> str:
        """A value that a chain told, where a program takes it from."""
        kept = f"{one.routine.name}_sum"
        if one.whole is None:
            return f"{kept}.{value}"
        return self.writer(one.written).told(kept, value, one.whole.told[value])

    def _decided(self, one: Deciding, summings: Sequence[Summing]) -> dict[str, Any]:
        """What a template has to know of a decision behind chains."""
        writer = self.writer(one.routine)
        by_name = {each.routine.name: each for each in summings}
        arguments: list[str] = []
        for fed in one.fed:
            if isinstance(fed, FromSum):
                value = self._text_of(by_name[fed.routine], fed.value)
                arguments += [value, f"{fed.routine}_sum.{fed.status}"]
            else:
                arguments.append(f"{one.routine.name}_wanted")
        told = one.routine.told[0]
        return {
            "name": one.routine.name,
            "label": one.label,
            "structure": writer.structure,
            "arguments": arguments,
            "value": told.values[0],
            "status": told.statuses[0],
            "decimals": told.quantity.decimals,
            "wanted": None if one.wanted is None else writer.number(one.wanted, Kind.REAL),
            "states": [
                (writer.constant_name(f"is_{state.name}"), state.action)
                for state in (one.machine.states if one.machine else ())
            ],
        }

    def constants(self, rig: str, routines: Sequence[Routine]) -> str:
        """The constants alone, as one block."""
        writers = [self.writer(one) for one in routines]
        text = self._environment.get_template("constants.j2").render(rig=rig, writers=writers)
        return finished(self.sums_path, text).text

    def sums(
        self,
        rig: str,
        routines: Sequence[Routine],
        bounds: Mapping[str, str] = MappingProxyType({}),
    ) -> ProgramFile:
        """Chains as code: constants apart, then one structure for each. bounds: what is said of how
        near those in whole numbers are, by name.
        """
        writers = [self.writer(one) for one in routines]
        statuses = sorted({status for one in writers for status in one.statuses} | {Status.OK})
        text = self._environment.get_template("sums.j2").render(
            rig=rig,
            writers=writers,
            statuses=[(status_name(one), int(one), one.word) for one in statuses],
            bounds=bounds,
            helpers=frozenset().union(*(one.helpers for one in writers)),
            banner=f"Tick Stone: conversion program {_BLANK}",
        )
        return finished(self.sums_path, text)


def converted_columns(
    plan: ListeningPlan, summings: Sequence[Summing]
) -> tuple[PrintedColumn, ...]:
    """What a line holds: of each device what its chain tells, or what it reads."""
    told = {one.device: one.columns() for one in summings}
    columns = (told.get(one.device, one.columns) for one in plan.readings)
    return (TIME, *(column for each in columns for column in each))


def finished(path: str, text: str) -> ProgramFile:
    """A rendered program with its identity in it, and no more blank lines than are worth it."""
    text = folded(re.sub(r"[ \t]+\n", "\n", text), path.endswith(".py"))
    text = re.sub(r"\n{3,}", "\n\n", text).strip() + "\n"
    text = re.sub(r"\n\n([ \t]*\})", r"\n\1", text)
    if path.endswith(".py"):
        text = _spaced(text)
    identity = hashlib.sha256(text.encode()).hexdigest()[: len(_BLANK)]
    return ProgramFile(path, text.replace(f"program {_BLANK}", f"program {identity}"), identity)


def _spaced(text: str) -> str:
    """Two blank lines around whatever is defined at the top, as that language has it."""
    text = re.sub(r"\n+(?=(?:def|class) )", r"\n\n\n", text)
    return re.sub(r"(\n[ ]+[^\n]*)\n+(?=[A-Za-z_#])", r"\1\n\n\n", text)


def is_as_written(text: str) -> bool | None:
    """Whether a program is what was written here, to the last sign; None when it bears no identity.

    Line ends may have been changed on the way.
    """
    found = IDENTITY.search(text)
    if found is None:
        return None
    plain = text.replace("\r\n", "\n").replace(f"program {found['identity']}", f"program {_BLANK}")
    return hashlib.sha256(plain.encode()).hexdigest().startswith(found["identity"])


def _bounds(whole: WholeRoutine) -> str:
    """How near values in whole numbers are, in words."""
    units = {name: told.quantity.unit for told in whole.routine.told for name in told.values}
    told = [
        f"{name}{f' in {plain_line(units[name])}' if units[name] else ''} times 2^{one.shift}, at "
        f"most {one.off:.2g} from what the chain tells"
        for name, one in whole.told.items()
    ]
    spans = {f"{low} to {high}" for low, high in whole.spans.values()}
    return (
        f"In whole numbers: {'; '.join(told)}. That holds for {' or '.join(sorted(spans))} coming "
        "in; no number on the way is too large for 32 bits."
    )


def _decimals(quantity: Quantity) -> int:
    """One more than are worth showing, in the unit that is printed; none of a decision.

    >>> from tickstone.core.quantity import ANGLE, DISTANCE
    >>> _decimals(DISTANCE), _decimals(ANGLE)
    (4, 4)
    """
    if quantity.is_decision:
        return 0
    shown = displays(quantity.key)["metric"].scale
    return max(0, min(6, quantity.decimals + 1 + math.ceil(math.log10(abs(shown)))))


def _comment(text: str, mark: str) -> str:
    """A long text as lines of comment."""
    return "\n".join(textwrap.wrap(text, WIDTH, initial_indent=mark, subsequent_indent=mark))


def _indented(text: str, count: int) -> str:
    return textwrap.indent(str(text).strip("\n"), " " * count)


def _is_first_of_slot(one: EchoReading, plan: ListeningPlan) -> bool:
    """Whether it is the first ranger of its slot in a line."""
    return next(two for two in plan.of(EchoReading) if two.slot == one.slot) is one


def _columns(values: Sequence[str], indent: int) -> str:
    """Numbers with commas between, as many in a line as fit."""
    return textwrap.fill(
        ", ".join(values) + ",", WIDTH, initial_indent=" " * indent, subsequent_indent=" " * indent
    )
