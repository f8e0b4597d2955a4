"""What an interrupt and the rest of a program share."""

from __future__ import annotations

import re
from collections.abc import Iterator

from tree_sitter import Node

from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import ReadProgram

_ONE_BYTE = ("bool", "boolean", "byte", "char", "uint8_t", "int8_t", "unsigned char")
_GUARDS = ("noInterrupts", "cli", "ATOMIC_BLOCK", "portENTER_CRITICAL")


def _handlers(program: ReadProgram) -> list[Node]:
    """Functions that run in an interrupt."""
    named = {
        program.of(arguments[1]).lstrip("&")
        for _, arguments in program.calls("attachInterrupt")
        if len(arguments) >= 2
    }
    return [
        node
        for name, node in program.functions()
        if name in named or name == "ISR" or program.of(node).lstrip().startswith("ISR(")
    ]


def _shared(program: ReadProgram) -> dict[str, Node]:
    """Names of the whole program that an interrupt changes, with their declarations."""
    changed: set[str] = set()
    for handler in _handlers(program):
        for node in program.every("update_expression", "assignment_expression", within=handler):
            target = node.child_by_field_name("argument") or node.child_by_field_name("left")
            if target is not None:
                changed.add(re.split(r"[\[.]", program.of(target))[0])
    found: dict[str, Node] = {}
    for node in program.root.children:
        if node.type == "declaration":
            for name in program.every("identifier", within=node):
                if program.of(name) in changed:
                    found.setdefault(program.of(name), node)
    return found


def not_volatile(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Changed in an interrupt, and the compiler is not told."""
    for name, node in _shared(program).items():
        if "volatile" not in program.of(node):
            yield ProgramFinding(
                "not-volatile",
                program.line(node),
                program.code(node),
                f"An interrupt changes “{name}”, and it is not volatile.",
                "The compiler may keep an old copy of it: the count seems to stand still.",
                f"volatile {program.of(node)}",
            )


def torn_read(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Longer than a byte, and read while the interrupt may change it."""
    handlers = _handlers(program)
    for name, declared in _shared(program).items():
        kind = program.of(declared.child_by_field_name("type") or declared)
        if kind.replace("volatile", "").strip() in _ONE_BYTE:
            continue
        for where, node in program.functions():
            if node in handlers or where == "setup" or name not in program.names_in(node):
                continue
            text = program.of(node)
            if any(guard in text for guard in _GUARDS):
                continue
            use = next(
                one for one in program.every("identifier", within=node) if program.of(one) == name
            )
            yield ProgramFinding(
                "torn-read",
                program.line(use),
                program.code(use),
                f"“{name}” has more than one byte, and the interrupt may come between two of them.",
                "Now and then it reads a number that never was: 255 becomes 511.",
                f"noInterrupts(); auto copy = {name}; interrupts(); and go on with the copy.",
            )
            break


def both_edges(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """An interrupt on any change counts a pulse twice."""
    for node, arguments in program.calls("attachInterrupt"):
        if len(arguments) == 3 and program.of(arguments[2]).strip() == "CHANGE":
            yield _both(program, node, "FALLING")
    for node, _ in program.calls("irq", "add_event_detect"):
        text = program.of(node)
        if ("IRQ_RISING" in text and "IRQ_FALLING" in text) or "BOTH" in text:
            yield _both(program, node, "one of them")


def _both(program: ReadProgram, node: Node, instead: str) -> ProgramFinding:
    return ProgramFinding(
        "both-edges",
        program.line(node),
        program.code(node),
        "This interrupt comes at both edges of a pulse.",
        "What counts pulses counts each twice, and the speed reads double; only for two channels "
        "in quadrature, or to time how long something was held, is it right.",
        f"Take {instead}, or say that both are counted.",
    )
