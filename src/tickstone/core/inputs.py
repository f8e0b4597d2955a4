"""Described inputs: what may be set, said once; checks, pages, commands and the API follow.

A frozen dataclass whose fields are made by the functions below is all there is to write.
"""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, TypeVar, cast

from tickstone.core.display import grouped

Form = Literal["number", "whole", "switch", "choice", "words", "numbers"]
Value = float | int | bool | str | tuple[float, ...]
LONGEST_WORDS = 400
MOST_NUMBERS = 64

Inputs = TypeVar("Inputs")


@dataclass(frozen=True, slots=True)
class Choice:
    """One of a few words. group: the heading it stands under, where there are headings."""

    value: str
    label: str
    group: str = ""


@dataclass(frozen=True, slots=True)
class Input:
    """One described input.

    unit: of the value itself, SI. shown_as: how a person reads and types it, a key of
    `reading_units`; the unit when empty. decimals: as many as are worth showing there.
    node: the cell of the working line it belongs to. when: name and value of another input without
    which this one says nothing. option: its name on the command line and what one of it there is
    in `unit`, where that is not the name with the value as it is.
    """

    name: str
    label: str
    form: Form
    default: Value | None
    unit: str = ""
    low: float | None = None
    high: float | None = None
    choices: tuple[Choice, ...] = ()
    help: str = ""
    node: str = ""
    shown_as: str = ""
    decimals: int = 3
    when: tuple[str, str] | None = None
    option: tuple[str, float] | None = None
    from_rig: str = ""
    is_rare: bool = False

    def check(self, value: Any) -> Value | None:
        """The value as it is kept. Raises ValueError naming the input when it cannot be."""
        if value is None and (self.from_rig or self.default is None):
            return None
        if self.form == "switch":
            if not isinstance(value, bool):
                raise ValueError(f"{self.name}: has to be yes or no")
            return value
        if self.form in ("choice", "words"):
            return self._checked_text(value)
        if self.form == "numbers":
            if not isinstance(value, list | tuple) or len(value) > MOST_NUMBERS:
                raise ValueError(f"{self.name}: has to be a list of {MOST_NUMBERS} numbers at most")
            return tuple(float(self._checked_number(one)) for one in value)
        return self._checked_number(value)

    def _checked_number(self, value: Any) -> float | int:
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise ValueError(f"{self.name}: has to be a number")
        assert self.low is not None
        assert self.high is not None
        if not (math.isfinite(value) and self.low <= value <= self.high):
            low, high = _plain(self.low), _plain(self.high)
            span = f"{low} to {high} {self.unit}".rstrip()
            raise ValueError(f"{self.name}: {value:g} is outside {span} ({self.label})")
        if self.form == "whole" and value != int(value):
            raise ValueError(f"{self.name}: {value:g} is no whole number")
        return int(value) if self.form == "whole" else float(value)

    def _checked_text(self, value: Any) -> str:
        if not isinstance(value, str):
            raise ValueError(f"{self.name}: has to be words")
        if self.form == "choice":
            known = [one.value for one in self.choices]
            if value not in known:
                raise ValueError(f"{self.name}: “{value[:40]}” is none of {', '.join(known)}")
        elif len(value) > LONGEST_WORDS:
            raise ValueError(f"{self.name}: {LONGEST_WORDS} characters at most")
        return value


def number(
    label: str,
    unit: str,
    default: float | None,
    low: float,
    high: float,
    help_text: str = "",
    **more: Any,
) -> Any:
    """A number with the span it may have. more: further fields of `Input`."""
    return _described(
        Input("", label, "number", default, unit, low, high, help=help_text, **more), default
    )


def whole(
    label: str,
    default: int,
    low: int,
    high: int,
    help_text: str = "",
    usual: tuple[int, ...] = (),
    **more: Any,
) -> Any:
    """A whole number with the span it may have. usual: those that a page offers."""
    more["choices"] = tuple(Choice(str(one), str(one)) for one in usual)
    return _described(
        Input("", label, "whole", default, low=low, high=high, help=help_text, **more), default
    )


def numbers(
    label: str,
    unit: str,
    low: float,
    high: float,
    help_text: str = "",
    default: tuple[float, ...] = (),
    **more: Any,
) -> Any:
    """A list of numbers, one a lane, each within a span; none as long as nothing is said."""
    return _described(
        Input("", label, "numbers", default, unit, low, high, help=help_text, **more), default
    )


def switch(label: str, default: bool, help_text: str = "", **more: Any) -> Any:
    """Yes or no."""
    return _described(Input("", label, "switch", default, help=help_text, **more), default)


def choice(
    label: str,
    options: tuple[str | Choice, ...],
    default: str = "",
    help_text: str = "",
    **more: Any,
) -> Any:
    """One of a few words, the first unless said otherwise."""
    choices = tuple(one if isinstance(one, Choice) else Choice(one, one) for one in options)
    chosen = default or choices[0].value
    return _described(
        Input("", label, "choice", chosen, choices=choices, help=help_text, **more), chosen
    )


def words(label: str, default: str, help_text: str = "", **more: Any) -> Any:
    """A short text, such as a list of values."""
    return _described(Input("", label, "words", default, help=help_text, **more), default)


def _described(described: Input, default: Value | None) -> Any:
    return field(default=default, metadata={"input": described})


_INPUTS: dict[type, tuple[Input, ...]] = {}
"""Asked for so often that a page of many sensors would spend half its time on them."""


def inputs_of(kind: type) -> tuple[Input, ...]:
    """The inputs of a kind, in the order of its fields.

    >>> @dataclass(frozen=True)
    ... class Sum:
    ...     ohm: float = number("Resistor", "Ω", 220.0, 0.1, 1e8)
    >>> [(one.name, one.unit, one.high) for one in inputs_of(Sum)]
    [('ohm', 'Ω', 100000000.0)]
    """
    if kind not in _INPUTS:
        _INPUTS[kind] = tuple(
            dataclasses.replace(one.metadata["input"], name=one.name)
            for one in dataclasses.fields(cast(Any, kind))
            if "input" in one.metadata
        )
    return _INPUTS[kind]


def check_inputs(given: object) -> None:
    """Raises ValueError naming the first input outside its span or its choices."""
    for one in inputs_of(type(given)):
        one.check(getattr(given, one.name))


def with_inputs(kind: type[Inputs], values: Mapping[str, Any]) -> Inputs:
    """A kind with these inputs, the rest at their defaults.

    Raises ValueError naming an input it does not have, or one that cannot be.
    """
    known = {one.name: one for one in inputs_of(kind)}
    for name in values:
        if name not in known:
            raise ValueError(f"{name[:40]}: there is no such input; known: {', '.join(known)}")
    made = kind(**{name: known[name].check(value) for name, value in values.items()})
    check_inputs(made)
    return made


def values_of(given: object) -> dict[str, Value | None]:
    """Every input by name."""
    return {one.name: getattr(given, one.name) for one in inputs_of(type(given))}


def differing(given: object) -> dict[str, Value | None]:
    """What differs from the defaults, as it is stored."""
    usual = {one.name: one.default for one in inputs_of(type(given))}
    return {name: value for name, value in values_of(given).items() if value != usual[name]}


def known_only(kind: type, values: Mapping[str, Any]) -> dict[str, Any]:
    """Those values that a kind has inputs for."""
    known = {one.name for one in inputs_of(kind)}
    return {name: value for name, value in values.items() if name in known}


def _plain(bound: float) -> str:
    return grouped(bound, 0) if 1e4 <= abs(bound) < 1e7 else f"{bound:g}"
