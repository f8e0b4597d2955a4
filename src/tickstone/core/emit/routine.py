"""A whole chain as a routine for a board: what goes in, what is kept and done, what comes out."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from tickstone.core.chain import Chain, Node
from tickstone.core.emit.code import (
    CannotEmitError,
    Code,
    Constant,
    Each,
    Emitted,
    EmittedLane,
    Let,
    Set,
    Statement,
    StateOf,
    Table,
    When,
    While,
)
from tickstone.core.emit.terms import NOTHING, Kind, Name, is_number, names_in, pick
from tickstone.core.quantity import Quantity
from tickstone.core.status import Status


@dataclass(frozen=True, slots=True)
class Entry:
    """What goes in for one role: a value for each lane. A value that is not there is NaN.

    statuses: names of what comes beside each value, where somebody has told it already. kind: REAL,
    or WHOLE where integers go in.
    """

    role: str
    names: tuple[str, ...]
    quantity: Quantity
    statuses: tuple[str, ...] = ()
    kind: Kind = Kind.REAL

    @property
    def parameters(self) -> tuple[Name, ...]:
        """All that goes in, each value with its status behind it."""
        if not self.statuses:
            return tuple(Name(one, self.kind) for one in self.names)
        pairs = zip(self.names, self.statuses, strict=True)
        return tuple(
            one
            for name, status in pairs
            for one in (Name(name, self.kind), Name(status, Kind.STATUS))
        )


@dataclass(frozen=True, slots=True)
class Told:
    """One output: for each lane where its value and its status are."""

    name: str
    quantity: Quantity
    values: tuple[str, ...]
    statuses: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Routine:
    """A chain, sample by sample. It is called with the time, µs, and all of `entries`.

    used: every name that something is worked out from.
    """

    name: str
    entries: tuple[Entry, ...]
    states: tuple[StateOf, ...]
    constants: tuple[Constant, ...]
    tables: tuple[Table, ...]
    statements: tuple[Statement, ...]
    told: tuple[Told, ...]
    used: frozenset[str]

    def said_further(self, said: str, node: str = "") -> Routine:
        """The same with something more said of what its amounts and times rest on, of one node's
        where it is named.
        """
        prefix = f"{_word(node)}_" if node else ""
        return replace(
            self,
            constants=tuple(
                replace(one, rests_on=", ".join(filter(None, (one.rests_on, said))))
                if one.name.startswith(prefix) and one.kind is not Kind.WHOLE
                else one
                for one in self.constants
            ),
        )


NOW = Name("now_us", Kind.CLOCK)


def routine_of(chain: Chain, name: str, outputs: Sequence[str]) -> Routine:
    """A chain as a routine that tells these outputs.

    Raises CannotEmitError naming the stage that a board cannot carry, and why.
    """
    wanted = chain.up_to(*(chain.node_of(one) for one in outputs))
    code = Code()
    flows: dict[str, Emitted] = {}
    entries = []
    for one in wanted.inputs:
        lanes = one.quantity.lanes
        names = tuple(
            _word(f"{one.name}_{lane or number + 1}_in" if len(lanes) > 1 else f"{one.name}_in")
            for number, lane in enumerate(lanes)
        )
        entries.append(Entry(one.name, names, one.quantity))
        flows[one.at] = _entering(code, names)
    saying = _Saying(code, wanted, flows)
    split = next((one for one in wanted.nodes if saying.gives_two(one)), None)
    later = () if split is None else _after(wanted, split.name)
    for node in wanted.nodes:
        if node not in later:
            saying.say(node)
    told = {
        output: _told(code, output, flows[chain.node_of(output)], wanted)
        for output in outputs
        if chain.node_of(output) in flows and not _is_of(later, split, chain.node_of(output))
    }
    if split is not None:
        code.prefix = _word(split.name)
        code.remark("Two may come with one line: the earlier first.")
        with code.each("turn", 2) as turn:
            flows[split.name] = _in_turn(code, flows[split.name], turn)
            for node in later:
                saying.say(node)
            for output in outputs:
                if output not in told:
                    told[output] = _told(code, output, flows[chain.node_of(output)], wanted)
    return finished(code, name, entries, [told[output] for output in outputs])


@dataclass(slots=True)
class _Saying:
    """What a chain's nodes say, one after the other. flows: what each gave so far."""

    code: Code
    chain: Chain
    flows: dict[str, Emitted]

    def gives_two(self, node: Node) -> bool:
        """Whether two samples may come of one line."""
        return bool(getattr(node.stage, "may_give_two", False))

    def say(self, node: Node) -> None:
        """One more node. Raises CannotEmitError."""
        code = self.code
        emit: Callable[..., Emitted] | None = getattr(node.stage, "emit", None)
        if emit is None:
            raise CannotEmitError(f"what “{node.name}” does cannot be written for a board yet")
        code.prefix = ""
        code.remark(f"{node.name}: {_says(node.stage)}")
        code.prefix = _word(node.name)
        code.unit = self.chain.quantity_of(node.after[0]).unit
        entering = [self.flows[before] for before in node.after]
        if node.stage.own_times or entering[0].is_new is None:
            self.flows[node.name] = _bound(code, emit(code, *entering))
        else:
            count = len(self.chain.quantity_of(node.name).lanes)
            self.flows[node.name] = _when_new(code, emit, entering, count)


def _after(chain: Chain, name: str) -> tuple[Node, ...]:
    """The nodes that what one gives goes through, in their order."""
    reached, found = {name}, []
    for node in chain.nodes:
        if reached & {*node.after}:
            reached.add(node.name)
            found.append(node)
    return tuple(found)


def _is_of(later: Sequence[Node], split: Node | None, name: str) -> bool:
    return split is not None and name in (split.name, *(one.name for one in later))


def _in_turn(code: Code, flow: Emitted, turn: Name) -> Emitted:
    """The earlier of two samples in the first turn, the later in the second."""
    earlier = flow.earlier
    if earlier is None:
        return Emitted(flow.lanes, flow.at, code.let("is_new", turn.is_(1) & flow.comes))
    first = code.let("is_first", turn.is_(0))
    lanes = tuple(
        EmittedLane(
            code.let("value", pick(first, one.value, other.value)),
            code.let("status", pick(first, one.status, other.status)),
        )
        for one, other in zip(earlier.lanes, flow.lanes, strict=True)
    )
    is_new = (first & earlier.comes) | (~first & flow.comes)
    at = code.let("at_us", pick(first, earlier.at, flow.at))
    return Emitted(lanes, at, code.let("is_new", is_new))


def finished(code: Code, name: str, entries: Sequence[Entry], told: Sequence[Told]) -> Routine:
    """What was said as a routine, without what nothing comes of."""
    statements = code.statements
    used = used_in(statements)
    while any(isinstance(one, Let) and one.name not in used for one in all_of_them(statements)):
        statements = _without(statements, used)
        used = used_in(statements)
    return Routine(
        name,
        tuple(entries),
        tuple(code.states),
        tuple(one for one in code.constants if one.name in used or one.kind is Kind.WHOLE),
        tuple(one for one in code.tables if one.name in used),
        tuple(statements),
        tuple(told),
        used,
    )


def _says(stage: object) -> str:
    """The first sentence of what a stage says of itself."""
    text = " ".join((type(stage).__doc__ or "").split("\n\n")[0].split())
    return re.split(r"(?<=[a-z)])\. ", text)[0].rstrip(".")


def all_of_them(statements: Sequence[Statement]) -> Iterator[Statement]:
    """Every statement, those in branches and loops too."""
    for one in statements:
        yield one
        if isinstance(one, When):
            yield from all_of_them([*one.then, *one.otherwise])
        elif isinstance(one, Each | While):
            yield from all_of_them(one.body)


def used_in(statements: Sequence[Statement]) -> frozenset[str]:
    """Every name that something is worked out from, and whatever is kept."""
    found: set[str] = set()
    local = {one.name for one in all_of_them(statements) if isinstance(one, Let)}
    for one in all_of_them(statements):
        match one:
            case Let(_, value, _):
                found.update(names_in(value))
            case Set(place, value):
                if not isinstance(place, Name) or place.text not in local:
                    found.update(names_in(place))
                found.update(names_in(value))
            case When(condition, _, _) | While(condition, _):
                found.update(names_in(condition))
            case Each(_, count, _):
                found.update(names_in(count))
    return frozenset(found)


def _without(statements: Sequence[Statement], used: frozenset[str]) -> list[Statement]:
    """The same without values that nothing is worked out from."""
    kept: list[Statement] = []
    for one in statements:
        match one:
            case Let(name, _, _) if name not in used:
                continue
            case Set(Name(text, _), _) if text not in used:
                continue
            case When(condition, then, otherwise):
                kept.append(When(condition, _without(then, used), _without(otherwise, used)))
            case Each(name, count, body):
                kept.append(Each(name, count, _without(body, used)))
            case While(condition, body):
                kept.append(While(condition, _without(body, used)))
            case _:
                kept.append(one)
    return kept


def _bound(code: Code, flow: Emitted) -> Emitted:
    """The same with every value by name, worked out once and before anything else changes."""
    is_new = None if flow.is_new is None else code.let("is_new", flow.is_new)
    at = flow.at if flow.is_new is None else code.let("at_us", flow.at)
    lanes = tuple(
        EmittedLane(code.let("value", lane.value), code.let("status", lane.status))
        for lane in flow.lanes
    )
    earlier = None if flow.earlier is None else _bound(code, flow.earlier)
    return Emitted(lanes, at, is_new, earlier)


def _when_new(
    code: Code, emit: Callable[..., Emitted], entering: Sequence[Emitted], count: int
) -> Emitted:
    """A stage that does nothing at a line that brings it nothing."""
    flow = entering[0]
    values = [code.variable("value", NOTHING) for _ in range(count)]
    statuses = [code.variable("status", Status.NOT_YET) for _ in range(count)]
    with code.when(flow.comes):
        given = emit(code, *entering)
        for value, status, lane in zip(values, statuses, given.lanes, strict=True):
            code.set(value, lane.value)
            code.set(status, lane.status)
    lanes = tuple(EmittedLane(v, s) for v, s in zip(values, statuses, strict=True))
    return Emitted(lanes, flow.at, flow.is_new)


def _entering(code: Code, names: Sequence[str]) -> Emitted:
    """What comes in: missing where it is no number."""
    lanes = []
    for name in names:
        value = Name(name, Kind.REAL)
        status = code.let(f"{name}_status", pick(is_number(value), Status.OK, Status.MISSING))
        lanes.append(EmittedLane(value, status))
    return Emitted(tuple(lanes), NOW)


def _told(code: Code, output: str, flow: Emitted, chain: Chain) -> Told:
    code.prefix = _word(output)
    quantity = chain.quantity_of(chain.node_of(output))
    values, statuses = [], []
    for number, lane in enumerate(flow.lanes):
        hint = str(number + 1) if len(flow.lanes) > 1 else ""
        value = code.state(hint)
        begins = Status.OK if flow.is_new is None else Status.NOT_YET
        named = "_".join(filter(None, (hint, "status")))
        status = code.state(named, float(begins), Kind.STATUS)
        if flow.is_new is None:
            code.set(value, lane.value)
            code.set(status, lane.status)
        else:
            with code.when(flow.is_new):
                code.set(value, lane.value)
                code.set(status, lane.status)
        values.append(value.text)
        statuses.append(status.text)
    return Told(output, quantity, tuple(values), tuple(statuses))


def _word(text: str) -> str:
    word = re.sub(r"\W+", "_", text).strip("_")
    return f"n{word}" if word[:1].isdigit() else word
