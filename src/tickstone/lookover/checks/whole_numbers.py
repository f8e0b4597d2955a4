"""What whole numbers cut off."""

from __future__ import annotations

from collections.abc import Iterator

from tree_sitter import Node

from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import ReadProgram

_REAL = ("float", "double")


def _kinds(program: ReadProgram) -> dict[str, str]:
    """Declared names with the words of their type."""
    found: dict[str, str] = {}
    for node in program.every("declaration", "parameter_declaration", "field_declaration"):
        kind = node.child_by_field_name("type")
        if kind is None:
            continue
        for name in program.every("identifier", within=node):
            found.setdefault(program.of(name), program.of(kind))
    return found


def _is_real(program: ReadProgram, node: Node, kinds: dict[str, str]) -> bool:
    for one in program.every("number_literal", within=node):
        text = program.of(one).lower()
        if "." in text or ("e" in text and not text.startswith("0x")) or text.endswith("f"):
            return True
    names = program.names_in(node)
    if any(kinds.get(name) in _REAL for name in names):
        return True
    return any(
        program.of(one).startswith(("(float", "(double", "float(", "double("))
        for one in program.every("cast_expression", "call_expression", within=node)
    ) or any(
        isinstance(program.constants.get(name), float)
        and program.constants[name] != int(program.constants[name])
        for name in names
    )


def whole_division(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Whole by whole, into something that is to be real, or below one."""
    kinds = _kinds(program)
    for node in program.every("binary_expression"):
        sign = node.child_by_field_name("operator")
        left, right = (node.child_by_field_name(one) for one in ("left", "right"))
        if sign is None or left is None or right is None or program.of(sign) != "/":
            continue
        if _is_real(program, left, kinds) or _is_real(program, right, kinds):
            continue
        top, below = program.number(left), program.number(right)
        vanishes = top is not None and below is not None and 0 < top < below
        if vanishes or _goes_into_real(program, node, kinds):
            yield ProgramFinding(
                "whole-division",
                program.line(node),
                program.code(node),
                f"“{program.of(node)}” divides whole numbers: what is behind the point is cut off.",
                "A volt becomes 0 to 5 in five steps, a 1.5 becomes a 1.",
                f"Make one of them real: {program.of(left)} / {program.of(right)}.0",
            )


def _goes_into_real(program: ReadProgram, node: Node, kinds: dict[str, str]) -> bool:
    while node.parent is not None:
        node = node.parent
        if node.type == "declaration":
            kind = node.child_by_field_name("type")
            return kind is not None and program.of(kind) in _REAL
        if node.type == "assignment_expression":
            left = node.child_by_field_name("left")
            return left is not None and kinds.get(program.of(left)) in _REAL
        if node.type == "binary_expression":
            if _is_real(program, node, kinds):
                return True
            continue
        if node.type.endswith("statement"):
            return False
    return False


def whole_map(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """The dialect's map() knows whole numbers only."""
    kinds = _kinds(program)
    for node, arguments in program.calls("map"):
        if len(arguments) != 5:
            continue
        span = [program.number(one) for one in arguments[1:]]
        coarse = None not in span and abs((span[3] or 0) - (span[2] or 0)) < abs(
            (span[1] or 0) - (span[0] or 0)
        )
        real = any(_is_real(program, one, kinds) for one in arguments)
        if real or _goes_into_real(program, node, kinds) or coarse:
            yield ProgramFinding(
                "whole-map",
                program.line(node),
                program.code(node),
                "map() works in whole numbers and cuts off, whatever it is given or put into.",
                "Steps as large as one of the result; a volt or a g mapped so is a staircase.",
                "Write it out with a real number: low + (x - from) * (high - low) / (to - from).",
            )
