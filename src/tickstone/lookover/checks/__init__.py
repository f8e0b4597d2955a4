"""What is looked for in a program: one file for each subject, every check registered here."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tickstone.lookover.checks import echo, interrupts, line, times, whole_numbers, wiring
from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import Lang, ReadProgram

MOST_FINDINGS = 200
Check = Callable[[ReadProgram, RigFacts], Iterator[ProgramFinding]]


@dataclass(frozen=True, slots=True)
class LookedFor:
    """A check with what it looks for, a few words. needs: what of the rig it cannot do without."""

    check: Check
    what: str
    languages: tuple[Lang, ...] = ("cpp", "python")
    needs: str = ""


CHECKS = (
    LookedFor(echo.missing_half, "an echo’s way out and back taken for the way there"),
    LookedFor(echo.zero_as_distance, "zeros of a ranger that missed, taken for distances"),
    LookedFor(echo.other_threshold, "thresholds other than the record’s", needs="thresholds"),
    LookedFor(whole_numbers.whole_division, "division in whole numbers", ("cpp",)),
    LookedFor(whole_numbers.whole_map, "mapping in whole numbers", ("cpp",)),
    LookedFor(times.endless_wait, "waits that may never end"),
    LookedFor(times.long_delay, "delays in which the rig drives blind"),
    LookedFor(
        times.short_clock, "times kept in 16 bits, or added up before they are compared", ("cpp",)
    ),
    LookedFor(interrupts.not_volatile, "values of an interrupt that are not volatile", ("cpp",)),
    LookedFor(
        interrupts.torn_read, "values of an interrupt read while it may change them", ("cpp",)
    ),
    LookedFor(interrupts.both_edges, "both edges of a pulse counted"),
    LookedFor(line.other_baud, "a serial speed other than the line’s", ("cpp",), needs="baud"),
    LookedFor(wiring.other_pins, "pins other than the wiring’s", needs="pins"),
)


@dataclass(frozen=True, slots=True)
class LookOver:
    """findings: in the order of their lines, the first MOST_FINDINGS; more: how many follow.
    looked_for: what was looked for. not_looked_for: what was not, and why: no finding is a claim
    only about the first.
    """

    findings: tuple[ProgramFinding, ...]
    more: int
    looked_for: tuple[str, ...]
    not_looked_for: tuple[str, ...]


def look_over(program: ReadProgram, facts: RigFacts) -> LookOver:
    """All checks that this program and what is known of its rig allow."""
    found: list[ProgramFinding] = []
    done, undone = [], []
    for one in CHECKS:
        if program.language not in one.languages:
            undone.append(f"{one.what}: not in this language")
        elif one.needs and not getattr(facts, one.needs):
            undone.append(f"{one.what}: the rig’s {one.needs} is not known")
        else:
            done.append(one.what)
            found += one.check(program, facts)
    unlike = {(one.id, one.line): one for one in found}
    ordered = sorted(unlike.values(), key=lambda one: (one.line, one.id))
    return LookOver(
        tuple(ordered[:MOST_FINDINGS]),
        max(0, len(ordered) - MOST_FINDINGS),
        tuple(done),
        tuple(undone),
    )
