"""The chain: an ordered list of stages from raw ticks to a decision.

A stage does one piece of arithmetic twice over: `apply` for a whole recording and `explain` for one
sample, as a step a person can read. A property test holds the two together.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from itertools import groupby
from typing import ClassVar, Protocol, runtime_checkable

import numpy as np

from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.uncertainty import Component, combined

BLOCK_SAMPLES = 16_384
"""Pointwise stages run block by block, so that what lies between them stays in the processor's
cache; one pass over the whole recording for each stage would be bound by memory instead."""


FIRST_REACH_SAMPLES = 2_048
"""How far back the working of a sample looks at first; farther when a stage asks for it."""


@dataclass(frozen=True, slots=True)
class Operand:
    """What a stage puts to the running value: a number with its unit, or a few words."""

    value: float | None
    unit: str
    u: float
    text: str = ""


@dataclass(frozen=True, slots=True)
class Reading:
    """One sample on its way through the chain.

    value: in `unit`; NaN when there is none.
    earlier: what enters the stage, from the start of the recording up to and including this
        sample, for stages that look back.
    components: the uncertainty budget so far, in `unit`.
    """

    value: float
    unit: str
    status: Status
    components: tuple[Component, ...]
    earlier: Signal


@dataclass(frozen=True, slots=True)
class Step:
    """One line of the working.

    sign: the arithmetic sign that joins this step to the one before, such as ``×``.
    operand: what is put in; `value` in `unit` is what comes out.
    formula: in symbols; `filled` is the same with the numbers in.
    """

    stage: str
    label: str
    sign: str
    operand: Operand
    formula: str
    filled: str
    value: float
    unit: str
    status: Status
    components: tuple[Component, ...]
    source: str
    note: str = ""
    facts: tuple[tuple[str, str], ...] = field(default=())

    @property
    def u(self) -> float:
        """Combined standard uncertainty of `value`, in `unit`."""
        return combined(self.components)


@runtime_checkable
class Stage(Protocol):
    """One piece of arithmetic with everything it knows about itself."""

    name: ClassVar[str]
    pointwise: ClassVar[bool]
    """True when a sample's result needs no other sample."""

    def apply(self, signal: Signal) -> Signal:
        """The whole recording at once."""
        ...

    def explain(self, reading: Reading) -> Step:
        """The same for one sample, in words and numbers."""
        ...


@runtime_checkable
class LooksBack(Stage, Protocol):
    """A stage whose result for a sample depends on samples before it."""

    def is_settled(self, earlier: Signal) -> bool:
        """Whether these samples decide the result for the last of them, whatever came before."""
        ...


@dataclass(frozen=True, slots=True)
class Chain:
    """Stages in the order they are applied."""

    stages: tuple[Stage, ...]

    def __iter__(self) -> Iterator[Stage]:
        return iter(self.stages)

    def before(self, name: str) -> Chain:
        """The stages ahead of the first one called `name`; all of them when there is none."""
        names = [stage.name for stage in self.stages]
        return Chain(self.stages[: names.index(name)]) if name in names else self

    def through(self, name: str) -> Chain:
        """The stages up to and including the last one called `name`.

        Raises KeyError when there is none.
        """
        names = [stage.name for stage in self.stages]
        if name not in names:
            raise KeyError(name)
        return Chain(self.stages[: len(names) - names[::-1].index(name)])

    def apply(self, signal: Signal) -> Signal:
        """Run a recording through every stage.

        signal: the raw samples, in the unit the first stage expects.
        Returns a signal of the same length and times.
        """
        for pointwise, stages in groupby(self.stages, key=lambda stage: stage.pointwise):
            if pointwise:
                signal = _apply_in_blocks(tuple(stages), signal)
            else:
                for stage in stages:
                    signal = stage.apply(signal)
        return signal

    def is_settled(self, earlier: Signal) -> bool:
        """Whether these raw samples decide what comes out for the last of them and all that follow,
        whatever came before them. Without samples nothing is settled unless no stage looks back.
        """
        for position, stage in enumerate(self.stages):
            if all(later.pointwise for later in self.stages[position:]):
                return True
            if len(earlier) == 0:
                return False
            if isinstance(stage, LooksBack) and not stage.is_settled(earlier):
                return False
            earlier = stage.apply(earlier)
        return True

    def explain(self, signal: Signal, index: int) -> tuple[Step, ...]:
        """The working for sample `index` of `signal`.

        Raises IndexError when there is no such sample.
        """
        if not 0 <= index < len(signal):
            raise IndexError(f"there is no sample {index} in a recording of {len(signal)}")
        reach = FIRST_REACH_SAMPLES
        while True:
            first = max(0, index + 1 - reach)
            steps = self._explain_last(signal.between(first, index + 1), is_whole=first == 0)
            if steps is not None:
                return steps
            reach *= 16

    def _explain_last(self, earlier: Signal, is_whole: bool) -> tuple[Step, ...] | None:
        """The working for the last sample; None when a stage would have to look farther back."""
        reading = Reading(
            value=float(earlier.values[-1]),
            unit=earlier.unit,
            status=Status(int(earlier.status[-1])),
            components=(),
            earlier=earlier,
        )
        steps: list[Step] = []
        for position, stage in enumerate(self.stages):
            if not is_whole and isinstance(stage, LooksBack) and not stage.is_settled(earlier):
                return None
            step = stage.explain(reading)
            if math.isnan(reading.value):
                step = replace(step, filled=f"nothing to work with: {reading.status.word}")
            steps.append(step)
            if not all(later.pointwise for later in self.stages[position + 1 :]):
                earlier = Chain((stage,)).apply(earlier)
            reading = Reading(step.value, step.unit, step.status, step.components, earlier)
        return tuple(steps)


def _apply_in_blocks(stages: tuple[Stage, ...], signal: Signal) -> Signal:
    if len(signal) <= BLOCK_SAMPLES:
        for stage in stages:
            signal = stage.apply(signal)
        return signal
    values = np.empty(len(signal), dtype=np.float64)
    status = np.empty(len(signal), dtype=np.uint8)
    unit = signal.unit
    for first in range(0, len(signal), BLOCK_SAMPLES):
        block = signal.between(first, first + BLOCK_SAMPLES)
        for stage in stages:
            block = stage.apply(block)
        values[first : first + BLOCK_SAMPLES] = block.values
        status[first : first + BLOCK_SAMPLES] = block.status
        unit = block.unit
    return signal.replaced(values, unit, status)
