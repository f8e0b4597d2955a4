"""Two sensors on one distance: both, when they agree; the nearer, when they do not."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import is_number, pick, size
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component

MEAN, NEARER, FIRST = "mean", "nearer", "first"


@dataclass(frozen=True, slots=True)
class Vote(Pointwise):
    """Both measured: their mean by 1/u², the nearer, or the first; farther apart than `apart_m`
    they are at odds, and the nearer is told. One measured: that one, flagged. None: the first's
    status.

    how: MEAN, NEARER or FIRST. first_u, second_u: standard uncertainties, m.

    >>> one, other = Signal.of([0, 1, 2], [1.0, 1.0, 1.0]), Signal.of([0, 1, 2], [1.02, 0.5, 9.0])
    >>> vote = Vote(MEAN, 0.01, 0.01, 0.1)
    >>> voted = vote.apply(one, other)
    >>> voted.value.round(3).tolist(), voted.flag.tolist()
    ([1.01, 0.5, 1.0], [0, 31, 31])
    """

    name: ClassVar[str] = "vote"

    how: str
    first_u: float
    second_u: float
    apart_m: float

    def gives(self, *taken: Quantity) -> Quantity:
        """The distance."""
        return taken[0]

    @property
    def share(self) -> float:
        """Of the first in a mean by 1/u²."""
        one, other = self.first_u**-2, self.second_u**-2
        return one / (one + other)

    def apply(self, *signals: Signal) -> Signal:
        """The vote at each time."""
        one, other = signals
        a, b = one.value, other.value
        good, also = one.ok & ~np.isnan(a), other.ok & ~np.isnan(b)
        nearer = np.fmin(a, b)
        agreed = {
            MEAN: self.share * a + (1.0 - self.share) * b,
            NEARER: nearer,
            FIRST: a,
        }[self.how]
        values = np.where(good & also, agreed, np.where(good, a, np.where(also, b, a)))
        status = np.where(good & also, int(Status.OK), int(Status.ONE_ALONE)).astype(np.uint8)
        neither = ~good & ~also
        status[neither] = one.flag[neither]
        odd = good & also & (np.abs(a - b) > self.apart_m)
        values[odd], status[odd] = nearer[odd], Status.AT_ODDS
        return Signal(one.time_s, values[None], status[None], one.quantity, one.until_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        first, second = entering
        a, b = first.value, second.value
        good = code.let("is_first_good", first.ok & is_number(a))
        also = code.let("is_second_good", second.ok & is_number(b))
        nearer = code.let("nearer", pick(~is_number(a) | (b < a), b, a))
        agreed = {
            MEAN: a * self.share + b * (1.0 - self.share),
            NEARER: nearer,
            FIRST: a,
        }[self.how]
        odd = code.let("is_odd", good & also & (size(a - b) > self.apart_m))
        value = pick(odd, nearer, pick(good & also, agreed, pick(good, a, pick(also, b, a))))
        alone = pick(good | also, Status.ONE_ALONE, first.status)
        status = pick(odd, Status.AT_ODDS, pick(good & also, Status.OK, alone))
        return first.of(EmittedLane(value, status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One vote: who decided."""
        one, other = readings
        signals = [
            Signal.of([one.time_s], [r.value], r.quantity, [int(r.status)]) for r in readings
        ]
        result = self.apply(*signals)
        value, status = float(result.value[0]), Status(int(result.flag[0]))
        good = one.status == Status.OK and math.isfinite(one.value)
        also = other.status == Status.OK and math.isfinite(other.value)
        said = one.quantity.said
        parts: tuple[Component, ...] = ()
        if good and also and status == Status.OK and self.how == MEAN:
            who, parts = "both", _mixed(self.share, one.components, other.components)
        elif good and (not also or value == one.value):
            who, parts = "the first", one.components
        elif also:
            who, parts = "the second", other.components
        else:
            who = "neither"
        return Step(
            stage=self.name,
            label="vote",
            sign="→",
            operand=Operand(None, "", 0.0, who),
            formula="mean by 1/u² while they agree; else the nearer",
            filled=f"{said(one.value)} and {said(other.value)}: {who}",
            value=value,
            quantity=one.quantity,
            status=status,
            components=parts,
            source="weighted mean; common practice",
            note=status.remark,
        )


def _mixed(
    share: float, one: tuple[Component, ...], other: tuple[Component, ...]
) -> tuple[Component, ...]:
    """Budgets of two in a mean; a source of the same name that both share adds up."""
    found: dict[str, Component] = {}
    for scale, parts in ((share, one), (1.0 - share, other)):
        for part in parts:
            name = part.name if part.name not in found or part.shared else f"{part.name}, second"
            scaled = part.through(scale)
            if name in found:
                total = found[name].contribution + scaled.contribution
                scaled = Component(
                    name, part.u_input, part.input_unit, total, part.shared, part.basis
                )
            found[name] = scaled
    return tuple(
        Component(name, p.u_input, p.input_unit, p.contribution, p.shared, p.basis)
        for name, p in found.items()
    )
