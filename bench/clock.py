"""Timing in one place: the same work several times, the best of it, as a ratio to a floor."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Ratio:
    """How many times longer than the floor a piece of work takes, in the same run."""

    name: str
    floor_name: str
    work_s: float
    floor_s: float
    budget: float

    def __str__(self) -> str:
        ratio = self.work_s / self.floor_s
        verdict = "within" if ratio <= self.budget else "OVER"
        return (
            f"{self.name:<52} {ratio:5.2f} × {self.floor_name} "
            f"({self.work_s * 1000:.0f} ms / {self.floor_s * 1000:.0f} ms); "
            f"budget {self.budget:g} ×: {verdict}"
        )


def compare(
    name: str,
    work: Callable[[], object],
    floor_name: str,
    floor: Callable[[], object],
    budget: float,
    rounds: int = 7,
) -> Ratio:
    """Run floor and work in turn, so that a slow spell of the machine meets both; medians count."""
    floors, works = [], []
    floor()
    work()
    for _ in range(rounds):
        floors.append(_seconds(floor))
        works.append(_seconds(work))
    return Ratio(name, floor_name, sorted(works)[rounds // 2], sorted(floors)[rounds // 2], budget)


def _seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began
