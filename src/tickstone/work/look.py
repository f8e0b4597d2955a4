"""One look at a recording: what it gives, drawn, with the working of the reading in hand."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.chain import Chain
from tickstone.core.finding import Finding, worst_first
from tickstone.core.findings import budget_findings, signal_findings
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import read_in
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Step, last_value_shown
from tickstone.core.thin import Thinned, broken_at_pauses, thin_samples
from tickstone.core.uncertainty import expanded
from tickstone.store.models import Recording
from tickstone.work.cache import Cache
from tickstone.work.results import SHORT_SAMPLES, Results, window_of
from tickstone.work.sensing import Sensing
from tickstone.work.sources import source_of
from tickstone.work.takes.channel import known_pauses, thinned_buckets

_MOST_SPANS = 1_000
_SPREADS = 9


@dataclass(frozen=True, slots=True)
class Look:
    """What to look at. outputs: names; all when empty. from_s, to_s: the window; at_s: the reading
    in hand, the last good one when None. points: of each line, at most.
    """

    outputs: tuple[str, ...] = ()
    from_s: float | None = None
    to_s: float | None = None
    points: int = 1_600
    at_s: float | None = None


@dataclass(frozen=True, slots=True)
class StateSpans:
    """Stretches of time with one decision each, in columns: the decision’s place among the states
    of its quantity, and the lane it is of.
    """

    # They come by the thousand, at every step of a hand that moves a threshold.
    from_s: list[float] = field(default_factory=list)
    to_s: list[float] = field(default_factory=list)
    state: list[int] = field(default_factory=list)
    lane: list[int] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.from_s)


@dataclass(frozen=True, slots=True)
class OutputSeen:
    """One output over the window.

    lanes: a drawn line each, none for a decision; states: of a decision. at_s: the result in hand,
    and its working. spread: expanded uncertainty along spread_at, both in the quantity's unit.
    samples, counts: of the whole recording, by status. beside: a word to stand beside the result.
    """

    name: str
    quantity: Quantity
    lanes: tuple[Thinned, ...]
    states: StateSpans
    at_s: float | None
    at_index: int | None
    working: tuple[Step, ...]
    spread_at: tuple[float, ...]
    spread: tuple[float, ...]
    samples: int
    counts: dict[Status, int]
    beside: str


@dataclass(frozen=True, slots=True)
class Seen:
    """A recording as it is looked at."""

    samples: int
    duration_s: float
    from_s: float
    to_s: float
    outputs: tuple[OutputSeen, ...]
    findings: tuple[Finding, ...]


def look_at(
    session: Session, cache: Cache, recording: Recording, sensing: Sensing, look: Look
) -> Seen:
    """Run the chain over a recording and prepare a window of it for the screen.

    Raises ValueError for an output that there is none of. The caller commits overviews.
    """
    results = results_of(session, cache, recording, sensing)
    given = dict(results.chain.outputs)
    for name in look.outputs:
        if name not in given:
            raise ValueError(f"there is no output “{name[:40]}”; there are {', '.join(given)}")
    window_s = (
        0.0 if look.from_s is None else look.from_s,
        recording.duration_s if look.to_s is None else look.to_s,
    )
    parts = {one.name for one in sensing.kind.outputs if one.is_part}
    names = look.outputs or tuple(name for name in given if name not in parts)
    results.prepare([given[name] for name in names])
    # Of what a trial does not touch, all is known already.
    rests_on = (window_s, look.points, look.at_s, sensing.parameters, read_in())
    seen = tuple(
        results.remembered(
            given[name],
            (name, *rests_on),
            partial(_output, results, recording, sensing, look, window_s, name),
            _size,
        )
        for name in names
    )
    return Seen(
        samples=recording.samples,
        duration_s=recording.duration_s,
        from_s=window_s[0],
        to_s=window_s[1],
        outputs=seen,
        findings=worst_first(_findings(results, sensing, seen)),
    )


def results_of(session: Session, cache: Cache, recording: Recording, sensing: Sensing) -> Results:
    """What a sensor's chain gives when a recording of it feeds it."""
    source = source_of(recording, sensing.kind)
    chain = replace(sensing, forms=source.forms, lanes=source.lanes).chain()
    return Results(session, cache, source, chain)


def statuses_of(
    session: Session, cache: Cache, recording: Recording, sensing: Sensing
) -> dict[Status, int]:
    """How many readings of a recording's headline have each status."""
    results = results_of(session, cache, recording, sensing)
    return results.counts(results.chain.node_of(sensing.kind.headline(results.chain).name))


def u_at(sensing: Sensing, value: float, output: str = "") -> float:
    """Standard uncertainty of an output, the headline unless named, near `value`, or of the nearest
    it can take. NaN when the chain never gives one.
    """
    step, is_headline = _one(sensing, value, output)
    if step is not None and not is_headline and step.value > 0.0:
        # Other outputs go in proportion with the headline, or nearly so.
        step, _ = _one(sensing, value * value / step.value, output)
    return math.nan if step is None else step.u


def _one(sensing: Sensing, value: float, output: str) -> tuple[Step | None, bool]:
    """The working's last line of an output, the headline unless named, when the headline is near
    `value`; and whether it is the headline.
    """
    kind = sensing.kind
    raw = kind.raw_for(value, sensing.parameters, sensing.surroundings, sensing.calibrations)
    if raw is None:
        return None, False
    headline = kind.headline(_chain_for(sensing, raw)).name
    return step_of(sensing, raw, output), output in ("", headline)


def step_of(sensing: Sensing, raw: Mapping[str, Signal], output: str = "") -> Step | None:
    """The working's last line of an output, the headline unless named, after all of `raw`, samples
    by role; None when they give none.
    """
    chain = _chain_for(sensing, raw)
    node = chain.node_of(output or sensing.kind.headline(chain).name)
    count = len(chain.fold(raw, node).results[node])
    return chain.explain(raw, count - 1, node)[-1] if count else None


def _chain_for(sensing: Sensing, raw: Mapping[str, Signal]) -> Chain:
    """The chain that takes these samples as they come, and decides nothing."""
    forms = {
        role.name: form.name
        for role in sensing.kind.roles
        for form in role.forms
        if role.name in raw and form.quantity.name == raw[role.name].quantity.name
    }
    lanes = {name: len(one.values) for name, one in raw.items()}
    return replace(sensing, rules={}, forms=forms, lanes=lanes).chain()


def _output(
    results: Results,
    recording: Recording,
    sensing: Sensing,
    look: Look,
    window_s: tuple[float, float],
    name: str,
) -> OutputSeen:
    node = results.chain.node_of(name)
    quantity = results.chain.quantity_of(node)
    origin = results.source.origin_us
    from_us, to_us = (origin + round(edge * 1e6) for edge in window_s)
    lanes: tuple[Thinned, ...] = ()
    states = StateSpans()
    shown: Signal | None = None
    if results.is_short or _holds_few(recording, window_s):
        shown = results.between(node, from_us, to_us)
    elif quantity.is_decision:
        shown = window_of(results.whole(node), *window_s)
    if quantity.is_decision:
        assert shown is not None
        for lane, values in enumerate(shown.values):
            _add_spans(states, shown.time_s, values, lane)
    else:
        lanes = _lanes(results, node, shown, window_s, look.points, recording)
    at_s = results.nearest(node, look.at_s)
    working = () if at_s is None else results.working(node, at_s)
    is_headline = name == sensing.kind.headline(results.chain).name
    spread_at, spread = _spread(results.cache, sensing, shown if is_headline else None)
    last = last_value_shown(working)
    counts = results.counts(node)
    return OutputSeen(
        name=name,
        quantity=quantity,
        lanes=lanes,
        states=states,
        at_s=at_s,
        at_index=_index(results, node, at_s),
        working=working,
        spread_at=spread_at,
        spread=spread,
        samples=sum(counts.values()),
        counts=counts,
        beside=sensing.kind.beside(name, last, sensing.parameters) if last else "",
    )


def _size(seen: OutputSeen) -> int:
    """About how much memory it takes, bytes."""
    points = sum(len(lane.time_s) + len(lane.flag_s) for lane in seen.lanes)
    return 32 * points + 128 * len(seen.states) + 20_000


def _holds_few(recording: Recording, window_s: tuple[float, float]) -> bool:
    share = (window_s[1] - window_s[0]) / max(1e-9, recording.duration_s)
    return share * recording.samples <= SHORT_SAMPLES


def _index(results: Results, node: str, at_s: float | None) -> int | None:
    """Which of all results it is; None when nobody counted."""
    if at_s is None or not results.is_short:
        return None
    return int(np.searchsorted(results.whole(node).time_s, at_s, side="right")) - 1


def _lanes(
    results: Results,
    node: str,
    shown: Signal | None,
    window_s: tuple[float, float],
    points: int,
    recording: Recording,
) -> tuple[Thinned, ...]:
    if shown is not None:
        drawn = [
            thin_samples(shown.time_s, values, status, points)
            for values, status in zip(shown.values, shown.status, strict=True)
        ]
    else:
        origin = results.source.origin_us
        drawn = [
            thinned_buckets(lane, origin, window_s, points, recording.samples)
            for lane in results.lanes(node)
        ]
    known = known_pauses(recording.take)
    is_events = results.chain.has_own_times(node)
    return tuple(broken_at_pauses(one, known, is_events) for one in drawn)


def _add_spans(found: StateSpans, time_s: FloatArray, codes: FloatArray, lane: int) -> None:
    if len(codes) == 0:
        return
    starts = np.concatenate(([0], np.flatnonzero(codes[1:] != codes[:-1]) + 1))
    if len(starts) > _MOST_SPANS:
        edges = np.linspace(0, len(codes), _MOST_SPANS + 1).astype(np.int64)[:-1]
        worst = np.maximum.reduceat(codes, edges)
        codes = np.repeat(worst, np.diff(np.append(edges, len(codes))))
        starts = np.concatenate(([0], np.flatnonzero(codes[1:] != codes[:-1]) + 1))
    ends = np.append(starts[1:], len(codes) - 1)
    found.from_s.extend(time_s[starts].tolist())
    found.to_s.extend(time_s[ends].tolist())
    found.state.extend(codes[starts].astype(np.int64).tolist())
    found.lane.extend([lane] * len(starts))


def _spread(
    cache: Cache, sensing: Sensing, shown: Signal | None
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Expanded uncertainty along what the window holds, for the kinds that can say it."""
    if shown is None:
        return (), ()
    good = shown.value[shown.ok]
    if good.size == 0:
        return (), ()
    low, high = float(good.min()), float(good.max())

    def along() -> tuple[tuple[float, ...], tuple[float, ...]]:
        at = np.linspace(low, high if high > low else low + 1e-6, _SPREADS).tolist()
        us = [u_at(sensing, value) for value in at]
        kept = [(v, expanded(u)) for v, u in zip(at, us, strict=True) if math.isfinite(u)]
        return tuple(v for v, _ in kept), tuple(spread for _, spread in kept)

    # Rules decide on a number and change nothing of its doubt.
    chain = replace(sensing, rules={}).chain()
    key = ("spread", chain, sensing.parameters, sensing.surroundings, low, high)
    return cache.get(key, along, lambda _: 0)


def _findings(results: Results, sensing: Sensing, seen: tuple[OutputSeen, ...]) -> list[Finding]:
    """What there is to say of the whole recording, and of the reading in hand."""
    headline = results.chain.node_of(sensing.kind.headline(results.chain).name)

    def judge() -> tuple[Finding, ...]:
        signal = results.whole(headline)
        judged = signal
        if sensing.kind.judged:
            judged = results.whole(results.chain.node_of(sensing.kind.judged))
        found = sensing.kind.findings(sensing.parameters, sensing.surroundings, judged)
        logged = signal
        if results.chain.has_own_times(headline):
            logged = results.whole(results.chain.inputs[0].at)
        return (*signal_findings(logged, results.source.roles[0].form.is_events), *found)

    key = (results.source.take_id, results.source.key, results.chain, "findings", read_in())
    of_all = judge() if results.source.is_open else results.cache.get(key, judge, lambda _: 0)
    step = last_value_shown(seen[0].working) if seen else None
    source = results.source
    _, left_out = replace(sensing, forms=source.forms, lanes=source.lanes).fitted()
    misfits = [one.finding for one in left_out.values()]
    return [*misfits, *of_all, *(budget_findings(step, sensing.kind.remedy) if step else [])]
