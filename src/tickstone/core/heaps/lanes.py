"""The heaps of one lane: dark, light, and whatever else it was shown."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from tickstone.core.heaps.heap import Heap


@dataclass(frozen=True, slots=True)
class LaneHeaps:
    """What one lane read of each surface.

    others: of surfaces that are neither the darkest nor the lightest, with their names. between:
    how many samples stood on no heap. clipped: how many stood at an end of the converter. drift: of
    the dark and of the light heap while they were taken, in their standard deviations.
    why_not: why dark and light are not known; empty when they are.
    """

    lane: str
    dark: Heap
    light: Heap
    others: tuple[Heap, ...] = field(default=())
    between: int = 0
    clipped: int = 0
    drift: tuple[float, float] = (0.0, 0.0)
    why_not: str = ""

    @property
    def heaps(self) -> tuple[Heap, ...]:
        """All that hold anything."""
        return tuple(one for one in (self.dark, self.light, *self.others) if one.n)

    def against(self, line_is_dark: bool) -> tuple[Heap, Heap]:
        """Dark and light for a threshold that parts the line from everything else: the other
        surfaces go with whichever the line is not.
        """
        if not self.others:
            return self.dark, self.light
        if line_is_dark:
            return self.dark, Heap.together(self.light.name, [self.light, *self.others])
        return Heap.together(self.dark.name, [self.dark, *self.others]), self.light

    def as_json(self) -> dict[str, Any]:
        """As it is kept."""
        return {
            "lane": self.lane,
            "dark": _heap_as_json(self.dark),
            "light": _heap_as_json(self.light),
            "others": [_heap_as_json(one) for one in self.others],
            "between": self.between,
            "clipped": self.clipped,
            "drift": list(self.drift),
            "why_not": self.why_not,
        }

    @classmethod
    def from_json(cls, kept: Mapping[str, Any]) -> LaneHeaps:
        """As it was kept. Raises ValueError when it cannot be."""
        try:
            return cls._from(kept)
        except (KeyError, TypeError, IndexError) as error:
            raise ValueError(f"heaps: something is missing, or is no number: {error}") from error

    @classmethod
    def _from(cls, kept: Mapping[str, Any]) -> LaneHeaps:
        return cls(
            str(kept["lane"]),
            _heap_from(kept["dark"]),
            _heap_from(kept["light"]),
            tuple(_heap_from(one) for one in kept["others"]),
            int(kept["between"]),
            int(kept["clipped"]),
            (float(kept["drift"][0]), float(kept["drift"][1])),
            str(kept.get("why_not", "")),
        )


def _heap_as_json(heap: Heap) -> dict[str, Any]:
    return {"name": heap.name, "values": list(heap.values), "counts": list(heap.counts)}


def _heap_from(kept: Mapping[str, Any]) -> Heap:
    return Heap(
        str(kept["name"]),
        tuple(float(one) for one in kept["values"]),
        tuple(int(one) for one in kept["counts"]),
    )
