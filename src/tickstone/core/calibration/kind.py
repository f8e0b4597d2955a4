"""What a kind of calibration is: how it is taken, how it is fitted, and what it becomes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from tickstone.core.calibration.seen import Seen
from tickstone.core.chain import Stage
from tickstone.core.finding import Finding
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal


@dataclass(frozen=True, slots=True)
class Span:
    """A stretch in which something known was held.

    name: of its pose or mark. true: what it was, in the unit of the kind's `asks_for`; None where
    the pose itself says it. u: its standard uncertainty. signal: what entered the node corrected.
    start_s, end_s: of the recording. lane: the only one it speaks of; None: all.
    """

    name: str
    signal: Signal
    true: float | None = None
    u: float | None = None
    start_s: float = 0.0
    end_s: float = 0.0
    lane: int | None = None


@dataclass(frozen=True, slots=True)
class SpanResult:
    """One span after the fit. read: mean of what was read; residual: true minus fitted; both None
    when the span had no use. wild: readings far outside the others, left out.
    """

    name: str
    true: float | None
    u: float | None
    read: float | None
    scatter: float | None
    drift: float | None
    count: int
    flagged: int
    wild: int
    is_still: bool
    is_used: bool
    residual: float | None = None


Numbers = float | list[Any]
"""A number, or a list of them, or rows of such lists."""


@dataclass(frozen=True, slots=True)
class Fit:
    """What the spans say.

    parameters: numbers, or lists of them, by name. covariance: of all the numbers in their order.
    statistics: such as chi_square and degrees. spans: one result for each that went in. heaps: of
    every lane, where surfaces were told apart. curves: points worth drawing, by name.
    """

    parameters: Mapping[str, Numbers]
    covariance: npt.NDArray[np.float64]
    statistics: Mapping[str, float]
    spans: tuple[SpanResult, ...]
    remarks: tuple[Finding, ...] = field(default=())
    heaps: tuple[LaneHeaps, ...] = field(default=())
    curves: Mapping[str, list[list[float]]] = field(default_factory=dict)

    def check_covariance(self, size: int, of: str) -> None:
        """Raises ValueError unless there is a covariance of so many numbers. of: what they are."""
        if self.covariance.shape != (size, size) or (np.diag(self.covariance) < 0.0).any():
            raise ValueError(f"covariance: is not that of {of}")

    def numbers(self, name: str) -> list[float]:
        """A parameter as a flat list. Raises KeyError."""
        return np.asarray(self.parameters[name], dtype=np.float64).ravel().tolist()


@dataclass(frozen=True, slots=True)
class Pose:
    """One thing to do for a calibration. what: in the imperative. still: what to hold still."""

    name: str
    what: str
    still: str = ""


@dataclass(frozen=True, slots=True)
class Line:
    """A line of a certificate."""

    label: str
    text: str


class CalibrationKind:
    """One kind of calibration.

    node: the node of the chain that it becomes. compares: the node whose results it looks at; what
    enters `node` when empty. asks_for: the quantity of the truth told for each span; None
    when the pose says it; usual_u: its standard uncertainty; values_within: where it may lie.
    poses: what to do, in order; a kind without takes any number of spans. takes_any_pose: whether
    any of them will do.
    truth: what that quantity is called here. done: what went on in a stretch that is marked.
    guide: what to do, while nothing is marked. deed: what marking is called. least_spans: without
    which there is nothing to fit. interval_days: after which it wants another
    look. is_needed: whether readings mean little without it. unset: what to say while there is
    none. undone_by: what may happen to the thing that only a person knows of, and that leaves it
    without grounds.
    """

    name: str
    label: str
    node: str
    compares: str = ""
    asks_for: Quantity | None = None
    usual_u: float = 0.001
    values_within: tuple[float, float] = (0.0, 1e12)
    poses: tuple[Pose, ...] = ()
    takes_any_pose: bool = False
    least_spans: int = 1
    truth: str = ""
    done: str = "it was held"
    guide: str = ""
    deed: str = "Mark a true value"
    interval_days: int = 180
    is_needed: bool = True
    unset: str = "No marks have been fitted and saved."
    undone_by: tuple[str, ...] = ()
    is_guided: bool = False
    """Whether what is held can be seen while it is; `see` is asked then."""
    told: tuple[str, ...] = ()
    """Statistics and curves that a command names beside the parameters."""

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """What the spans say. Raises ValueError when there is nothing to fit."""
        raise NotImplementedError

    def heaps(self, spans: Sequence[Span], parameters: Any) -> tuple[LaneHeaps, ...]:
        """What the spans hold of each surface, also where that is too little for a fit."""
        return ()

    def see(self, signal: Signal, parameters: Any) -> Seen:
        """What is held, and what is next. signal: what is compared, as far as it has come."""
        raise NotImplementedError

    can_be_outgrown: bool = False
    """Whether a newer recording may say that it holds no more; `outgrown` is asked then."""

    def outgrown(self, fit: Fit, signal: Signal) -> tuple[str, str] | None:
        """Why a newer recording says that it holds no more: a few words, and a sentence.

        signal: of that recording, what would be compared.
        """
        return None

    def check(self, fit: Fit) -> None:
        """Raises ValueError naming the parameter that no fit could have given."""

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> Stage:
        """What it becomes in the chain."""
        raise NotImplementedError

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """What it says, line by line."""
        return ()

    def short(self, fit: Fit) -> str:
        """How good it is, in a few words for a stone."""
        return f"{sum(one.is_used for one in fit.spans)} spans"

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """Stretches, s, in which something was held: what a person would mark."""
        return []
