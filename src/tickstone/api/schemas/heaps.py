"""Heaps of samples, and thresholds on them."""

from __future__ import annotations

from collections.abc import Sequence

from tickstone.api.schemas.base import Answer
from tickstone.api.schemas.bench import QuantityOut
from tickstone.core.heaps.heap import Heap, d_prime
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.heaps.misread import Misread
from tickstone.core.rules.kind import LaneThreshold

_BEST = 1e6


class HeapOut(Answer):
    """What was read of one surface: values, rising, and how often each came."""

    name: str
    values: list[float]
    counts: list[int]
    n: int
    mean: float | None
    sd: float | None

    @classmethod
    def of(cls, heap: Heap) -> HeapOut:
        return cls(
            name=heap.name,
            values=list(heap.values),
            counts=list(heap.counts),
            n=heap.n,
            mean=heap.mean if heap.n else None,
            sd=heap.sd if heap.n else None,
        )


class LaneHeapsOut(Answer):
    """The heaps of one lane. d_prime: how far black and white are apart, in their scatter.

    between: samples on neither. clipped: at an end of the converter. why_not: why black and white
    are not both known; empty when they are.
    """

    lane: str
    dark: HeapOut
    light: HeapOut
    others: list[HeapOut]
    between: int
    clipped: int
    d_prime: float | None
    why_not: str

    @classmethod
    def of(cls, one: LaneHeaps) -> LaneHeapsOut:
        is_known = one.dark.n > 0 and one.light.n > 0
        return cls(
            lane=one.lane,
            dark=HeapOut.of(one.dark),
            light=HeapOut.of(one.light),
            others=[HeapOut.of(other) for other in one.others],
            between=one.between,
            clipped=one.clipped,
            d_prime=min(_BEST, d_prime(one.dark, one.light)) if is_known else None,
            why_not=one.why_not,
        )

    @classmethod
    def all_of(cls, lanes: Sequence[LaneHeaps]) -> list[LaneHeapsOut]:
        return [cls.of(one) for one in lanes]


class MisreadOut(Answer):
    """How many samples a threshold misreads, between which rates the true one lies (95 %), and what
    normal heaps of the same mean and scatter would have.
    """

    missed: int
    false: int
    samples: int
    rate: float
    low: float
    high: float
    gaussian: float

    @classmethod
    def of(cls, one: Misread) -> MisreadOut:
        low, high = one.interval
        return cls(
            missed=one.missed,
            false=one.false,
            samples=one.n_dark + one.n_light,
            rate=one.rate,
            low=low,
            high=high,
            gaussian=one.gaussian,
        )


class WayOut(Answer):
    """A way to choose a threshold, where it puts it, and what that misreads."""

    name: str
    label: str
    at: float
    misread: MisreadOut


class LaneThresholdOut(Answer):
    """A threshold on the heaps of one lane, in what they are counted in; see `LaneThreshold`."""

    heaps: LaneHeapsOut
    counted: QuantityOut
    at: float
    half: float
    black: float
    per_share: float
    per_volt: float
    misread: MisreadOut
    ways: list[WayOut]
    best: str
    why: str
    why_not: str

    @classmethod
    def of(cls, one: LaneThreshold) -> LaneThresholdOut:
        return cls(
            heaps=LaneHeapsOut.of(one.heaps),
            counted=QuantityOut.of(one.quantity),
            at=one.at,
            half=one.half,
            black=one.black,
            per_share=one.per_share,
            per_volt=one.per_volt,
            misread=MisreadOut.of(one.misread),
            ways=[
                WayOut(
                    name=way.name, label=way.label, at=way.at, misread=MisreadOut.of(way.misread)
                )
                for way in one.ways
            ],
            best=one.best,
            why=one.why,
            why_not=one.why_not,
        )
