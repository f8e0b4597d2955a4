"""Which combinations a row saw: how often, how long, and which of them chatter."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from tickstone.core.digests.kind import DigestKind, Figure
from tickstone.core.line_codes import MOST_IN_TABLE, codes_of, combinations
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import MILLISECONDS
from tickstone.core.signal import Signal

_COUNT = Quantity("number", "", decimals=0)
_WHILE = Quantity("time", "s", decimals=2)
_SHORT = Quantity("time", "s", shown_as=MILLISECONDS, decimals=0)
CHATTER_SAMPLES = 2
"""A visit of no more samples than this, between two of the same combination, is chatter."""


class LineStates(DigestKind):
    """Of every combination that occurred: visits, time in all, the middle visit, and how many of
    its visits chatter; then how many of all never occurred.
    """

    name: ClassVar[str] = "line-states"
    label: ClassVar[str] = "What the row saw"
    takes: ClassVar[tuple[str, ...]] = ("state",)
    is_calibrated: ClassVar[bool] = True

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Four figures a combination. Rows of many sensors say only how many there were."""
        state = results["state"]
        inside = (state.time_s >= from_s) & (state.time_s <= to_s)
        count = len(state.values)
        codes = codes_of(
            state.values[:, inside], parameters.line_is == "dark", parameters.first_is == "right"
        )
        time_s = state.time_s[inside]
        different = len(np.unique(codes))
        never = Figure("never", "never seen", _COUNT, 2.0**count - different, math.nan, "of all")
        if len(codes) < 2 or count > MOST_IN_TABLE:
            return (never,)
        starts = np.concatenate(([0], np.flatnonzero(np.diff(codes)) + 1))
        lengths = np.diff(np.append(starts, len(codes)))
        ends_s = np.append(time_s[starts[1:]], time_s[-1])
        stays_s = ends_s - time_s[starts]
        visited = codes[starts]
        chatters = np.zeros(len(starts), dtype=bool)
        if len(starts) > 2:
            chatters[1:-1] = (lengths[1:-1] <= CHATTER_SAMPLES) & (visited[:-2] == visited[2:])
        found = []
        for one in combinations(count):
            here = visited == one.code
            if not here.any():
                continue
            chattered = float(chatters[here].sum())
            for name, label, quantity, value, how in (
                ("visits", "visits", _COUNT, float(here.sum()), one.name),
                ("time", "in all", _WHILE, float(stays_s[here].sum()), "time"),
                ("stay", "stays", _SHORT, float(np.median(stays_s[here])), "median"),
                ("chatter", "chatters", _COUNT, chattered, f"{CHATTER_SAMPLES} samples, and back"),
            ):
                said = f"{one.picture} {label}"
                found.append(Figure(f"{name}_{one.code}", said, quantity, value, math.nan, how))
        return (*found, never)
