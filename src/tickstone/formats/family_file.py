"""Families of boards and devices as JSON, checked field by field, with a published JSON Schema."""

from __future__ import annotations

import json
import re
from functools import cache
from importlib import resources
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily

Kind = TypeVar("Kind", BoardFamily, DeviceFamily)
LARGEST_BYTES = 512 * 1024
_CONTROL = re.compile(
    r"(?P<plain>[\x00-\x08\x0b\x0c\x0e-\x1f\x7f])"
    r"|(?<!\\)(?:\\\\)*(?P<escaped>\\(?:b|f|u00(?:0[0-8bBcCeEfF]|1[0-9a-fA-F]|7[fF])))"
)
"""Control characters but for tab and line ends; escaped ones behind an even run of backslashes."""


class FamilyFormat(Generic[Kind]):
    """How one kind of family is read and written."""

    def __init__(self, kind: type[Kind], word: str, folder: str) -> None:
        self.word = word
        self.folder = folder
        self._adapter: TypeAdapter[Kind] = TypeAdapter(kind)

    def read(self, raw: str | bytes) -> Kind:
        """A family from JSON text. Raises ValueError naming each field that does not do."""
        if len(raw) > LARGEST_BYTES:
            raise ValueError(f"a {self.word} of over {LARGEST_BYTES // 1024} kB is none")
        check_no_controls(raw)
        try:
            return self._adapter.validate_json(raw)
        except ValidationError as error:
            raise ValueError(said(error)) from error

    def of(self, document: Any) -> Kind:
        """The same from parsed JSON."""
        return self.read(json.dumps(document))

    def document(self, family: Kind) -> dict[str, Any]:
        """As plain JSON values; what stands at its default is left out."""
        document = self._adapter.dump_python(family, mode="json", exclude_defaults=True)
        assert isinstance(document, dict)
        return document

    def schema(self) -> dict[str, Any]:
        """The JSON Schema (draft 2020-12) a file of this kind keeps to."""
        return {
            "$schema": "https://json-schema.org/draft/2020-12/schema",
            **self._adapter.json_schema(),
        }


def check_no_controls(raw: str | bytes) -> None:
    """Raises ValueError when a JSON text holds control characters, plain or escaped.

    No store takes the character 0, and what a terminal obeys does not belong in a name.

    >>> check_no_controls('"back\\\\\\\\u001b is a backslash and letters"')
    >>> check_no_controls('"\\\\u001b[31m"')
    Traceback (most recent call last):
    ValueError: the file: holds the control character U+001B on line 1; take it out
    """
    text = raw if isinstance(raw, str) else raw.decode(errors="replace")
    found = _CONTROL.search(text)
    if found is None:
        return
    sign = found["plain"] or json.loads(f'"{found["escaped"]}"')
    line = text.count("\n", 0, found.start()) + 1
    raise ValueError(
        f"the file: holds the control character U+{ord(sign):04X} on line {line}; take it out"
    )


def said(error: ValidationError) -> str:
    """What is wrong where, in one line for each of the first few fields.

    >>> from pydantic import TypeAdapter
    >>> try:
    ...     TypeAdapter(int).validate_json('"x"')
    ... except ValidationError as error:
    ...     said(error).split(":")[0]
    'the file'
    """
    lines = []
    for problem in error.errors()[:5]:
        where = ""
        for part in problem["loc"]:
            where += f"[{part}]" if isinstance(part, int) else f"{'.' if where else ''}{part}"
        message = problem["msg"].removeprefix("Value error, ")
        lines.append(f"{where or 'the file'}: {message[:1].lower()}{message[1:]}")
    more = error.error_count() - len(lines)
    return "; ".join(lines) + (f"; and {more} more" if more > 0 else "")


BOARD_FILES: FamilyFormat[BoardFamily] = FamilyFormat(BoardFamily, "board family", "boards")
DEVICE_FILES: FamilyFormat[DeviceFamily] = FamilyFormat(DeviceFamily, "device family", "devices")


@cache
def shipped_boards() -> dict[str, BoardFamily]:
    """The board families that come with Tick Stone, by name."""
    return _shipped(BOARD_FILES)


@cache
def shipped_devices() -> dict[str, DeviceFamily]:
    """The device families that come with Tick Stone, by name."""
    return _shipped(DEVICE_FILES)


def _shipped(form: FamilyFormat[Kind]) -> dict[str, Kind]:
    folder = resources.files("tickstone") / "families" / form.folder
    files = sorted(
        (file for file in folder.iterdir() if file.name.endswith(".json")),
        key=lambda file: file.name,
    )
    families = [form.read(file.read_bytes()) for file in files]
    return {family.name: family for family in families}
