"""Mistakes that everybody makes once, each beside the same loop without it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Demonstrator:
    """plant: of the bench. settings: what to set, and once more with the mistake in it."""

    name: str
    label: str
    what: str
    plant: str
    right: Mapping[str, Any]
    wrong: Mapping[str, Any]


_BASE = {"kp": 1.5, "ki": 1.2, "kd": 0.0, "target": 20.0, "high": 100.0, "low": -100.0}
DEMONSTRATORS = (
    Demonstrator(
        "whole-numbers", "1.5 is 1",
        "Gains kept in whole numbers: P of 1.5 becomes 1, and I of 0.8 becomes none at all.",
        "fitted", {**_BASE, "ki": 0.8}, {**_BASE, "ki": 0.8, "whole_numbers": True},
    ),
    Demonstrator(
        "wind-up", "Wind-up",
        "The actuator stands at its end while I goes on adding up: it then overshoots until all "
        "that is paid back.",
        "fitted", {**_BASE, "high": 12.0, "low": -12.0},
        {**_BASE, "high": 12.0, "low": -12.0, "windup": "none"},
    ),
    Demonstrator(
        "garbage-in", "Zeros for readings",
        "Readings that are none come as 0 and are believed: the output jumps at each of them.",
        "fitted", {**_BASE, "kd": 0.2, "zeros": 4.0},
        {**_BASE, "kd": 0.2, "zeros": 4.0, "invalid": "count"},
    ),
)  # fmt: skip
