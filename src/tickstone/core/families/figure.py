"""A figure of a family, with where it comes from."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Any, ClassVar

STRICT: dict[str, Any] = {"extra": "forbid", "allow_inf_nan": False}
"""How a family is read from a file: an unknown field is an error, and so is an infinite number."""

_NAME = re.compile(r"[a-z][a-z0-9_]{0,59}")
LONGEST_LABEL = 120


@dataclass(frozen=True, slots=True)
class Figure:
    """A number in the unit its field's name ends in, and its source in a few words.

    Raises ValueError when the number is not finite or no source is given.

    >>> Figure(0.04, "common practice").value
    0.04
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    value: float
    source: str

    def __post_init__(self) -> None:
        if not math.isfinite(self.value) or abs(self.value) > 1e12:
            raise ValueError(f"a figure of {self.value:g} cannot be")
        if not self.source.strip():
            raise ValueError("a figure needs its source, such as “common practice”")


def check_name(name: str) -> None:
    """Raises ValueError when a family's name is not a short word of a–z, 0–9 and _."""
    if not _NAME.fullmatch(name):
        raise ValueError(
            f"the name “{name[:60]}” will not do: start with a letter, then a–z, 0–9 and _, "
            "60 at most"
        )


def check_label(what: str, text: str) -> None:
    """Raises ValueError when a word that is shown is empty, too long or holds control codes."""
    if not text.strip() or len(text) > LONGEST_LABEL:
        raise ValueError(f"{what} needs 1 to {LONGEST_LABEL} characters")
    if any(ord(letter) < 32 or ord(letter) == 127 for letter in text):
        raise ValueError(f"{what} holds a control character")


def check_unlike(what: str, names: list[str]) -> None:
    """Raises ValueError when two of the names are the same."""
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise ValueError(f"{what} “{name}” stands there twice")
        seen.add(name)


def check_above_zero(what: str, figure: Figure | None) -> None:
    """Raises ValueError when a figure that has to be above 0 is not."""
    if figure is not None and figure.value <= 0.0:
        raise ValueError(f"{what} is {figure.value:g}; it has to be above 0")
