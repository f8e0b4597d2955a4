"""How often a line can be printed, and at which speed, so that the line keeps up."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tickstone.core.display import prefixed
from tickstone.core.timing.loop_budget import BITS_PER_CHARACTER

SPEEDS = (9_600, 19_200, 38_400, 57_600, 115_200)
"""Above the last the dividers of a 16 MHz board miss the speed by more than a few per cent (from
memory)."""
LEAST_HZ, MOST_HZ = 0.1, 1_000.0
SHARE_OF_LINE = 0.7
"""Of the time between two lines that printing one may take, so that nothing piles up."""
PRINTING_S = 2e-5
"""Turning one character into text and putting it into the send buffer, 8 bits (from memory)."""
BUFFER = 63


@dataclass(frozen=True, slots=True)
class Pace:
    """period_us: from one line to the next. baud: of the line. busy_s: reading and printing of one.

    notes: what is not as it was wanted, and the next best.
    """

    period_us: int
    baud: int
    busy_s: float
    notes: tuple[str, ...]

    @property
    def rate_hz(self) -> float:
        """Lines a second."""
        return 1e6 / self.period_us


def pace_of(
    wanted_hz: float,
    wanted_baud: int,
    characters: int,
    reading_s: Sequence[tuple[str, float]],
    quiet_s: float,
    fastest_baud: int,
) -> Pace:
    """The pace for a program that reads, prints, and waits for the rest.

    characters: of a line at most. reading_s: what each device takes, by its name. quiet_s: the
    least between two lines for rangers. The speed wanted is kept where it does; else the next that
    does is taken, `fastest_baud` at most, and said.

    Raises ValueError when the rate wanted cannot be.

    >>> pace = pace_of(20.0, 9600, 40, [("Front", 0.026)], 0.06, 115_200)
    >>> pace.period_us, pace.baud
    (60000, 9600)
    """
    if not LEAST_HZ <= wanted_hz <= MOST_HZ:
        raise ValueError(f"rate_hz: {wanted_hz:g} is outside {LEAST_HZ:g} to {MOST_HZ:g}")
    read_s = math.fsum(seconds for _, seconds in reading_s)
    faster = (one for one in SPEEDS if wanted_baud < one <= fastest_baud)
    speeds = sorted({wanted_baud, *faster})
    notes: list[str] = []
    found = None
    for baud in speeds:
        line_s = characters * BITS_PER_CHARACTER / baud
        # What the send buffer does not take is waited for.
        held_s = max(0, characters - BUFFER) * BITS_PER_CHARACTER / baud
        busy_s = read_s + characters * PRINTING_S + held_s
        least_s = max(1.0 / wanted_hz, 1.05 * busy_s, quiet_s, line_s / SHARE_OF_LINE)
        if found is None or least_s < 0.98 * found[0]:
            found = (least_s, baud, busy_s)
    assert found is not None
    period_s, baud, busy_s = found
    period_us = math.ceil(period_s * 1e3 - 1e-9) * 1_000 if period_s > 0.002 else 2_000
    if baud != wanted_baud:
        notes.append(
            f"At {wanted_baud} baud a line of {characters} characters would hold the program up; "
            f"it prints at {baud} baud."
        )
    if period_us > 1.001e6 / wanted_hz:
        notes.append(_slower(wanted_hz, period_us, reading_s, quiet_s, read_s))
    return Pace(period_us, baud, busy_s, tuple(notes))


def _slower(
    wanted_hz: float,
    period_us: int,
    reading_s: Sequence[tuple[str, float]],
    quiet_s: float,
    read_s: float,
) -> str:
    got = f"{wanted_hz:g} lines a second were wanted; it will be {1e6 / period_us:.3g}"
    if quiet_s >= 0.99 * period_us / 1e6:
        return f"{got}: rangers have to be quiet for {prefixed(quiet_s, 's')} between two pings."
    most = sorted(reading_s, key=lambda one: -one[1])[:2]
    said = " and ".join(f"{name} {prefixed(seconds, 's')}" for name, seconds in most)
    if read_s > 0.5 * period_us / 1e6:
        return f"{got}: of each line at most {said} go into waiting for answers."
    return f"{got}: the line carries no more."
