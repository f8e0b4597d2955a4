"""What filters are compared on: a lane of a sensor's output, or a channel of a take."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.filters.comparing import Asked, Compared, Known, compare, good_of
from tickstone.core.filters.noise_model import Innovations, Suggested, innovations, suggest
from tickstone.core.looking import spectrum_of
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.value_kalman import ValueKalman
from tickstone.core.thin import Thinned, thin_samples
from tickstone.store.models import Recording, Take
from tickstone.store.takes import read_samples
from tickstone.work.cache import Cache
from tickstone.work.look import results_of
from tickstone.work.sensing import Sensing

MOST_SAMPLES = 400_000
_POINTS = 1_600
_FREQUENCIES = 160


@dataclass(frozen=True, slots=True)
class Through:
    """One line of the comparison: its figures, its line, its spectrum, and its own check."""

    figures: Compared
    line: Thinned
    hz: FloatArray
    density: FloatArray
    innovations: Innovations | None


@dataclass(frozen=True, slots=True)
class Comparison:
    """All of it. samples: compared on; of: how many there are."""

    known: Known
    rows: tuple[Through, ...]
    suggested: Suggested
    samples: int
    of: int


def output_lane(
    session: Session, cache: Cache, recording: Recording, sensing: Sensing, output: str, lane: int
) -> Signal:
    """A lane of an output, before any filter that is set. Raises ValueError for none such."""
    without = replace(sensing.parameters, **sensing.kind.unfiltered)
    results = results_of(session, cache, recording, replace(sensing, parameters=without, rules={}))
    given = dict(results.chain.outputs)
    name = output or sensing.kind.headline(results.chain).name
    if name not in given:
        raise ValueError(f"there is no output “{name[:40]}”; there are {', '.join(given)}")
    signal = results.whole(given[name])
    if signal.quantity.is_decision:
        raise ValueError(f"{name} is a decision, and no amount to filter")
    if lane >= len(signal.values):
        raise ValueError(f"{name} has {len(signal.values)} lanes")
    return signal.lane(lane)


def channel_signal(session: Session, take: Take, number: int) -> Signal:
    """A channel of a take as it came."""
    samples = read_samples(session, take.id, number, -(2**62), 2**62)
    time_s = (samples.time_us - take.first_time_us) / 1e6
    return Signal.of(time_s, samples.values, status=samples.status)


def compared_on(
    signal: Signal,
    filters: list[Asked],
    speed_m_per_s: float,
    from_s: float | None = None,
    to_s: float | None = None,
) -> Comparison:
    """Filters on a stretch of a signal of one lane. Raises ValueError when there is too little."""
    first = 0 if from_s is None else int(np.searchsorted(signal.time_s, from_s))
    last = len(signal) if to_s is None else int(np.searchsorted(signal.time_s, to_s, side="right"))
    count = last - first
    part = signal.between(first, min(last, first + MOST_SAMPLES))
    known, rows = compare(part, filters, speed_m_per_s)
    time_s = good_of(part).time_s
    return Comparison(
        known,
        tuple(
            _through(part, time_s, figures, asked)
            for figures, asked in zip(rows, (None, *filters), strict=True)
        ),
        suggest(part, known),
        len(part),
        count,
    )


def _through(signal: Signal, time_s: FloatArray, figures: Compared, asked: Asked | None) -> Through:
    line = thin_samples(time_s, figures.values, np.zeros(len(time_s), np.uint8), _POINTS)
    hz, density, _ = spectrum_of(time_s, figures.values)
    if len(hz) > _FREQUENCIES:
        # The strongest of each stretch: a line that stands out stays.
        cuts = np.linspace(0, len(hz), _FREQUENCIES + 1).astype(np.intp)[:-1]
        density = np.maximum.reduceat(density, cuts)
        hz = hz[cuts]
    stage = asked.stage if asked is not None else None
    told = innovations(signal, stage) if isinstance(stage, ValueKalman) else None
    return Through(figures, line, hz, density, told)
