"""Rules as a file holds them: read part by part, each field of the sort it has to be."""

from __future__ import annotations

import dataclasses
from typing import Any, TypeVar

Part = TypeVar("Part")

MOST_IN_A_LIST, LONGEST_WORDS = 200, 2_000
_NUMBERS = {"longest_s", "stay_s", "for_s"}
_NUMBERS_OR_NONE = {"leave_after_s", "hold_s"}
_SWITCHES = {"is_blocking", "moves", "is_alarm", "at_once"}
_LISTS = {"states", "of", "us", "columns", "settings"}


class MachineError(ValueError):
    """What cannot be in a machine. where: its place, such as ``transitions 3, when``."""

    def __init__(self, where: str, what: str) -> None:
        super().__init__(f"{where}: {what}")
        self.where, self.what = where, what


def fields_of(value: Any, where: str, kind: Any) -> dict[str, Any]:
    """The fields as they are. Raises MachineError for no object, and for another field."""
    if not isinstance(value, dict):
        raise MachineError(where, "has to be an object with names and values")
    known = [one.name for one in dataclasses.fields(kind) if one.init]
    for name in value:
        if name not in known:
            there = ", ".join(known)
            raise MachineError(where, f"there is no “{str(name)[:40]}”; there are {there}")
    return value


def parts_of(given: dict[str, Any], name: str, kind: type[Part]) -> tuple[Part, ...]:
    """Every part of a list, each by its number. Raises MachineError."""
    value = given.get(name, [])
    if not isinstance(value, list):
        raise MachineError(name, "has to be a list")
    if len(value) > MOST_IN_A_LIST:
        raise MachineError(name, f"{len(value)} are more than any rules have")
    return tuple(part_of(one, f"{name} {number}", kind) for number, one in enumerate(value, 1))


def part_of(value: Any, where: str, kind: type[Part]) -> Part:
    """One part. Raises MachineError for a field that is missing or of another sort."""
    given = fields_of(value, where, kind)
    for wanted in dataclasses.fields(kind):  # type: ignore[arg-type]
        if wanted.name not in given and wanted.default is dataclasses.MISSING:
            raise MachineError(where, f"wants a {wanted.name}")
    return kind(**{name: _checked(name, one, f"{where}, {name}") for name, one in given.items()})


def _checked(name: str, value: Any, where: str) -> Any:
    if name in _NUMBERS:
        return number_of(value, where)
    if name in _NUMBERS_OR_NONE:
        return number_or_none(value, where)
    if name in _SWITCHES:
        if not isinstance(value, bool):
            raise MachineError(where, "has to be true or false")
        return value
    if name in _LISTS:
        if not isinstance(value, list) or len(value) > MOST_IN_A_LIST:
            raise MachineError(where, f"has to be a list of {MOST_IN_A_LIST} at most")
        read = number_of if name == "us" else words_of
        return tuple(read(one, where) for one in value)
    return words_of(value, where)


def number_of(value: Any, where: str) -> float:
    """A number. Raises MachineError."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise MachineError(where, "has to be a number")
    return float(value)


def number_or_none(value: Any, where: str) -> float | None:
    """A number, or nothing. Raises MachineError."""
    return None if value is None else number_of(value, where)


def words_of(value: Any, where: str) -> str:
    """Words. Raises MachineError."""
    if not isinstance(value, str) or len(value) > LONGEST_WORDS:
        raise MachineError(where, "has to be words")
    return value
