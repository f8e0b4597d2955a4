"""What a machine did: how often, how long, how restlessly, and how often it was wrong."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tickstone.core.intervals import clopper_pearson
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import IntArray, Visits
from tickstone.core.signal import FloatArray

RESTLESS_S = 0.3
"""A visit shorter than this that leads back to where it came from is chatter."""


@dataclass(frozen=True, slots=True)
class Stay:
    """How often a machine was in a state, and for how long, s. total_s: of all. share: of all time.

    chatter: how many visits led back to where they came from within `RESTLESS_S`, or as asked.
    """

    state: str
    visits: int
    total_s: float
    share: float
    mean_s: float
    shortest_s: float
    longest_s: float
    chatter: int


def stays(machine: Machine, visits: Visits, restless_s: float = RESTLESS_S) -> tuple[Stay, ...]:
    """Counts and dwell of every state. The first and the last visit may have been longer than what
    was recorded of them; they count as they are.

    >>> machine = Machine.of({"inputs": [{"name": "x"}], "transitions": [],
    ...                       "states": [{"name": "go"}, {"name": "stop"}]})
    >>> visits = Visits(np.array([0.0, 2.0, 2.1]), np.array([2.0, 2.1, 5.0]),
    ...                 np.array([0, 1, 0]), np.array([-1, 0, 1]))
    >>> [(one.state, one.visits, round(one.total_s, 3), one.chatter)
    ...  for one in stays(machine, visits)]
    [('go', 2, 4.9, 0), ('stop', 1, 0.1, 1)]
    """
    lasted = visits.to_s - visits.from_s
    whole_s = float(lasted.sum())
    is_brief = np.zeros(len(visits), dtype=np.bool_)
    if len(visits) > 2:
        returns = visits.state[2:] == visits.state[:-2]
        is_brief[1:-1] = returns & (lasted[1:-1] < restless_s)
    found = []
    for number, state in enumerate(machine.states):
        here = visits.state == number
        spans = lasted[here]
        total_s = float(spans.sum())
        found.append(
            Stay(
                state.name,
                int(here.sum()),
                total_s,
                total_s / whole_s if whole_s > 0.0 else 0.0,
                float(spans.mean()) if spans.size else math.nan,
                float(spans.min()) if spans.size else math.nan,
                float(spans.max()) if spans.size else math.nan,
                int(is_brief[here].sum()),
            )
        )
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Truth:
    """A stretch in which it is known which state would have been right."""

    state: str
    from_s: float
    to_s: float


@dataclass(frozen=True, slots=True)
class Rate:
    """So many of so many, and between which rates the true one lies, 95 %, by Clopper and Pearson.

    value, low, high: NaN where there was nothing to count.
    """

    hits: int
    of: int

    @property
    def value(self) -> float:
        """The share."""
        return self.hits / self.of if self.of else math.nan

    @property
    def interval(self) -> tuple[float, float]:
        """Between which rates the true one lies."""
        return clopper_pearson(self.hits, self.of) if self.of else (math.nan, math.nan)


@dataclass(frozen=True, slots=True)
class Held:
    """How one state stands against the truth.

    precision, recall: by samples, which are no independent trials: a reading is much like the one
    before. precision_visits: of its visits that touch what was marked, those that touch a stretch
    of its own. recall_stretches: of its stretches, those in which it was reached.
    reaction_s: of every stretch that was reached, how long after its beginning; 0: in time.
    missed: where its stretches that were not reached begin, s.
    """

    state: str
    precision: Rate
    recall: Rate
    precision_visits: Rate
    recall_stretches: Rate
    reaction_s: tuple[float, ...]
    missed: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Wrong:
    """A stretch in which the machine was in another state than it should have been."""

    from_s: float
    to_s: float
    true: str
    told: str


@dataclass(frozen=True, slots=True)
class Confusion:
    """Told against true. samples, seconds: a row for each true state, a column for each told."""

    states: tuple[str, ...]
    samples: tuple[tuple[int, ...], ...]
    seconds: tuple[tuple[float, ...], ...]
    held: tuple[Held, ...]
    worst: tuple[Wrong, ...]

    @property
    def right(self) -> Rate:
        """Of all samples that are marked, those that were told right."""
        return Rate(
            sum(row[place] for place, row in enumerate(self.samples)), sum(map(sum, self.samples))
        )


MOST_WORST = 12


def confusion(
    machine: Machine, visits: Visits, truths: Sequence[Truth], sample_s: FloatArray
) -> Confusion:
    """What was told against what was true, over the stretches that are marked and no others.

    sample_s: when samples were taken. A stretch is from its beginning up to its end.
    Raises ValueError for one of a state that the machine does not have, and for two that overlap.
    """
    _check(machine, truths)
    names = tuple(one.name for one in machine.states)
    samples = np.zeros((len(names), len(names)), dtype=np.int64)
    seconds = np.zeros((len(names), len(names)))
    wrong: list[Wrong] = []
    for truth in truths:
        row = machine.place_of(truth.state)
        for place in _during(visits, truth):
            from_s = max(truth.from_s, float(visits.from_s[place]))
            to_s = min(truth.to_s, float(visits.to_s[place]))
            column = int(visits.state[place])
            seconds[row, column] += to_s - from_s
            is_last = place == len(visits) - 1
            samples[row, column] += _count(sample_s, from_s, to_s, is_last and to_s < truth.to_s)
            if row != column and to_s > from_s:
                wrong.append(Wrong(from_s, to_s, truth.state, names[column]))
    worst = sorted(wrong, key=lambda one: one.from_s - one.to_s)[:MOST_WORST]
    return Confusion(
        names,
        tuple(tuple(map(int, row)) for row in samples),
        tuple(tuple(map(float, row)) for row in seconds),
        tuple(
            _held(name, number, samples, visits, truths)
            for number, name in enumerate(names)
            if samples[number].sum() or samples[:, number].sum() or
            any(one.state == name for one in truths)
        ),
        tuple(worst),
    )  # fmt: skip


def _check(machine: Machine, truths: Sequence[Truth]) -> None:
    known = ", ".join(one.name for one in machine.states)
    ordered = sorted(truths, key=lambda one: one.from_s)
    for one in ordered:
        if one.state not in machine.numbers:
            raise ValueError(
                f"the truth “{one.state[:40]}” is no state of these rules; there are {known}"
            )
        if not one.to_s > one.from_s:
            raise ValueError(f"the truth {one.state} from {one.from_s:g} s has no length")
    for before, after in itertools.pairwise(ordered):
        if after.from_s < before.to_s:
            raise ValueError(
                f"the truth {before.state} lasts to {before.to_s:g} s, but {after.state} begins at "
                f"{after.from_s:g} s"
            )


def _during(visits: Visits, truth: Truth) -> range:
    """The visits that a stretch touches."""
    first = int(np.searchsorted(visits.to_s, truth.from_s, side="right"))
    last = int(np.searchsorted(visits.from_s, truth.to_s, side="left"))
    return range(first, last)


def _count(sample_s: FloatArray, from_s: float, to_s: float, with_end: bool) -> int:
    first = np.searchsorted(sample_s, from_s, side="left")
    last = np.searchsorted(sample_s, to_s, side="right" if with_end else "left")
    return int(last - first)


def _held(
    name: str, number: int, samples: IntArray, visits: Visits, truths: Sequence[Truth]
) -> Held:
    right = int(samples[number, number])
    reached, missed = [], []
    own = [one for one in truths if one.state == name]
    for one in own:
        inside = [p for p in _during(visits, one) if visits.state[p] == number]
        if inside:
            reached.append(max(0.0, float(visits.from_s[inside[0]]) - one.from_s))
        else:
            missed.append(one.from_s)
    touching = {p for one in truths for p in _during(visits, one) if visits.state[p] == number}
    rightly = {p for one in own for p in _during(visits, one) if visits.state[p] == number}
    return Held(
        name,
        Rate(right, int(samples[:, number].sum())),
        Rate(right, int(samples[number].sum())),
        Rate(len(rightly), len(touching)),
        Rate(len(reached), len(own)),
        tuple(reached),
        tuple(missed),
    )


def reaction_said(held: Held) -> Mapping[str, float]:
    """The middle and the longest of the times to react, s; NaN where nothing was reached."""
    if not held.reaction_s:
        return {"median_s": math.nan, "longest_s": math.nan}
    return {"median_s": float(np.median(held.reaction_s)), "longest_s": max(held.reaction_s)}
