"""Commands whose options are made from described inputs."""

from __future__ import annotations

import inspect
import re
from collections.abc import Callable, Mapping
from typing import Annotated, Any

import typer

from tickstone.core.inputs import Input, inputs_of
from tickstone.core.typed_numbers import typed_number

Options = Mapping[str, Any]
_NO_NUMBERS = ("nan", "inf", "infinity")


def command_of(kind: type, what: str, work: Callable[[Options, bool], str]) -> Callable[..., None]:
    """A command with an option for each input of `kind`, and ``--json``.

    work: takes what was given and whether JSON is wanted, and says what to print; a ValueError of
    its is bad input. Options that were not given are left out when they have no default.
    """

    def run(**options: Any) -> None:
        as_json = options.pop("as_json")
        try:
            given = {
                one.name: _read(one, options[one.name])
                for one in described
                if options[one.name] is not None
            }
            typer.echo(work(given, as_json))
        except ValueError as error:
            typer.echo(f"tickstone: {error}", err=True)
            raise typer.Exit(2) from error

    described = inputs_of(kind)
    inputs = [
        inspect.Parameter(
            one.name,
            inspect.Parameter.KEYWORD_ONLY,
            default=_default_of(one),
            annotation=Annotated[_type_of(one), typer.Option(help=help_of(one))],
        )
        for one in described
    ]
    flag = inspect.Parameter(
        "as_json",
        inspect.Parameter.KEYWORD_ONLY,
        default=False,
        annotation=Annotated[bool, typer.Option("--json", help="One JSON object instead of text.")],
    )
    run.__signature__ = inspect.Signature([*inputs, flag])  # type: ignore[attr-defined]
    run.__doc__ = what
    return run


def _type_of(one: Input) -> Any:
    if one.form == "numbers":
        return list[float]
    if one.form == "number":
        return str if one.default is not None else str | None
    return type(one.default)


def _default_of(one: Input) -> Any:
    if isinstance(one.default, tuple):
        return list(one.default)
    return f"{one.default:g}" if one.form == "number" and one.default is not None else one.default


def _read(one: Input, typed: Any) -> Any:
    """What was typed, as its input takes it: numbers with suffixes, choices by short names."""
    if one.form == "number" and isinstance(typed, str):
        if one.default is not None and typed == _default_of(one):
            return one.default
        if typed.strip().casefold().lstrip("+-") in _NO_NUMBERS:
            return float(typed)  # the input's own check says what it may be
        try:
            return typed_number(typed, one.unit)
        except ValueError as error:
            raise ValueError(f"--{one.name.replace('_', '-')}: {error}") from error
    if one.form == "choice" and typed not in [choice.value for choice in one.choices]:
        meant = [
            choice.value
            for choice in one.choices
            if choice.value.casefold().startswith(typed.casefold())
            or typed.casefold() in re.split(r"[^\w]+", choice.value.casefold())
        ]
        return meant[0] if len(meant) == 1 else typed
    return typed


def help_of(one: Input) -> str:
    """What an option is, in a line."""
    text = one.label
    if one.unit:
        text += f", {one.unit}"
    if one.choices:
        text += f": {' | '.join(choice.value for choice in one.choices)}"
    return f"{text}. {one.help}" if one.help else f"{text}."
