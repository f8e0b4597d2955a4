"""What studies of a row of reflective sensors share: black and white at each level, lamps on and
off.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.calibration.black_white import BlackWhiteKind
from tickstone.core.calibration.black_white_heaps import WAVE
from tickstone.core.calibration.kind import Span
from tickstone.core.finding import Finding, worst_first
from tickstone.core.heaps.heap import d_prime
from tickstone.core.heaps.parting import ONE_HEAP
from tickstone.core.inputs import check_inputs, switch
from tickstone.core.signal import Signal
from tickstone.core.studies.holding import FEWEST, FULL_SCALE, held
from tickstone.core.studies.kind import Cell, Outcome, Row, StudyKind, Taken
from tickstone.core.thresholds import METHODS
from tickstone.core.thresholds.choosing import choose
from tickstone.core.thresholds.method import Wanted

NEARLY = 0.8
"""A level that parts black and white by this share of the best is nearly as good."""
MOST_ROOM = 0.25
_LIT_ROOM = 0.9
"""A room that gives this much of the light is more likely a lamp that was not put out."""
_MOST_D_PRIME = 1e6


@dataclass(frozen=True, slots=True)
class LightPlan:
    """Which levels, with lamps off too, the first again at the end. Raises ValueError."""

    levels: tuple[float, ...] = ()
    has_dark: bool = switch("Lamps off too", True, "tells what the room’s light costs")
    is_repeated: bool = switch("First again at the end", True, "tells whether anything drifted")

    def __post_init__(self) -> None:
        check_inputs(self)
        if len(self.levels) < 2 or len(set(self.levels)) != len(self.levels):
            raise ValueError("levels: two at least, each once")


class LightStudy(StudyKind):
    """Waves at several levels."""

    noun: ClassVar[str]
    """What a level is called, such as “height”."""
    step: ClassVar[float]
    """What one step of it is, SI."""

    def cells(self, plan: Any) -> Sequence[Cell]:
        """Each level with lamps, then without where that is wanted; the first again at the end."""
        found = []
        for place, level in enumerate((*plan.levels, *plan.levels[:1][: int(plan.is_repeated)])):
            again = place == len(plan.levels)
            key = f"{level:g}{' again' if again else ''}"
            said = f"{self.varies.typed(level)}{', again' if again else ''}"
            setting = f"Set the {self.noun} to {self.varies.typed(level)}"
            found.append(
                Cell(
                    f"{key} on", level, True,
                    f"{setting}, lamps on; slide the row across the line and back.",
                    f"{said}, lamps on",
                )
            )  # fmt: skip
            if plan.has_dark and not again:
                found.append(
                    Cell(
                        f"{key} off", level, False,
                        f"Leave it at {self.varies.typed(level)}, lamps off; hold it over the "
                        "light floor.",
                        f"{said}, lamps off",
                    )
                )  # fmt: skip
        return found

    def take(self, cell: Cell, signal: Signal, parameters: Any) -> Taken:
        """Both heaps of a wave, or what the room alone gives while held still."""
        if len(signal) < FEWEST:
            raise ValueError(f"{len(signal)} samples are too few; {FEWEST} at least")
        if cell.is_lit:
            heaps = BlackWhiteKind().heaps([Span(WAVE, signal)], parameters)
            # Heaps that merge are a result; a sensor that saw one surface is none.
            missing = [one for one in heaps if one.why_not not in ("", ONE_HEAP)]
            if missing:
                raise ValueError(
                    f"sensor {missing[0].lane}: {missing[0].why_not}. Slide far enough that every "
                    "sensor sees both"
                )
            return Taken(cell.key, heaps, len(signal))
        return held(cell.key, signal, parameters)

    def outcome(self, plan: Any, taken: Mapping[str, Taken]) -> Outcome:
        """The level that parts black and white best, its flat part, and what a step costs."""
        rows = [
            _row(level, taken[f"{level:g} on"], taken.get(f"{level:g} off"))
            for level in sorted(plan.levels)
            if f"{level:g} on" in taken
        ]
        findings = [*_drifted(plan, taken), *_room(rows, self)]
        if not rows:
            return Outcome((), None, None, "Nothing is taken yet.", "", tuple(findings))
        best = max(rows, key=lambda row: row.d_prime)
        flat = _flat(rows, best)
        missing = len(plan.levels) - len(rows)
        so_far = " so far" if missing else ""
        typed = self.varies.typed
        if best.misread > 0.02:
            says = (
                f"None of them will do: even at {typed(best.level)} one look in "
                f"{1.0 / best.misread:.0f} is misread."
            )
        else:
            says = (
                f"Best{so_far} at {typed(best.level)}: the nearest heaps stand "
                f"{best.d_prime:.0f} of their scatter apart."
            )
            if flat[0] < flat[1]:
                says += f" From {typed(flat[0])} to {typed(flat[1])} is nearly as good."
        if missing:
            be = "is" if missing == 1 else "are"
            says += f" {missing} of {len(plan.levels)} levels {be} not taken yet."
        ends = (rows[0].level, rows[-1].level)
        if len(rows) > 1 and best.level in ends:
            side = "below" if best.level == rows[0].level else "above"
            findings.append(
                Finding(
                    "note",
                    f"The best is at the end of what was tried, {typed(best.level)}.",
                    f"It may be better still {side}.",
                    "Try one level further.",
                )
            )
        return Outcome(
            tuple(rows), best.level, flat, says, self._cost(rows, best), worst_first(findings)
        )

    def _cost(self, rows: Sequence[Row], best: Row) -> str:
        """What one step off the best costs, by the nearer neighbour on either side."""
        place = rows.index(best)
        costs = []
        for other in (place - 1, place + 1):
            if 0 <= other < len(rows):
                off = abs(rows[other].level - best.level) / self.step
                costs.append((best.d_prime - rows[other].d_prime) / off / best.d_prime)
        if not costs:
            return ""
        return (
            f"{self.varies.typed(self.step)} off costs up to "
            f"{100.0 * max(0.0, *costs, 0.0):.0f} % of that distance."
        )


def _row(level: float, lit: Taken, dark: Taken | None) -> Row:
    apart = [
        0.0 if one.why_not else min(_MOST_D_PRIME, d_prime(one.dark, one.light))
        for one in lit.heaps
    ]
    misread = 0.5 if any(one.why_not for one in lit.heaps) else 0.0
    for one in lit.heaps:
        if one.why_not:
            continue
        chosen = choose(one.dark, one.light, METHODS, Wanted())
        misread = max(misread, chosen.taken.misread.gaussian)
    return Row(level, min(apart), misread, _room_share(lit, dark), tuple(apart))


def _room_share(lit: Taken, dark: Taken | None) -> float | None:
    """How much of the light over the floor is the room’s, by the worst lane: what is read without
    lamps, counted from where no light at all would read, beside what is read with them.
    """
    if dark is None or len(dark.heaps) != len(lit.heaps) or FULL_SCALE not in dark.facts:
        return None
    worst = 0.0
    for one, room, end in zip(lit.heaps, dark.heaps, dark.facts[FULL_SCALE], strict=True):
        if one.why_not:
            return None
        dark_is_high = one.dark.mean > one.light.mean
        # No light at all reads at the rail beyond black.
        rail = end if dark_is_high else 0.0
        with_lamps, without = abs(rail - one.light.mean), abs(rail - room.light.mean)
        if with_lamps > 0.0:
            worst = max(worst, min(1.0, without / with_lamps))
    return worst


def _flat(rows: Sequence[Row], best: Row) -> tuple[float, float]:
    """The levels next to the best that do nearly as well."""
    place = rows.index(best)
    first = last = place
    while first > 0 and rows[first - 1].d_prime >= NEARLY * best.d_prime:
        first -= 1
    while last < len(rows) - 1 and rows[last + 1].d_prime >= NEARLY * best.d_prime:
        last += 1
    return rows[first].level, rows[last].level


def _drifted(plan: Any, taken: Mapping[str, Taken]) -> list[Finding]:
    """Whether the first level reads the same at the end."""
    if not plan.levels:
        return []
    first, again = (taken.get(f"{plan.levels[0]:g}{word} on") for word in ("", " again"))
    if first is None or again is None:
        return []
    worst, lane = 0.0, ""
    for one, other in zip(first.heaps, again.heaps, strict=False):
        if one.why_not or other.why_not:
            continue
        width = abs(one.light.mean - one.dark.mean)
        for a, b in ((one.dark, other.dark), (one.light, other.light)):
            moved = abs(a.mean - b.mean) / width if width > 0.0 else math.inf
            if moved > worst:
                worst, lane = moved, one.lane
    if worst < 0.05:
        return [
            Finding(
                "note", "Nothing drifted meanwhile.", "The first level read the same again.", ""
            )
        ]
    return [
        Finding(
            "warning",
            f"Sensor {lane} drifted by {100.0 * worst:.0f} % while the study was taken.",
            "The first level read otherwise at the end: supply, lamp or the room’s light changed.",
            "Let it warm up, keep the light, and take the study again.",
        )
    ]


def _room(rows: Sequence[Row], kind: LightStudy) -> list[Finding]:
    shares = [row for row in rows if row.room_share is not None]
    if not shares:
        return []
    worst = max(shares, key=lambda row: row.room_share or 0.0)
    share = worst.room_share or 0.0
    typed = kind.varies.typed(worst.level)
    if share > _LIT_ROOM:
        return [
            Finding(
                "warning", f"With lamps off it reads as with lamps on, at {typed}.",
                f"The room would give {100.0 * share:.0f} % of the light.",
                "See that the lamps were off, and take that cell anew; else shade the row.",
            )
        ]  # fmt: skip
    if share <= MOST_ROOM:
        return [
            Finding(
                "note", f"The room gives {100.0 * share:.0f} % of the light at most, at {typed}.",
                "With lamps off that much was left.", "",
            )
        ]  # fmt: skip
    return [
        Finding(
            "warning",
            f"The room gives {100.0 * share:.0f} % of the light at {typed}.",
            "Whoever walks by, and every cloud, then moves both heaps.",
            "Shade the row, go lower, or give the lamps more current.",
        )
    ]
