"""What a kind of decision is: what may be set, what speaks for it, and the stage it becomes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from tickstone.core.chain import Stage
from tickstone.core.finding import Finding
from tickstone.core.inputs import Value
from tickstone.core.quantity import Quantity


@dataclass(frozen=True, slots=True)
class Known:
    """What the rig itself says of what a suggestion needs.

    sample_s: from one reading to the next. filter_s: lag of the filter. loop_s: one turn of the
    program. note: where they are from. u_at: standard uncertainty of a reading near a value.
    """

    sample_s: float
    filter_s: float
    loop_s: float
    note: str
    u_at: Callable[[float], float]


@dataclass(frozen=True, slots=True)
class Part:
    """A line of the sum behind a suggestion. total: whether it is what the others add up to."""

    label: str
    value: float
    quantity: Quantity
    note: str = ""
    is_total: bool = False


@dataclass(frozen=True, slots=True)
class Suggestion:
    """What to set, and why.

    parts: the sum behind it. needed: what the parameters have to cover, in the unit they are in.
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

    def stage(self, parameters: Any, chain_parameters: Any) -> Stage:
        """What it becomes in the chain. Raises ValueError when the parameters do not fit."""
        raise NotImplementedError

    def suggest(self, evidence: Any, known: Known, tried: Any | None = None) -> Suggestion:
        """What speaks for which parameters. tried: those in hand, for what they are good for."""
        raise NotImplementedError

    def lines(self, parameters: Any) -> tuple[Level, ...]:
        """The levels it draws on a plot of what it decides on."""
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
