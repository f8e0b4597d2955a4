"""Which threshold to take for two heaps, why not another, and how wide a band to leave."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from tickstone.core.heaps.heap import Heap, d_prime
from tickstone.core.heaps.misread import Misread, misread
from tickstone.core.thresholds.method import Method, Wanted

FEWEST = 10
"""Fewer samples of a surface than this say too little of its scatter."""
BAND_SIGMAS = 3.0
MOST_MISREAD = 0.02
"""What no threshold keeps below this, by the normal heaps, no threshold can do."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A threshold and what it does. at: in the unit of the heaps. nearest_sd: to the heap whose
    mean is nearer in its own standard deviations, how many.
    """

    method: Method
    at: float
    misread: Misread
    nearest_sd: float


@dataclass(frozen=True, slots=True)
class Chosen:
    """candidates: every way, by name. best: the one to take, and why, a sentence. half_band: of the
    hysteresis around it, in the unit of the heaps. why_not: why none can do; empty when one can.
    """

    candidates: Mapping[str, Candidate]
    best: str
    why: str
    half_band: float
    why_not: str

    @property
    def taken(self) -> Candidate:
        """The one to take."""
        return self.candidates[self.best]


def candidate(method: Method, dark: Heap, light: Heap, at: float) -> Candidate:
    """What a threshold does to two heaps."""
    sds = [
        abs(at - heap.mean) / heap.sd if heap.sd > 0.0 else float("inf") for heap in (dark, light)
    ]
    return Candidate(method, at, misread(dark, light, at), min(sds))


def choose(
    dark: Heap,
    light: Heap,
    methods: Mapping[str, Method],
    wanted: Wanted,
    sigmas: float = BAND_SIGMAS,
) -> Chosen:
    """The threshold that misreads fewest of the samples; of equals the one with the thinnest tails.

    So it is never worse than the midpoint on what it saw. sigmas: of the noisier heap, half the
    hysteresis band. Raises ValueError when there are too few samples, or the means are one.

    >>> from tickstone.core.thresholds import METHODS
    >>> dark, light = Heap.of("dark", range(690, 710)), Heap.of("light", range(200, 210))
    >>> chosen = choose(dark, light, METHODS, Wanted())
    >>> chosen.best, round(chosen.taken.at), chosen.why_not
    ('equal-error', 372, '')
    """
    for heap in (dark, light):
        if heap.n < FEWEST:
            raise ValueError(
                f"“{heap.name}” has {heap.n} samples; {FEWEST} at least say how it scatters"
            )
    if dark.mean == light.mean:
        raise ValueError(f"“{dark.name}” and “{light.name}” read the same")
    low, high = sorted((dark.mean, light.mean))
    candidates = {}
    for name, method in methods.items():
        at = method.at(dark, light, wanted)
        if at is not None:
            candidates[name] = candidate(method, dark, light, at)
    # What a person typed, or weighs, is theirs to choose.
    free = {n: one for n, one in candidates.items() if n in _FREE}
    within = {n: one for n, one in free.items() if low <= one.at <= high} or free
    best = min(
        within,
        key=lambda n: (within[n].misread.rate, within[n].misread.gaussian, _FREE.index(n)),
    )
    taken = candidates[best]
    half = sigmas * max(dark.sd, light.sd)
    # It has to leave the band on both sides, and well before the means.
    room = 0.5 * min(high - taken.at, taken.at - low)
    why_not = ""
    if taken.misread.gaussian > MOST_MISREAD:
        once_in = 1.0 / taken.misread.gaussian
        why_not = (
            f"even the best of them misreads one look in {once_in:.0f}: the heaps are "
            f"{d_prime(dark, light):.1f} of their scatter apart"
        )
    return Chosen(candidates, best, _why(best, candidates), max(0.0, min(half, room)), why_not)


_FREE = ("equal-error", "midpoint", "otsu")


def _why(best: str, candidates: Mapping[str, Candidate]) -> str:
    taken, middle = candidates[best].misread, candidates["midpoint"].misread
    if best == "midpoint":
        return "Half way: no other way misreads fewer."
    if taken.missed + taken.false < middle.missed + middle.false:
        fewer = middle.missed + middle.false - taken.missed - taken.false
        return f"It misreads {fewer} fewer of the samples than half way."
    if best == "equal-error":
        return "It stands as many standard deviations from one heap as from the other."
    return "Its tails are the thinnest of those that misread as few."
