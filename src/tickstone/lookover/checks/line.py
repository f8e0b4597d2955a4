"""The serial line."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import ReadProgram


def other_baud(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Another speed than the rig's line was heard at."""
    for node, arguments in program.calls("begin"):
        if not program.of(node).startswith("Serial.") or not arguments:
            continue
        baud = program.number(arguments[0])
        if baud is not None and facts.baud and baud != facts.baud:
            yield ProgramFinding(
                "other-baud",
                program.line(node),
                program.code(node),
                f"It talks at {baud:.0f} baud; the rig’s line was heard at {facts.baud}.",
                "Whoever listens at the old speed hears noise.",
                f"Serial.begin({facts.baud}), or listen at {baud:.0f}.",
            )
