"""A Hall switch and magnets on a wheel: edges, uneven gaps, bounce."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np


@dataclass(frozen=True, slots=True)
class HallModel:
    """Where the magnets sit and how clean an edge is.

    places: of the magnets, share of a turn, rising. width: share of a turn a magnet holds the
    output low. bounce: chance of one extra edge at a pass. miss: chance of none. far: which magnet
    is so far away that it is missed seven times of ten.
    """

    places: tuple[float, ...]
    width: float = 0.03
    bounce: float = 0.004
    bounce_us: float = 180.0
    miss: float = 0.0
    far: int | None = None

    def doubled(self) -> HallModel:
        """With a magnet more in the middle of every gap, as a second strip would be.

        >>> HallModel((0.0, 0.4)).doubled().places
        (0.0, 0.2, 0.4, 0.7)
        """
        nexts = (*self.places[1:], self.places[0] + 1.0)
        middles = [(one + other) / 2.0 for one, other in zip(self.places, nexts, strict=True)]
        return replace(self, places=tuple(sorted((*self.places, *middles))))

    def with_far_magnet(self) -> HallModel:
        """With the first magnet hardly near enough."""
        return replace(self, far=0)

    def edges(
        self, from_turns: float, to_turns: float, rng: np.random.Generator
    ) -> list[tuple[float, bool]]:
        """Edges between two angles of a wheel that only turns forward: (turns, falls).

        >>> [round(t, 2) for t, falls in HallModel((0.0, 0.3), bounce=0.0).edges(
        ...     0.9, 2.1, np.random.default_rng(1)) if falls]
        [1.0, 1.3, 2.0]
        """
        found: list[tuple[float, bool]] = []
        for turn in range(math.floor(from_turns), math.floor(to_turns) + 1):
            for number, place in enumerate(self.places):
                miss = 0.7 if number == self.far else self.miss
                fall, rise = turn + place, turn + place + self.width
                if from_turns < fall <= to_turns and rng.random() >= miss:
                    found.append((fall, True))
                    if rng.random() < self.bounce:
                        found.append((fall + 1e-4, False))
                        found.append((fall + 2e-4, True))
                if from_turns < rise <= to_turns:
                    found.append((rise, False))
        return sorted(found)


@dataclass(slots=True)
class PulseCounter:
    """What a board's interrupt makes of the edges: a count and the last gap in µs."""

    both_edges: bool = False
    count: int = 0
    gap_us: int = 0
    _last_us: float = field(default=-1.0)

    def take(self, time_us: float, falls: bool) -> None:
        """An edge at `time_us`."""
        if falls or self.both_edges:
            self.count += 1
            if self._last_us >= 0:
                self.gap_us = max(0, round(time_us - self._last_us))
            self._last_us = time_us
