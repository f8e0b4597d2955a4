"""Rules and what became of them, dressed for the wire."""

from __future__ import annotations

import math

import numpy as np

from tickstone.api.schemas.bench import OutputOut
from tickstone.api.schemas.machines import (
    ConfusionOut,
    HeldOut,
    RateOut,
    SightOut,
    StayOut,
    TraceOut,
    VersionOut,
    VisitsOut,
    WrongOut,
)
from tickstone.core.chains.kind import Output
from tickstone.core.display import finite, grouped
from tickstone.core.machines.machine import Machine, MachineInput
from tickstone.core.machines.measures import (
    Confusion,
    Held,
    Rate,
    Stay,
    reaction_said,
)
from tickstone.core.machines.running import Visits, cause_said, causes_of
from tickstone.core.machines.sight import Sight
from tickstone.core.reading_units import shown, shown_u
from tickstone.core.signal import Signal
from tickstone.core.thin import thin_samples
from tickstone.core.uncertainty import expanded
from tickstone.work.results import window_of

MOST_VISITS = 1_200
_POINTS = 1_200
_UNSURE = 3
"""Decimals of what has no ± to say how many are worth it."""


def rate_out(rate: Rate) -> RateOut:
    low, high = rate.interval
    return RateOut(
        hits=rate.hits, of=rate.of, value=finite(rate.value), low=finite(low), high=finite(high)
    )


def stay_out(one: Stay) -> StayOut:
    return StayOut(
        state=one.state,
        visits=one.visits,
        total_s=one.total_s,
        share=one.share,
        mean_s=finite(one.mean_s),
        shortest_s=finite(one.shortest_s),
        longest_s=finite(one.longest_s),
        chatter=one.chatter,
    )


def confusion_out(one: Confusion) -> ConfusionOut:
    return ConfusionOut(
        states=list(one.states),
        samples=[list(row) for row in one.samples],
        seconds=[list(row) for row in one.seconds],
        right=rate_out(one.right),
        held=[_held_out(held) for held in one.held],
        worst=[WrongOut.model_validate(wrong) for wrong in one.worst],
    )


def _held_out(one: Held) -> HeldOut:
    react = reaction_said(one)
    return HeldOut(
        state=one.state,
        precision=rate_out(one.precision),
        recall=rate_out(one.recall),
        precision_visits=rate_out(one.precision_visits),
        recall_stretches=rate_out(one.recall_stretches),
        reaction_median_s=finite(react["median_s"]),
        reaction_longest_s=finite(react["longest_s"]),
        missed_s=list(one.missed),
    )


def visits_out(machine: Machine, visits: Visits, from_s: float, to_s: float) -> VisitsOut:
    """The visits in a window; too many: the longest of each column stands for all in it."""
    causes = {cause: number for number, cause in enumerate((-1, *causes_of(machine)))}
    first = int(np.searchsorted(visits.to_s, from_s, side="right"))
    last = int(np.searchsorted(visits.from_s, to_s, side="right"))
    places = np.arange(first, last)
    many = np.ones(len(places), dtype=np.int64)
    ends = places
    if len(places) > MOST_VISITS:
        column = ((visits.from_s[places] - from_s) / (to_s - from_s) * MOST_VISITS).astype(np.int64)
        starts = np.concatenate(([0], np.flatnonzero(np.diff(column)) + 1))
        stops = np.append(starts[1:], len(places))
        lasted = visits.to_s[places] - visits.from_s[places]
        longest = [a + int(np.argmax(lasted[a:b])) for a, b in zip(starts, stops, strict=True)]
        many, ends = stops - starts, places[stops - 1]
        shown, places = places[longest], places[starts]
    else:
        shown = places
    return VisitsOut(
        from_s=np.round(np.maximum(visits.from_s[places], from_s), 6).tolist(),
        to_s=np.round(np.minimum(visits.to_s[ends], to_s), 6).tolist(),
        state=visits.state[shown].tolist(),
        why=[causes[int(one)] for one in visits.cause[shown]],
        many=many.tolist(),
    )


def causes_out(machine: Machine) -> list[str]:
    """Why a state can be entered, in the order that `VisitsOut.why` counts."""
    return [cause_said(machine, cause) for cause in (-1, *causes_of(machine))]


def not_run(name: str, error: str, where: str = "", unheard: tuple[str, ...] = ()) -> VersionOut:
    """A version that could not be run."""
    return VersionOut(
        name=name,
        error=error,
        where=where,
        unheard=list(unheard),
        states=[],
        alarms=[],
        causes=[],
        visits=VisitsOut(from_s=[], to_s=[], state=[], why=[], many=[]),
        transitions=0,
        stays=[],
        confusion=None,
    )


def trace_out(
    one: MachineInput, signal: Signal, sensor: str, output: Output, cuts: list[float],
    from_s: float, to_s: float,
) -> TraceOut:  # fmt: skip
    """What an input said in a window; a decision only where it changes."""
    part = window_of(signal, from_s, to_s)
    if one.states and len(part):
        good = np.where(part.ok, part.value, np.nan)
        keep = np.concatenate(([True], ~_same(good[1:], good[:-1])))
        keep[-1] = True
        part = Signal(part.time_s[keep], part.values[:, keep], part.status[:, keep], part.quantity)
    thin = thin_samples(part.time_s, part.value, part.flag, _POINTS)
    return TraceOut(
        name=one.name,
        label=f"{sensor}: {output.label.lower()}" if sensor else one.name,
        sensor=sensor,
        output=OutputOut.of(output),
        time_s=np.round(thin.time_s, 6).tolist(),
        low=[None if v != v else v for v in thin.low.tolist()],
        high=[None if v != v else v for v in thin.high.tolist()],
        cuts=cuts,
    )


def _same(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    same: np.ndarray = (a == b) | (np.isnan(a) & np.isnan(b))
    return same


def sight_out(one: Sight, machine: Machine) -> SightOut:
    """What an input said, as a person reads it."""
    given = next(each for each in machine.inputs if each.name == one.name)
    if one.word:
        text = one.word
    elif math.isnan(one.value):
        text = "nothing"
    else:
        text = _said(one, given.unit)
    return SightOut(
        name=one.name,
        said=text,
        status=one.status.word,
        age_s=finite(one.age_s),
        who=one.who,
    )


def _said(one: Sight, unit: str) -> str:
    """A value with its ±, both as fine as the second figure of the ±, as it is read."""
    value, word = shown(one.value, unit)
    doubt = shown_u(expanded(one.u), unit)
    if not (math.isfinite(doubt) and doubt > 0.0):
        return f"{grouped(value, _UNSURE)} {word}".rstrip()
    decimals = max(0, min(6, 1 - math.floor(math.log10(doubt))))
    return f"{grouped(value, decimals)} ± {grouped(doubt, decimals)} {word}".rstrip()
