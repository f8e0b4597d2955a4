"""Commands whose options are made from described inputs."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from typing import Annotated, Any

import typer

from tickstone.core.inputs import Input, inputs_of

Options = Mapping[str, Any]


def command_of(kind: type, what: str, work: Callable[[Options, bool], str]) -> Callable[..., None]:
    """A command with an option for each input of `kind`, and ``--json``.

    work: takes what was given and whether JSON is wanted, and says what to print; a ValueError of
    its is bad input. Options that were not given are left out when they have no default.
    """

    def run(**options: Any) -> None:
        as_json = options.pop("as_json")
        given = {name: value for name, value in options.items() if value is not None}
        try:
            typer.echo(work(given, as_json))
        except ValueError as error:
            typer.echo(f"tickstone: {error}", err=True)
            raise typer.Exit(2) from error

    inputs = [
        inspect.Parameter(
            one.name,
            inspect.Parameter.KEYWORD_ONLY,
            default=list(one.default) if isinstance(one.default, tuple) else one.default,
            annotation=Annotated[_type_of(one), typer.Option(help=help_of(one))],
        )
        for one in inputs_of(kind)
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
    if one.default is None:
        return float | None
    return type(one.default)


def help_of(one: Input) -> str:
    """What an option is, in a line."""
    text = one.label
    if one.unit:
        text += f", {one.unit}"
    if one.choices:
        text += f": {' | '.join(choice.value for choice in one.choices)}"
    return f"{text}. {one.help}" if one.help else f"{text}."
