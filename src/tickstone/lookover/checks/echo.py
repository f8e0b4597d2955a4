"""What goes wrong between an echo and a distance."""

from __future__ import annotations

from collections.abc import Iterator

from tree_sitter import Node

from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import ReadProgram, number_in

ECHO_CALLS = ("pulseIn", "pulseInLong", "time_pulse_us")
_NUMBERS = ("number_literal", "integer", "float")
_HALVES = (2.0, 0.5)
_BINARY = ("binary_expression", "binary_operator")
_SPEEDS = ((0.0331, 0.0355), (0.331, 0.355), (331.0, 355.0), (33_100.0, 35_500.0),
           (3.31e-4, 3.55e-4))  # fmt: skip
"""The speed of sound between 0 and 40 °C in cm/µs, mm/µs, m/s, cm/s and m/µs."""
_HALF_SLOWNESS = (28.0, 30.2)
"""µs for a centimetre, one way: divided by it and by two, or by 58."""


def echo_names(program: ReadProgram) -> dict[str, Node]:
    """Names that hold an echo time, or what was worked out from one."""
    found: dict[str, Node] = {}
    used: dict[str, list[tuple[str, Node]]] = {}
    waiting: list[tuple[str, Node]] = []
    for name, value, node in program.assigned():
        if any(True for _ in program.calls(*ECHO_CALLS, within=value)):
            waiting.append((name, node))
        for one in program.names_in(value):
            used.setdefault(one, []).append((name, node))
    while waiting:
        name, node = waiting.pop()
        if name not in found:
            found[name] = node
            waiting += used.get(name, [])
    return found


def missing_half(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Times the speed of sound, without a half anywhere in the statement."""
    if not any(True for _ in program.calls(*ECHO_CALLS)):
        return
    halved = _halved_names(program)
    for node in program.every(*_BINARY):
        sign = node.child_by_field_name("operator")
        sides = [node.child_by_field_name("left"), node.child_by_field_name("right")]
        numbers = [program.number(one) for one in sides if one is not None]
        if sign is None:
            continue
        is_speed = program.of(sign) == "*" and any(
            n is not None and any(low <= n <= high for low, high in _SPEEDS) for n in numbers
        )
        is_slowness = program.of(sign) == "/" and any(
            n is not None and _HALF_SLOWNESS[0] <= n <= _HALF_SLOWNESS[1] for n in numbers[1:]
        )
        if (is_speed or is_slowness) and not _is_halved(program, node, halved):
            yield ProgramFinding(
                "missing-half",
                program.line(node),
                program.code(node),
                "The echo’s time is taken whole, but the sound went there and back.",
                "Every distance reads twice what it is.",
                f"Divide by two: ({program.of(node)}) / 2.0",
            )


def _is_halved(program: ReadProgram, node: Node, halved: set[str]) -> bool:
    """In its own statement, or in another that its names or its result go through."""
    statement = program.statement_around(node)
    if _has_half(program, statement) or program.names_in(node) & halved:
        return True
    return any(name in halved for name, value, _ in program.assigned() if _is_within(node, value))


def _halved_names(program: ReadProgram) -> set[str]:
    """Names that are given a half, or are halved where another name is given its value."""
    found: set[str] = set()
    for name, value, _ in program.assigned():
        if _has_half(program, value):
            found |= {name} | program.names_in(value)
    return found


def _has_half(program: ReadProgram, node: Node) -> bool:
    return any(
        program.number(one) in _HALVES
        for one in program.every(*_NUMBERS, "identifier", within=node)
    )


def _is_within(node: Node, whole: Node) -> bool:
    return bool(whole.start_byte <= node.start_byte and node.end_byte <= whole.end_byte)


def zero_as_distance(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Compared with a threshold, and never with zero."""
    names = echo_names(program)
    checked: set[str] = set()
    compared: list[tuple[str, Node]] = []
    for node in program.every(*_BINARY, "comparison_operator"):
        text = program.of(node)
        here = program.names_in(node) & names.keys()
        zero = any(
            number_in(program.of(one)) in (0.0, 1.0)
            for one in program.every(*_NUMBERS, within=node)
        )
        if zero and any(sign in text for sign in ("<", ">", "==", "!=")):
            checked |= here
        elif "<" in text and "<<" not in text:
            compared += [(name, node) for name in sorted(here)]
    if checked:
        return
    for name, node in compared[:1]:
        yield ProgramFinding(
            "zero-as-distance",
            program.line(node),
            program.code(node),
            f"“{name}” is 0 when no echo came in time, and that is below any threshold.",
            "A ranger that missed its echo stops the rig, or turns it, for nothing.",
            f"Ask first: if ({name} > 0 && …); without an echo keep what was decided.",
        )


def other_threshold(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """A distance compared with a number that is none of the record's."""
    names = echo_names(program)
    known = [one.value_m for one in facts.thresholds]
    for node in program.every(*_BINARY, "comparison_operator"):
        text = program.of(node)
        if not ({"<", ">"} & {*text}) or not program.names_in(node) & names.keys():
            continue
        for one in program.every(*_NUMBERS, "identifier", within=node):
            value = program.number(one)
            if value is None or value <= 2.0:
                continue
            # Centimetres, millimetres or metres: whichever comes near is taken to be meant.
            if any(abs(value * scale - m) < 0.005 for scale in (0.01, 0.001, 1.0) for m in known):
                continue
            said = ", ".join(f"{t.whose}: {100.0 * t.value_m:.0f} cm" for t in facts.thresholds)
            yield ProgramFinding(
                "other-threshold",
                program.line(node),
                program.code(node),
                f"{program.of(one)} is none of the thresholds in use.",
                f"The record has {said}; what was tuned there is not what runs.",
                "Take the constants of the record, or tune it again with this one.",
            )
