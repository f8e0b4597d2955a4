"""The working: one sample on its way through the chain, and each line of what is done to it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from tickstone.core.quantity import Quantity
from tickstone.core.status import Status
from tickstone.core.uncertainty import Component, combined


@dataclass(frozen=True, slots=True)
class Operand:
    """What a stage puts to the running value: a number with its unit, or a few words."""

    value: float | None
    unit: str
    u: float
    text: str = ""


@dataclass(frozen=True, slots=True)
class Lane:
    """One lane of one sample. value: NaN when there is none. components: its budget so far."""

    value: float
    status: Status = Status.OK
    components: tuple[Component, ...] = ()

    @property
    def u(self) -> float:
        """Combined standard uncertainty."""
        return combined(self.components)


@dataclass(frozen=True, slots=True)
class Reading:
    """One sample on its way through the chain, all its lanes."""

    time_s: float
    quantity: Quantity
    lanes: tuple[Lane, ...]

    @property
    def value(self) -> float:
        """Of the first lane."""
        return self.lanes[0].value

    @property
    def status(self) -> Status:
        """Of the first lane."""
        return self.lanes[0].status

    @property
    def components(self) -> tuple[Component, ...]:
        """Of the first lane."""
        return self.lanes[0].components

    @property
    def has_value(self) -> bool:
        """Whether any lane has one."""
        return any(not math.isnan(lane.value) for lane in self.lanes)


@dataclass(frozen=True, slots=True)
class Step:
    """One line of the working.

    sign: the arithmetic sign that joins this step to the one before, such as ``×``.
    operand: what is put in; `value` in the unit of `quantity` is what comes out, of the first lane.
    others: of the lanes after the first.
    formula: in symbols; `filled` is the same with the numbers in.
    below: words worth standing under it instead of what comes out.
    beside: the working of what else enters here, from its own beginning.
    """

    stage: str
    label: str
    sign: str
    operand: Operand
    formula: str
    filled: str
    value: float
    quantity: Quantity
    status: Status
    components: tuple[Component, ...]
    source: str
    note: str = ""
    below: str = ""
    facts: tuple[tuple[str, str], ...] = field(default=())
    others: tuple[Lane, ...] = ()
    beside: tuple[tuple[Step, ...], ...] = ()

    @property
    def unit(self) -> str:
        """The unit of `value`."""
        return self.quantity.unit

    @property
    def u(self) -> float:
        """Combined standard uncertainty of `value`."""
        return combined(self.components)

    @property
    def lanes(self) -> tuple[Lane, ...]:
        """All lanes, the first among them."""
        return (Lane(self.value, self.status, self.components), *self.others)

    @property
    def word(self) -> str:
        """The state of a decision as a word; empty for an amount."""
        return self.quantity.states[int(self.value)].word if self.quantity.is_decision else ""


def last_value_shown(steps: Sequence[Step]) -> Step | None:
    """The last step that is an amount and not a decision, if there is one."""
    return next((step for step in reversed(steps) if not step.quantity.is_decision), None)
