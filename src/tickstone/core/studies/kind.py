"""What a planned experiment is: a plan, its cells in order, what each gave, and what they say."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar

from tickstone.core.finding import Finding
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal


@dataclass(frozen=True, slots=True)
class Cell:
    """One thing to take. key: in the store. level: what is varied, SI. is_lit: whether with lamps.
    what: to do, in the imperative. says: what it is, in a few words.
    """

    key: str
    level: float
    is_lit: bool
    what: str
    says: str


@dataclass(frozen=True, slots=True)
class Taken:
    """What a cell gave: the heaps of every lane; what was held still has one each, as `light`.

    facts: numbers besides, one a lane, by name.
    """

    key: str
    heaps: tuple[LaneHeaps, ...]
    samples: int
    facts: Mapping[str, list[float]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Row:
    """A line of the result: one level. d_prime: of the worst lane. misread: of the best threshold
    on the worst lane, if normal. room_share: of the light that is the room’s, the worst lane; None
    where it was not taken. per_lane: d′ of each.
    """

    level: float
    d_prime: float
    misread: float
    room_share: float | None
    per_lane: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a study says. flat: between which levels it does nearly as well as at the best.
    cost: what one step of the level costs at the best, a sentence.
    """

    rows: tuple[Row, ...]
    best: float | None
    flat: tuple[float, float] | None
    says: str
    cost: str
    findings: tuple[Finding, ...] = field(default=())


class StudyKind:
    """One kind of study. plan: a dataclass of described inputs. varies: the quantity of a level."""

    name: ClassVar[str]
    label: ClassVar[str]
    what: ClassVar[str]
    plan: ClassVar[type]
    varies: ClassVar[Quantity]

    def cells(self, plan: Any) -> Sequence[Cell]:
        """What to take, in the order to take it."""
        raise NotImplementedError

    def take(self, cell: Cell, signal: Signal, parameters: Any) -> Taken:
        """What a stretch gave for a cell. Raises ValueError when it cannot be used, and why.

        signal: what the sensor’s calibration compares.
        """
        raise NotImplementedError

    def outcome(self, plan: Any, taken: Mapping[str, Taken]) -> Outcome:
        """What all that was taken says so far."""
        raise NotImplementedError
