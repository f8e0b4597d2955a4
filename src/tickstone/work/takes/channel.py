"""A channel of a take: raw, or after any node of its sensor's chain."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.thin import Thinned, broken_at_pauses, thin_buckets, thin_samples
from tickstone.store.models import Sensor, Take
from tickstone.store.takes import Buckets, read_buckets, read_samples, samples_between
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue
from tickstone.work.results import SHORT_SAMPLES, Results
from tickstone.work.sensing import kind_of, sensing_of, surroundings_of_take
from tickstone.work.sources import source_of_channel


@dataclass(frozen=True, slots=True)
class Channel:
    """One channel. results: of its sensor's chain; None when it has none.

    stages: names of the nodes one can look behind, in order.
    """

    session: Session
    cache: Cache
    take: Take
    number: int
    results: Results | None

    @property
    def stages(self) -> list[str]:
        """Names of the nodes one can look behind, in order."""
        if self.results is None:
            return []
        chain = self.results.chain
        decisions = {n.name for n in chain.nodes if chain.quantity_of(n.name).is_decision}
        return [node.name for node in chain.nodes if node.name not in decisions]

    def check(self, stage: str) -> None:
        """Raises ValueError when there is no such stage."""
        if stage and self.results is None:
            raise ValueError("this channel has no chain; it can be seen raw")
        if stage and stage not in self.stages:
            raise ValueError(f"there is no stage “{stage}”; there are {', '.join(self.stages)}")

    def quantity(self, stage: str) -> Quantity:
        """What its samples are. Raises ValueError when there is no such stage."""
        self.check(stage)
        if stage and self.results is not None:
            return self.results.chain.quantity_of(stage)
        channel = self.take.channels[self.number]
        return Quantity(channel["quantity"], channel["unit"])

    def between(self, stage: str, from_us: int, to_us: int) -> Signal:
        """Its samples from `from_us` to `to_us`, both inclusive. Raises ValueError."""
        self.check(stage)
        if stage and self.results is not None:
            return self.results.between(stage, from_us, to_us).lane(0)
        samples = read_samples(self.session, self.take.id, self.number, from_us, to_us)
        time_s = (samples.time_us - self.take.first_time_us) / 1e6
        values, status = samples.values[np.newaxis], samples.status[np.newaxis]
        return Signal(time_s, values, status, self.quantity(""))

    def draw(
        self, stage: str, window_s: tuple[float, float], points: int
    ) -> tuple[Quantity, Thinned]:
        """It over a window, s from the start, ready to draw. Raises ValueError."""
        self.check(stage)
        origin = self.take.first_time_us
        from_us, to_us = (origin + round(edge * 1e6) for edge in window_s)
        samples = samples_between(self.session, self.take.id, from_us, to_us)
        if samples <= SHORT_SAMPLES:
            signal = self.between(stage, from_us, to_us)
            thin = thin_samples(signal.time_s, signal.value, signal.flag, points)
        elif stage and self.results is not None:
            thin = thinned_buckets(self.results.lanes(stage)[0], origin, window_s, points, samples)
        else:
            buckets = read_buckets(self.session, self.take.id, self.number)
            thin = thinned_buckets(buckets, origin, window_s, points, samples)
        return self.quantity(stage), broken_at_pauses(thin, known_pauses(self.take))


def channel_of(
    session: Session, cache: Cache, take: Take, number: int, catalogue: Catalogue
) -> Channel:
    """A channel with the chain of its sensor as it is set now, in what the take was recorded in."""
    sensor_id = take.channels[number].get("sensor_id")
    sensor = session.get(Sensor, sensor_id) if sensor_id is not None else None
    kind = kind_of(sensor, catalogue) if sensor is not None else None
    source = source_of_channel(take, number, kind) if kind is not None else None
    if sensor is None or kind is None or source is None:
        return Channel(session, cache, take, number, None)
    sensing = sensing_of(session, sensor, kind, surroundings_of_take(take), with_rules=False)
    chain = replace(sensing, forms=source.forms, lanes=source.lanes).chain()
    return Channel(session, cache, take, number, Results(session, cache, source, chain))


def thinned_buckets(
    buckets: Buckets, origin_us: int, window_s: tuple[float, float], points: int, samples: int
) -> Thinned:
    """A window of an overview, s from the take's start."""
    from_us, to_us = (origin_us + round(edge * 1e6) for edge in window_s)
    first = max(0, int(np.searchsorted(buckets.time_us, from_us, side="right")) - 1)
    last = int(np.searchsorted(buckets.time_us, to_us, side="right"))
    part = slice(first, last)
    overview = buckets.overview
    return thin_buckets(
        (buckets.time_us[part] - origin_us) / 1e6,
        overview.lowest[part],
        overview.highest[part],
        overview.flagged[part],
        points,
        samples,
    )


def known_pauses(take: Take) -> list[tuple[float, float]]:
    """The gaps of a take, s from its start."""
    origin = take.first_time_us
    return [((gap["from_us"] - origin) / 1e6, (gap["to_us"] - origin) / 1e6) for gap in take.gaps]
