"""Pins, held against the wiring."""

from __future__ import annotations

from collections.abc import Iterator

from tree_sitter import Node

from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import ReadProgram

_BY_CALL = {
    "pinMode": 0, "digitalRead": 0, "digitalWrite": 0, "analogRead": 0, "analogWrite": 0,
    "pulseIn": 0, "pulseInLong": 0, "digitalPinToInterrupt": 0, "Pin": 0,
}  # fmt: skip


def other_pins(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """A pin on which the wiring has nothing."""
    wired = {number for number, _ in facts.pins}
    said: set[str] = set()
    for node, arguments in program.calls(*_BY_CALL):
        if not arguments:
            continue
        pin = _pin(program, arguments[0])
        if pin is None or pin in wired or pin in said:
            continue
        said.add(pin)
        known = ", ".join(f"{number} ({what})" for number, what in facts.pins[:8])
        yield ProgramFinding(
            "other-pin",
            program.line(node),
            program.code(node),
            f"Pin {pin} has nothing on it in this rig’s wiring.",
            "Either the program or the wiring is not what you think.",
            f"The wiring has {known}.",
        )


def _pin(program: ReadProgram, node: Node) -> str | None:
    text = program.of(node).strip()
    number = program.number(node)
    if number is not None and number == int(number):
        return str(int(number))
    return text if len(text) in (2, 3) and text[0] == "A" and text[1:].isdigit() else None
