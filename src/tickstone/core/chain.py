"""The chain: a small tree of folds from raw samples to numbers and decisions.

A stage is a fold: it has a state and takes a block of samples at a time. Any cut of a recording
into blocks gives the same, so the whole recording, a window of it and the live line are one thing.
It does its arithmetic twice over: `run` for a block and `explain` for one sample, as a step a
person can read. A property test holds the two together.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Protocol, runtime_checkable

import numpy as np

from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Gathering, Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Reading, Step

BLOCK_SAMPLES = 65_536
"""Long recordings are folded block by block, so that what lies between the stages stays in the
processor's cache; one pass over the whole recording for each stage would be bound by memory."""

State = Any
"""What a stage remembers: None, numbers, words, and tuples of them, so that it can be kept."""
States = Mapping[str, State]
"""The state of every node, by name."""


@runtime_checkable
class Stage(Protocol):
    """One piece of arithmetic with everything it knows about itself.

    One that a board can carry has `emit(code, *entering) -> Emitted` too, the same state and the
    same step once more for one sample, in no language; see `core.emit`.

    One that changes little of the one signal that enters it may have `overwrite` beside `run`: the
    same, in place, for where nobody else needs what entered.
    """

    name: ClassVar[str]
    own_times: ClassVar[bool]
    """False when there is one result for each sample that goes in, at its time. A stage that has
    its own may say `takes_latest`: then `explain` is given what came last, at whatever time."""

    def gives(self, *taken: Quantity) -> Quantity:
        """What comes out when these go in. Raises ValueError when they cannot."""
        ...

    def begin(self) -> State:
        """The state before the first sample."""
        ...

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """A block of samples, and the state after it."""
        ...

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample, given the state after all before it, in words and numbers."""
        ...


class Pointwise:
    """What a stage shares in which a sample's result needs no other sample."""

    __slots__ = ()
    own_times: ClassVar[bool] = False

    def gives(self, *taken: Quantity) -> Quantity:
        """The same quantity."""
        return taken[0]

    def begin(self) -> State:
        """Nothing."""
        return None

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The block, sample by sample."""
        return self.apply(*signals), None

    def apply(self, *signals: Signal) -> Signal:
        """What the stage does to any samples."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class ChainInput:
    """What enters a chain: a role by name, and what its samples are."""

    name: str
    quantity: Quantity

    @property
    def at(self) -> str:
        """How a node says that it comes after this input."""
        return f"@{self.name}"


@dataclass(frozen=True, slots=True)
class Node:
    """A stage in its place. after: the nodes whose results enter it, in order, or inputs as
    they are called by `ChainInput.at`.
    """

    name: str
    stage: Stage
    after: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Kept:
    """The states before sample `first` of the first input, reached at `until_s`."""

    first: int
    until_s: float
    states: States


@dataclass(frozen=True, slots=True)
class Folded:
    """What a chain gave for a whole recording. results: of the nodes asked for, by name.

    kept: the states between its blocks, so that no look has to begin at the beginning.
    """

    results: Mapping[str, Signal]
    kept: tuple[Kept, ...] = field(repr=False)

    def only(self, name: str) -> Folded:
        """The same with the results of one node."""
        return Folded({name: self.results[name]}, self.kept)


@dataclass(frozen=True, slots=True)
class Chain:
    """Inputs, nodes in an order in which each comes after what enters it, and named outputs."""

    inputs: tuple[ChainInput, ...]
    nodes: tuple[Node, ...]
    outputs: tuple[tuple[str, str], ...]

    def __post_init__(self) -> None:
        known = {one.at for one in self.inputs}
        for node in self.nodes:
            if node.name in known or not known.issuperset(node.after):
                raise ValueError(f"the node {node.name} stands twice, or before what enters it")
            known.add(node.name)
        for output, name in self.outputs:
            if name not in known:
                raise ValueError(f"the output {output} is of no node: {name}")

    def node_of(self, output: str) -> str:
        """The node that gives an output. Raises KeyError when there is none of that name."""
        return dict(self.outputs)[output]

    def quantity_of(self, name: str) -> Quantity:
        """What the results of a node, or the samples of an input, are. Raises KeyError."""
        given = {one.at: one.quantity for one in self.inputs}
        for node in self.nodes:
            given[node.name] = node.stage.gives(*(given[before] for before in node.after))
        return given[name]

    def up_to(self, *names: str) -> Chain:
        """What it takes for the results of these nodes, and nothing else. Raises KeyError."""
        known = {one.at: () for one in self.inputs} | {n.name: n.after for n in self.nodes}
        wanted: set[str] = set()
        waiting = list(names)
        while waiting:
            name = waiting.pop()
            if name not in wanted:
                wanted.add(name)
                waiting += known[name]
        return Chain(
            tuple(one for one in self.inputs if one.at in wanted),
            tuple(node for node in self.nodes if node.name in wanted),
            tuple(one for one in self.outputs if one[1] in wanted),
        )

    def with_node(self, node: Node, output: str) -> Chain:
        """The same with one more node, which gives an output, or with another in its place."""
        known = [one.name for one in self.nodes]
        nodes = (
            tuple(node if one.name == node.name else one for one in self.nodes)
            if node.name in known
            else (*self.nodes, node)
        )
        outputs = tuple(one for one in self.outputs if one[0] != output)
        return Chain(self.inputs, nodes, (*outputs, (output, node.name)))

    def path_to(self, name: str) -> tuple[Node, ...]:
        """The line to a node: from the input that leads to it first, through first comers."""
        by_name = {node.name: node for node in self.nodes}
        path: list[Node] = []
        while name in by_name:
            path.append(by_name[name])
            name = by_name[name].after[0]
        return tuple(reversed(path))

    def has_own_times(self, name: str) -> bool:
        """Whether the results of a node have other times than the samples that lead to it."""
        return any(node.stage.own_times for node in self.path_to(name))

    def begin(self) -> States:
        """The states before the first sample."""
        return {node.name: node.stage.begin() for node in self.nodes}

    def run(
        self, states: States, signals: Mapping[str, Signal]
    ) -> tuple[dict[str, Signal], States]:
        """A block of samples of every input: the results of every node, and the states after."""
        return self._run(states, signals, {})

    def _run(
        self,
        states: States,
        signals: Mapping[str, Signal],
        spent: Mapping[str, Sequence[str]],
    ) -> tuple[dict[str, Signal], States]:
        """The same. spent: whose results nobody asks for after a node; their memory is still in
        the processor's cache when the next node wants some.
        """
        results = {one.at: signals[one.name] for one in self.inputs}
        after = {}
        for node in self.nodes:
            entering = [results[name] for name in node.after]
            for name in spent.get(node.name, ()):
                del results[name]
            overwrite = getattr(node.stage, "overwrite", None)
            # Not what came from outside, nor what somebody wants still, as it is or handed on.
            if overwrite is not None and any(
                _overlap(entering[0], one) for one in (*signals.values(), *results.values())
            ):
                overwrite = None
            results[node.name], after[node.name] = (
                node.stage.run(states[node.name], *entering)
                if overwrite is None
                else overwrite(states[node.name], *entering)
            )
            del entering
        return results, after

    def _spent(self, wanted: Sequence[str]) -> dict[str, list[str]]:
        """For each node, whose results it is the last to take."""
        last = {name: node.name for node in self.nodes for name in node.after}
        spent: dict[str, list[str]] = {}
        for name, taker in last.items():
            if name not in wanted:
                spent.setdefault(taker, []).append(name)
        return spent

    def fold(
        self,
        signals: Mapping[str, Signal],
        *names: str,
        states: States | None = None,
        block: int = BLOCK_SAMPLES,
    ) -> Folded:
        """A whole recording, in blocks: the results of the nodes named.

        states: those to begin with, when the signals are not from the beginning.
        """
        chain = self.up_to(*names)
        states = chain.begin() if states is None else {n.name: states[n.name] for n in chain.nodes}
        longest = max((len(one) for one in signals.values()), default=0)
        gathered = {name: Gathering(self._times_of(name, signals), longest) for name in names}
        spent = chain._spent(names)
        kept = []
        for first, until_s, pieces in blocks_of(signals, [one.name for one in self.inputs], block):
            kept.append(Kept(first, until_s, states))
            results, states = chain._run(states, pieces, spent)
            for name in names:
                gathered[name].add(results[name])
        last_s = max((one.until_s for one in signals.values()), default=0.0)
        kept.append(Kept(len(signals[self.inputs[0].name]), last_s, states))
        return Folded({name: one.done() for name, one in gathered.items()}, tuple(kept))

    def _times_of(self, name: str, signals: Mapping[str, Signal]) -> FloatArray | None:
        """The times of an input, when they are those of a node's results too."""
        by_name = {node.name: node for node in self.nodes}
        while name in by_name:
            if by_name[name].stage.own_times:
                return None
            name = by_name[name].after[0]
        return signals[name.removeprefix("@")].time_s

    def apply(self, signals: Mapping[str, Signal] | Signal, output: str = "") -> Signal:
        """A whole recording after the last node, or the one that gives an output.

        signals: by input, or the one signal of a chain with one input.
        """
        name = self.node_of(output) if output else self.last
        return self.fold(self._by_input(signals), name).results[name]

    @property
    def last(self) -> str:
        """The last node; the first input when there is no node."""
        return self.nodes[-1].name if self.nodes else self.inputs[0].at

    def explain(
        self,
        signals: Mapping[str, Signal] | Signal,
        index: int,
        name: str = "",
        states: States | None = None,
    ) -> tuple[Step, ...]:
        """The working of the result number `index` of a node, the last one unless named.

        index: from the end when negative. states: those before the signals, when these are not from
        the beginning.
        Raises IndexError when there is no such result.
        """
        by_input = self._by_input(signals)
        name = name or self.last
        chain = self.up_to(name)
        first = chain.begin() if states is None else states
        results, _ = chain.run(first, by_input)
        count = len(results[name])
        place = index if index >= 0 else count + index
        if not 0 <= place < count:
            raise IndexError(f"there is no sample {index} among {count}")
        return _Working(chain, first, results).to(name, place)[0]

    def _by_input(self, signals: Mapping[str, Signal] | Signal) -> Mapping[str, Signal]:
        if not isinstance(signals, Signal):
            return signals
        only = self.inputs[0]
        if signals.quantity != only.quantity:
            signals = signals.replaced(signals.values, quantity=only.quantity)
        return {only.name: signals}


@dataclass(frozen=True, slots=True)
class _Working:
    """The working of single results of one run of a chain. Lines that meet are worked out once."""

    chain: Chain
    states: States
    results: Mapping[str, Signal]
    known: dict[tuple[str, int], tuple[tuple[Step, ...], Reading]] = field(default_factory=dict)

    def to(self, name: str, index: int) -> tuple[tuple[Step, ...], Reading]:
        """The steps to a result, and the result itself."""
        if (name, index) not in self.known:
            self.known[name, index] = self._to(name, index)
        return self.known[name, index]

    def _to(self, name: str, index: int) -> tuple[tuple[Step, ...], Reading]:
        node = next((one for one in self.chain.nodes if one.name == name), None)
        result = self.results[name]
        if node is None:
            return (), _raw(result, index)
        entering = [self.results[before] for before in node.after]
        time_s = float(result.time_s[index])
        lines: list[tuple[Step, ...]] = []
        readings, earlier = [], []
        for before, signal in zip(node.after, entering, strict=True):
            place = index
            if node.stage.own_times:
                place = int(np.searchsorted(signal.time_s, time_s, side="right")) - 1
            if place < 0:
                lines.append(())
                takes_latest = getattr(node.stage, "takes_latest", False)
                readings.append(_nothing(signal.quantity, -np.inf if takes_latest else time_s))
            else:
                steps, reading = self.to(before, place)
                lines.append(steps)
                readings.append(reading)
            earlier.append(_before(signal, place, time_s, node.stage.own_times))
        _, state = node.stage.run(self.states[name], *earlier)
        if node.stage.own_times and not getattr(node.stage, "takes_latest", False):
            readings = [
                reading if reading.time_s == time_s else _nothing(reading.quantity, time_s)
                for reading in readings
            ]
        step = replace(node.stage.explain(state, *readings), stage=name)
        if not node.stage.own_times and not any(one.has_value for one in readings):
            step = replace(step, filled=f"nothing to work with: {readings[0].status.word}")
        beside = tuple(line for line in (_apart(one, lines[0]) for one in lines[1:]) if line)
        if beside:
            step = replace(step, beside=beside)
        return (*lines[0], step), Reading(time_s, step.quantity, step.lanes)


def _apart(line: tuple[Step, ...], main: tuple[Step, ...]) -> tuple[Step, ...]:
    """A line from where it leaves the main one."""
    shared = 0
    for one, other in zip(line, main, strict=False):
        if one.stage != other.stage:
            break
        shared += 1
    return line[shared:]


def _before(signal: Signal, place: int, time_s: float, own_times: bool) -> Signal:
    """What entered before the sample that gave the result; up to just before its time."""
    if not own_times:
        return signal.between(0, place)
    first = int(np.searchsorted(signal.time_s, time_s, side="left"))
    return signal.between(0, first, float(np.nextafter(time_s, -np.inf)))


def _raw(signal: Signal, index: int) -> Reading:
    return Reading(
        float(signal.time_s[index]),
        signal.quantity,
        tuple(
            Lane(float(value), Status(int(code)))
            for value, code in zip(signal.values[:, index], signal.status[:, index], strict=True)
        ),
    )


def _nothing(quantity: Quantity, time_s: float) -> Reading:
    lane = Lane(float("nan"), Status.MISSING)
    return Reading(time_s, quantity, (lane,) * len(quantity.lanes))


def blocks_of(
    signals: Mapping[str, Signal], names: Sequence[str], size: int
) -> list[tuple[int, float, dict[str, Signal]]]:
    """Signals cut into blocks of about `size` samples of the longest, at the same times in each.

    Returns for each block the place of its first sample in the first of `names`, the time up to
    which all came before, and the pieces by name.
    """
    longest = max((signals[name] for name in names), key=len)
    firsts = range(size, len(longest), size)
    cuts_s = sorted({float(longest.time_s[first - 1]) for first in firsts})
    end_s = max(signals[name].until_s for name in names)
    if cuts_s:
        del cuts_s[bisect_right(cuts_s, float(np.nextafter(end_s, -np.inf))) :]
    edges = {
        name: [0, *np.searchsorted(signals[name].time_s, cuts_s, side="right").tolist()]
        for name in names
    }
    ends_s = [*cuts_s, end_s]
    blocks = []
    for number, until_s in enumerate(ends_s):
        pieces = {}
        for name in names:
            first = edges[name][number]
            last = edges[name][number + 1] if number < len(cuts_s) else len(signals[name])
            pieces[name] = signals[name].between(first, last, until_s)
        begun_s = ends_s[number - 1] if number else -np.inf
        blocks.append((edges[names[0]][number], float(begun_s), pieces))
    return blocks


def _overlap(one: Signal, other: Signal) -> bool:
    """Whether writing to one may change the other."""
    return np.may_share_memory(one.values, other.values) or np.may_share_memory(
        one.status, other.status
    )
