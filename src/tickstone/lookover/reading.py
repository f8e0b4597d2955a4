"""A program as its parser sees it, with what most checks ask of it."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from heapq import merge
from typing import Literal

import tree_sitter_cpp
import tree_sitter_python
from tree_sitter import Language, Node, Parser

Lang = Literal["cpp", "python"]
LARGEST_BYTES = 512 * 1024
_LANGUAGES = {
    "cpp": Language(tree_sitter_cpp.language()),
    "python": Language(tree_sitter_python.language()),
}
_MOST_WRONG = 0.2
_DEEPEST = 400
_NUMBER = re.compile(r"^[-+]?(?:0[xX][0-9a-fA-F]+|\d*\.?\d+(?:[eE][-+]?\d+)?)[uUlLfF]*$")
_CALLS = {"cpp": "call_expression", "python": "call"}


class NotAProgramError(ValueError):
    """Why a text cannot be looked over."""


@dataclass(slots=True)
class ReadProgram:
    """text: as it came. root: its tree. constants: names that stand for a number all through."""

    text: str
    language: Lang
    root: Node
    constants: dict[str, float] = field(default_factory=dict)
    _lines: list[str] = field(default_factory=list)
    _nodes: dict[str, list[Node]] = field(default_factory=dict)
    _starts: dict[str, list[int]] = field(default_factory=dict)
    _values: list[tuple[str, Node, Node]] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._lines = self.text.split("\n")
        waiting = [(self.root, 0)]
        while waiting:
            node, depth = waiting.pop()
            if depth > _DEEPEST:
                raise NotAProgramError(
                    f"line {self.line(node)} is nested more than {_DEEPEST} deep: nobody wrote that"
                )
            self._nodes.setdefault(node.type, []).append(node)
            waiting.extend((one, depth + 1) for one in reversed(node.children))
        self._starts = {kind: [n.start_byte for n in nodes] for kind, nodes in self._nodes.items()}
        if not {_CALLS[self.language], "function_definition"} & self._nodes.keys():
            raise NotAProgramError("nothing in it calls anything: that is no program")
        self._values = list(self._assigned())
        self.constants = {**self._defined(), **self._never_changed()}

    def of(self, node: Node) -> str:
        """The text of a node."""
        return (node.text or b"").decode("utf-8", "replace")

    def line(self, node: Node) -> int:
        """The line it begins on, from 1."""
        return int(node.start_point[0]) + 1

    def code(self, node: Node) -> str:
        """The line it begins on, as it stands."""
        return self._lines[self.line(node) - 1].strip()[:200]

    def every(self, *types: str, within: Node | None = None) -> Iterator[Node]:
        """Every node of these types, in the order of the text."""
        found = [self._of_type(one, within or self.root) for one in types]
        if len(found) == 1:
            yield from found[0]
        else:
            yield from merge(*found, key=lambda node: (node.start_byte, -node.end_byte))

    def _of_type(self, kind: str, within: Node) -> Iterator[Node]:
        nodes, starts = self._nodes.get(kind, []), self._starts.get(kind, [])
        for place in range(bisect_left(starts, within.start_byte), len(nodes)):
            if starts[place] > within.end_byte:
                return
            if nodes[place].end_byte <= within.end_byte:
                yield nodes[place]

    def calls(self, *names: str, within: Node | None = None) -> Iterator[tuple[Node, list[Node]]]:
        """Calls of functions by their last word, with their arguments."""
        for node in self.every(_CALLS[self.language], within=within):
            called = node.child_by_field_name("function")
            arguments = node.child_by_field_name("arguments")
            if called is None or arguments is None:
                continue
            if re.split(r"\.|->|::", self.of(called))[-1] in names:
                yield node, [one for one in arguments.named_children if one.type != "comment"]

    def number(self, node: Node) -> float | None:
        """A number that stands there, by itself or by its name; None when it is no such thing."""
        text = self.of(node).strip()
        if text in self.constants:
            return self.constants[text]
        return number_in(text)

    def functions(self) -> Iterator[tuple[str, Node]]:
        """Every function with its name."""
        for node in self.every("function_definition"):
            declarator = node.child_by_field_name("declarator") or node
            name = declarator.child_by_field_name("declarator") if self.language == "cpp" else None
            name = name or node.child_by_field_name("name")
            if name is not None:
                yield self.of(name), node

    def function_around(self, node: Node) -> Node | None:
        """The function it stands in."""
        while node.parent is not None:
            node = node.parent
            if node.type == "function_definition":
                return node
        return None

    def statement_around(self, node: Node) -> Node:
        """The whole statement it is part of."""
        ends = ("declaration", "expression_statement", "return_statement", "if_statement",
                "while_statement", "assignment", "compound_statement", "block",
                "condition_clause", "comparison_operator")  # fmt: skip
        while node.parent is not None and node.type not in ends:
            node = node.parent
        return node

    def names_in(self, node: Node) -> set[str]:
        """Every name within."""
        return {self.of(one) for one in self.every("identifier", within=node)}

    def assigned(self) -> Iterator[tuple[str, Node, Node]]:
        """Name, value and whole node of everything that is given a value."""
        return iter(self._values)

    def _assigned(self) -> Iterator[tuple[str, Node, Node]]:
        for node in self.every("init_declarator", "assignment_expression", "assignment"):
            left = node.child_by_field_name("declarator") or node.child_by_field_name("left")
            right = node.child_by_field_name("value") or node.child_by_field_name("right")
            if left is not None and right is not None:
                yield self.of(left).lstrip("*&"), right, node

    def _defined(self) -> dict[str, float]:
        found = {}
        for node in self.every("preproc_def"):
            name, value = node.child_by_field_name("name"), node.child_by_field_name("value")
            number = number_in(self.of(value).strip().strip("()")) if value is not None else None
            if name is not None and number is not None:
                found[self.of(name)] = number
        return found

    def _never_changed(self) -> dict[str, float]:
        times: dict[str, int] = {}
        values: dict[str, float] = {}
        for name, value, _ in self.assigned():
            times[name] = times.get(name, 0) + 1
            number = number_in(self.of(value).strip())
            if number is not None:
                values[name] = number
        changed = {
            self.of(one.children[0])
            for one in self.every("update_expression", "augmented_assignment")
            if one.children
        }
        return {n: v for n, v in values.items() if times[n] == 1 and n not in changed}


def number_in(text: str) -> float | None:
    """A number as languages write it; None for anything else.

    >>> number_in("0x10"), number_in("5UL"), number_in("1e3f"), number_in("five")
    (16.0, 5.0, 1000.0, None)
    """
    if not _NUMBER.match(text):
        return None
    plain = text.rstrip("uUlL")
    if plain.lower().lstrip("+-").startswith("0x"):
        return float(int(plain, 16))
    return float(plain.rstrip("fF"))


def read_program(text: str, name: str = "") -> ReadProgram:
    """A program with its language told by its name, or by which parser takes it better.

    Raises NotAProgramError for what is none, is too long, or is in another language.
    """
    raw = text.encode("utf-8", "replace")
    if len(raw) > LARGEST_BYTES:
        raise NotAProgramError(
            f"it is {len(raw) / 1e6:.1f} MB long; up to {LARGEST_BYTES // 1024} kB are looked over"
        )
    if "\0" in text:
        raise NotAProgramError("it holds zero bytes: that is no text, but a compiled program")
    if not text.strip():
        raise NotAProgramError("it is empty")
    wanted: Sequence[Lang] = ("python",) if name.endswith(".py") else ("cpp", "python")
    if name.endswith((".ino", ".cpp", ".c", ".h", ".hpp")):
        wanted = ("cpp",)
    trees = [(one, Parser(_LANGUAGES[one]).parse(raw).root_node) for one in wanted]
    language, root = min(trees, key=lambda one: _wrong(one[1]))
    if _wrong(root) > _MOST_WRONG * max(1, len(raw)):
        raise NotAProgramError("it reads neither as C++ nor as Python")
    return ReadProgram(text, language, root)


def _wrong(root: Node) -> int:
    """How many bytes no grammar explains."""
    found, waiting = 0, [root]
    while waiting:
        node = waiting.pop()
        if node.type == "ERROR":
            found += node.end_byte - node.start_byte
        elif node.has_error:
            found += node.is_missing
            waiting.extend(node.children)
    return found
