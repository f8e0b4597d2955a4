"""What a kind of decision is: what may be set, what speaks for it, and the stage it becomes."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from tickstone.core.calibration.kind import Fit
from tickstone.core.chain import Stage
from tickstone.core.finding import Finding
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.heaps.misread import Misread
from tickstone.core.inputs import Value
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal


@dataclass(frozen=True, slots=True)
class Known:
    """What the rig itself says of what a suggestion needs.

    sample_s: from one reading to the next. filter_s: lag of the filter. loop_s: one turn of the
    program. note: where they are from. u_at: standard uncertainty of a reading near a value.
    parameters: of the chain. fits: what the calibrations in use say, by kind. raw_said: the raw
    value at which the sensor reads a value, as a program needs it; or nothing. lanes: of its first
    input, as last recorded; 0 when that is not known. scatter: of what it decides on, in the newest
    recording; NaN without one. elsewhere: heaps that were taken under other
    conditions, and which.
    """

    sample_s: float
    filter_s: float
    loop_s: float
    note: str
    u_at: Callable[[float], float]
    parameters: Any = None
    fits: Mapping[str, Fit] = field(default_factory=dict)
    raw_said: Callable[[float], str] = field(default=lambda value: "")
    lanes: int = 0
    scatter: Callable[[], float] = field(default=lambda: math.nan)
    elsewhere: tuple[tuple[str, tuple[LaneHeaps, ...]], ...] = ()


@dataclass(frozen=True, slots=True)
class Part:
    """A line of the sum behind a suggestion. total: whether it is what the others add up to."""

    label: str
    value: float
    quantity: Quantity
    note: str = ""
    is_total: bool = False


@dataclass(frozen=True, slots=True)
class Way:
    """A way to choose a threshold, where it puts it, and how often that misreads."""

    name: str
    label: str
    at: float
    misread: Misread


@dataclass(frozen=True, slots=True)
class LaneThreshold:
    """A threshold on the heaps of one lane, in what they are counted in.

    quantity: what they are counted in. at: the one in hand, half: of the band around it. per_share:
    how much of that the whole way from black to white is, and from where: value = black +
    share·per_share. per_volt: how many of it one volt is; 0 where that is not known. ways: where
    others would put it. best: the one recommended, and why. why_not: why none can do.
    """

    heaps: LaneHeaps
    quantity: Quantity
    at: float
    half: float
    black: float
    per_share: float
    per_volt: float
    misread: Misread
    ways: tuple[Way, ...]
    best: str
    why: str
    why_not: str


@dataclass(frozen=True, slots=True)
class Elsewhere:
    """What the parameters in hand do under other conditions: how many of how many are misread;
    None where the heaps are one there.
    """

    where: str
    misread: int | None
    samples: int


@dataclass(frozen=True, slots=True)
class TableRow:
    """A line of a table that is set: its number, how it looks, its name and meaning, the letter of
    what is done, the letter that is told, and whether it comes up in ordinary use.
    """

    number: int
    picture: str
    name: str
    meaning: str
    letter: str
    told: str
    is_usual: bool


@dataclass(frozen=True, slots=True)
class OpenSum:
    """A sum about parts that belongs here: its name, what it answers, and what to fill in."""

    bench: str
    label: str
    inputs: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Curve:
    """How one figure goes with another. x, y: shape (n,), in the units of their quantities. at: the
    point in hand.
    """

    x_label: str
    x_quantity: Quantity
    y_label: str
    y_quantity: Quantity
    x: tuple[float, ...]
    y: tuple[float, ...]
    at: tuple[float, float]


@dataclass(frozen=True, slots=True)
class RunFigure:
    """A figure of a run, as it was told beforehand and as it was. predicted, allowed: NaN where
    nothing told it, and by how much it may be off. at_s: where in the run.
    """

    label: str
    quantity: Quantity
    predicted: float
    measured: float
    allowed: float
    at_s: float

    @property
    def is_off(self) -> bool:
        """Whether it is off by more than it may be."""
        return abs(self.measured - self.predicted) > self.allowed


@dataclass(frozen=True, slots=True)
class Suggestion:
    """What to set, and why.

    parts: the sum behind it. needed: what the parameters have to cover, in the unit they are in.
    lanes: what is set, lane by lane, beside what speaks for it, where it is heaps that do.
    elsewhere: what that does under other conditions that were studied. table: what is set, line by
    line, where it is a table, and what each of its letters means. sum: one to go on with.
    curve: how what is set goes with what it allows.
    tried_says: what those in hand are good for; tried_fails: whether that is too little. taken:
    evidence that was left out, as the rig says it.
    """

    parameters: Mapping[str, Value]
    parts: tuple[Part, ...]
    note: str
    needed: float | None = None
    tried_says: str = ""
    tried_fails: bool = False
    taken: Mapping[str, float] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    lanes: tuple[LaneThreshold, ...] = ()
    elsewhere: tuple[Elsewhere, ...] = ()
    table: tuple[TableRow, ...] = ()
    table_words: tuple[tuple[str, str], ...] = ()
    sum: OpenSum | None = None
    curve: Curve | None = None


@dataclass(frozen=True, slots=True)
class Level:
    """A level on a plot. side: of it on which the zone lies. is_alarm: whether that is shaded."""

    at: float
    label: str
    side: Literal["above", "below"]
    is_alarm: bool


class RuleKind:
    """One kind of decision.

    parameters: a dataclass of described inputs: what is set. evidence: another one: what is asked
    to suggest it. takes: the output it decides on. decision: what comes out. words: headings of
    the evidence and of what is set. unset: what to say while nothing is. caution: what to keep in
    mind when trying it out.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    parameters: ClassVar[type]
    evidence: ClassVar[type]
    takes: ClassVar[str]
    decision: ClassVar[Quantity]
    words: ClassVar[tuple[str, str]]
    unset: ClassVar[str] = "Nothing is set."
    node: ClassVar[str] = "threshold"
    hint: ClassVar[str] = ""
    caution: ClassVar[str] = ""
    keep: ClassVar[str] = "the thresholds"
    """What is kept by it, as the button says."""

    def stage(self, parameters: Any, chain_parameters: Any) -> Stage:
        """What it becomes in the chain. Raises ValueError when the parameters do not fit."""
        raise NotImplementedError

    def suggest(self, evidence: Any, known: Known, tried: Any | None = None) -> Suggestion:
        """What speaks for which parameters. tried: those in hand, for what they are good for."""
        raise NotImplementedError

    def lines(self, parameters: Any) -> tuple[Level, ...]:
        """The levels it draws on a plot of what it decides on."""
        return ()

    def judge_run(
        self, parameters: Any, evidence: Any | None, taken: Signal, decided: Signal, u: float
    ) -> tuple[RunFigure, ...]:
        """A run against what was told of it. evidence: what it was set from, if that is known.

        taken: what it decides on. decided: its decisions at the same times. u: standard uncertainty
        of one reading.
        """
        return ()

    def short(self, parameters: Any) -> str:
        """What is set, in a few words for a stone."""
        raise NotImplementedError

    def sentence(self, parameters: Any, needed: float | None) -> str:
        """What is set, in a sentence for a stone."""
        raise NotImplementedError

    def failing(self, parameters: Any, needed: float | None) -> tuple[str, str] | None:
        """Why what is set does not do: a few words, and a sentence; None when it does."""
        return None
