"""What a chain said for a board told, step by step."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tickstone.core.emit.routine import Routine
from tickstone.core.emit.running import Runner
from tickstone.core.emit.whole.routine import NONE, WholeRoutine
from tickstone.core.status import Status

WITHIN = 1e-6
"""Of single precision's due: what the same steps give, each rounded to single precision."""


@dataclass(frozen=True, slots=True)
class Row:
    """One sample of all inputs, by name, statuses too where they go in; NaN where there is none."""

    now_us: int
    given: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Stepped:
    """values, statuses: of every lane told, one after the other, for each row. cycles: of the
    processor for each row; flash_bytes, ram_bytes: of it alone, with what it calls; where those
    were measured.
    """

    values: tuple[tuple[float, ...], ...]
    statuses: tuple[tuple[int, ...], ...]
    cycles: tuple[int, ...] = ()
    flash_bytes: int = 0
    ram_bytes: int = 0


def single_of(value: float) -> float:
    """The nearest number of single precision: what a board can be given."""
    return float(np.float32(value))


def stepped_here(routine: Routine, rows: Sequence[Row], is_single: bool) -> Stepped:
    """The same steps here, in double precision, or each rounded to single."""
    runner = Runner(routine, is_single)
    values, statuses = [], []
    for row in rows:
        told = runner.step(row.now_us, row.given)
        values.append(tuple(v for one in routine.told for v in told[one.name][0]))
        statuses.append(tuple(s for one in routine.told for s in told[one.name][1]))
    return Stepped(tuple(values), tuple(statuses))


def beyond_bounds(
    whole: WholeRoutine, routine: Routine, told: Stepped, rows: Sequence[Row]
) -> list[str]:
    """Where whole numbers lie further from the routine in floating point than they are said to, a
    sentence each.
    """
    names = [name for entry in routine.entries for name in entry.names]
    given = [
        Row(row.now_us, {name: _real(row.given[f"{name}_given"]) for name in names}) for row in rows
    ]
    due = stepped_here(routine, given, is_single=False)
    kept = [name for one in routine.told for name in one.values]
    found = []
    for number, (got, want) in enumerate(zip(told.values, due.values, strict=True)):
        said = told.statuses[number]
        for place, name in enumerate(kept):
            scale = whole.told[name]
            if said[place] != Status.OK or due.statuses[number][place] != Status.OK:
                continue
            apart = abs(got[place] * 2.0**-scale.shift - want[place])
            if apart > scale.off * (1.0 + 1e-6):
                found.append(f"row {number + 1}: {apart:.3g} off; at most {scale.off:.3g} is said")
    return found


def _real(given: float) -> float:
    return math.nan if given == NONE else float(given)


def differences(told: Stepped, due: Stepped, within: float = WITHIN) -> list[str]:
    """Where the one told otherwise than it was due, a sentence each.

    Values count by the largest that was due in their column: near nothing a share says nothing.
    """
    found = []
    largest = [
        max((abs(row[n]) for row in due.values if math.isfinite(row[n])), default=0.0)
        for n in range(len(due.values[0]) if due.values else 0)
    ]
    for number, (got, want) in enumerate(zip(told.values, due.values, strict=True)):
        for place, (one, other) in enumerate(zip(got, want, strict=True)):
            is_same = one == other or (one != one and other != other)
            if not is_same and not abs(one - other) <= within * largest[place]:
                found.append(f"row {number + 1}, value {place + 1}: {one!r}, not {other!r}")
        if told.statuses[number] != due.statuses[number]:
            found.append(
                f"row {number + 1}: statuses {told.statuses[number]}, not {due.statuses[number]}"
            )
    return found
