"""How a stage says its arithmetic: values, state, branches and loops of fixed length."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field

from tickstone.core.emit.terms import NOTHING, Cell, Given, Kind, Name, Term, pick, term
from tickstone.core.status import Status


class CannotEmitError(ValueError):
    """Why a stage, as it is set, cannot be said for a board."""


@dataclass(frozen=True, slots=True)
class Let:
    """A local value. may_change: whether it is set again."""

    name: str
    value: Term
    may_change: bool = False


@dataclass(frozen=True, slots=True)
class Set:
    """Something gets another value."""

    place: Name | Cell
    value: Term


@dataclass(frozen=True, slots=True)
class When:
    """A branch."""

    condition: Term
    then: list[Statement]
    otherwise: list[Statement]


@dataclass(frozen=True, slots=True)
class Each:
    """A loop over 0 to count − 1."""

    name: str
    count: Term
    body: list[Statement]


@dataclass(frozen=True, slots=True)
class While:
    """A loop for as long as something is so. Whoever says one sees to it that it ends."""

    condition: Term
    body: list[Statement]


@dataclass(frozen=True, slots=True)
class Remark:
    """A comment: why."""

    text: str


Statement = Let | Set | When | Each | While | Remark


@dataclass(frozen=True, slots=True)
class StateOf:
    """Something kept from sample to sample. size: 0 for one value, else of an array."""

    name: str
    kind: Kind
    begins: float
    size: int = 0


@dataclass(frozen=True, slots=True)
class Constant:
    """A named number. u: its standard uncertainty. rests_on: on what, in a few words.

    kind: WHOLE for what tells things apart, CLOCK for a time in µs.
    """

    name: str
    value: float
    unit: str = ""
    u: float | None = None
    rests_on: str = ""
    kind: Kind = Kind.REAL


@dataclass(frozen=True, slots=True)
class Table:
    """Numbers that never change, looked up by place."""

    name: str
    kind: Kind
    values: tuple[float, ...]

    def __getitem__(self, index: Given) -> Cell:
        return Cell(self.name, term(index), self.kind)


@dataclass(frozen=True, slots=True)
class Array:
    """A state of several values."""

    name: str
    kind: Kind
    size: int

    def __getitem__(self, index: Given) -> Cell:
        return Cell(self.name, term(index), self.kind)


@dataclass(frozen=True, slots=True)
class EmittedLane:
    """One lane of one sample."""

    value: Term
    status: Term

    @property
    def ok(self) -> Term:
        """Whether it is a measurement."""
        return self.status.is_(Status.OK)

    def flagged(self, *verdicts: tuple[Term, Status]) -> EmittedLane:
        """The same with a verdict where its condition holds, the first that does; an earlier
        verdict stands.
        """
        if len(verdicts) == 1:
            ((condition, verdict),) = verdicts
            return EmittedLane(self.value, pick(self.ok & condition, verdict, self.status))
        said: Given = Status.OK
        for condition, verdict in reversed(verdicts):
            said = pick(condition, verdict, said)
        return EmittedLane(self.value, pick(self.ok, said, self.status))

    def of(self, value: Term) -> EmittedLane:
        """Another value with the same status."""
        return EmittedLane(value, self.status)


@dataclass(frozen=True, slots=True)
class Emitted:
    """One sample on its way through a chain. at: its time, µs of the board's counter.

    is_new: whether there is one at all at this line, where that is not always so; values and
    statuses mean nothing where there is none. earlier: another that may have come before it with
    the same line.
    """

    lanes: tuple[EmittedLane, ...]
    at: Term
    is_new: Term | None = None
    earlier: Emitted | None = None

    @property
    def value(self) -> Term:
        """Of the first lane."""
        return self.lanes[0].value

    @property
    def status(self) -> Term:
        """Of the first lane."""
        return self.lanes[0].status

    @property
    def ok(self) -> Term:
        """Whether the first lane is a measurement."""
        return self.lanes[0].ok

    def of(self, *lanes: EmittedLane) -> Emitted:
        """Other lanes at the same time."""
        return Emitted(lanes, self.at, self.is_new)

    @property
    def comes(self) -> Term:
        """Whether there is a sample at this line."""
        return term(True) if self.is_new is None else self.is_new

    def with_values(self, *values: Term) -> Emitted:
        """Other values, the statuses as they are."""
        return self.of(
            *(EmittedLane(v, one.status) for v, one in zip(values, self.lanes, strict=True))
        )


@dataclass(slots=True)
class Code:
    """What is said so far. prefix: before every name, so that two nodes never share one. unit: of
    what enters the node that is being said.
    """

    prefix: str = ""
    unit: str = ""
    states: list[StateOf] = field(default_factory=list)
    constants: list[Constant] = field(default_factory=list)
    tables: list[Table] = field(default_factory=list)
    statements: list[Statement] = field(default_factory=list)
    _names: dict[str, int] = field(default_factory=dict)

    def _named(self, hint: str) -> str:
        base = "_".join(filter(None, (self.prefix, hint)))
        count = self._names.get(base, 0) + 1
        self._names[base] = count
        return base if count == 1 else f"{base}_{count}"

    def let(self, hint: str, value: Given) -> Name:
        """A local value that stays."""
        one = term(value)
        if isinstance(one, Name):
            return one
        name = Name(self._named(hint), one.kind)
        self.statements.append(Let(name.text, one))
        return name

    def variable(self, hint: str, value: Given) -> Name:
        """A local value that is set again."""
        one = term(value)
        name = Name(self._named(hint), one.kind)
        self.statements.append(Let(name.text, one, may_change=True))
        return name

    def state(self, hint: str, begins: float = NOTHING.value, kind: Kind = Kind.REAL) -> Name:
        """Kept from sample to sample."""
        name = Name(self._named(hint), kind)
        self.states.append(StateOf(name.text, kind, begins))
        return name

    def array(self, hint: str, size: int, kind: Kind = Kind.REAL) -> Array:
        """Several, kept from sample to sample. What they begin with is not to be looked at."""
        name = self._named(hint)
        begins = NOTHING.value if kind is Kind.REAL else 0.0
        self.states.append(StateOf(name, kind, begins, size))
        return Array(name, kind, size)

    def table(self, hint: str, values: Sequence[float], kind: Kind = Kind.REAL) -> Table:
        """Numbers to look up."""
        found = Table(self._named(hint), kind, tuple(float(one) for one in values))
        self.tables.append(found)
        return found

    def constant(
        self,
        hint: str,
        value: float,
        unit: str | None = None,
        u: float | None = None,
        rests_on: str = "",
        kind: Kind = Kind.REAL,
    ) -> Name:
        """A number that a person may want to see by name. unit: left out, of what enters."""
        name = self._named(hint)
        known = self.unit if unit is None else unit
        self.constants.append(Constant(name, float(value), known, u, rests_on, kind))
        return Name(name, kind)

    def set(self, place: Name | Cell, value: Given) -> None:
        """Give something another value."""
        self.statements.append(Set(place, term(value)))

    def remark(self, text: str) -> None:
        """Say why."""
        self.statements.append(Remark(text))

    @contextmanager
    def when(self, condition: Term) -> Iterator[None]:
        """What follows only where it is so."""
        branch = When(condition, [], [])
        self.statements.append(branch)
        outer, self.statements = self.statements, branch.then
        try:
            yield
        finally:
            self.statements = outer

    @contextmanager
    def otherwise(self) -> Iterator[None]:
        """What follows only where the branch just said was not taken."""
        branch = self.statements[-1]
        assert isinstance(branch, When)
        outer, self.statements = self.statements, branch.otherwise
        try:
            yield
        finally:
            self.statements = outer

    @contextmanager
    def while_(self, condition: Term) -> Iterator[None]:
        """What follows for as long as it is so."""
        loop = While(condition, [])
        self.statements.append(loop)
        outer, self.statements = self.statements, loop.body
        try:
            yield
        finally:
            self.statements = outer

    @contextmanager
    def each(self, hint: str, count: Given) -> Iterator[Name]:
        """What follows for 0 to count − 1."""
        name = Name(self._named(hint), Kind.WHOLE)
        loop = Each(name.text, term(count), [])
        self.statements.append(loop)
        outer, self.statements = self.statements, loop.body
        try:
            yield name
        finally:
            self.statements = outer
