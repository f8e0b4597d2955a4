"""``tickstone parts …``: every parts bench as a command, made from its inputs."""

from __future__ import annotations

import dataclasses
import inspect
import json
from collections.abc import Callable
from typing import Annotated, Any

import typer

from tickstone.core.inputs import Input, inputs_of, with_inputs
from tickstone.core.part_benches import PART_BENCHES
from tickstone.core.part_benches.bench import PartBench, Result, Worked

app = typer.Typer(help="The arithmetic of passive parts, with its working.", no_args_is_help=True)


def _command(kind: type[PartBench]) -> Callable[..., None]:
    """A command whose options are the inputs of a bench."""

    def run(**options: Any) -> None:
        as_json = options.pop("as_json")
        try:
            worked = with_inputs(kind, options).work()
        except ValueError as error:
            typer.echo(f"tickstone: {error}", err=True)
            raise typer.Exit(2) from error
        typer.echo(
            json.dumps(_as_json(kind.name, worked), ensure_ascii=False)
            if as_json
            else _as_text(worked)
        )

    inputs = [
        inspect.Parameter(
            one.name,
            inspect.Parameter.KEYWORD_ONLY,
            default=one.default,
            annotation=Annotated[type(one.default), typer.Option(help=help_of(one))],
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
    run.__doc__ = kind.what
    return run


def help_of(one: Input) -> str:
    """What an option is, in a line."""
    text = one.label
    if one.unit:
        text += f", {one.unit}"
    if one.choices:
        text += f": {' | '.join(choice.value for choice in one.choices)}"
    return f"{text}. {one.help}" if one.help else f"{text}."


for _kind in PART_BENCHES.values():
    app.command(_kind.name)(_command(_kind))


def _as_json(name: str, worked: Worked) -> dict[str, Any]:
    return {
        "kind": name,
        "results": {
            one.name: {"value": one.value, "unit": one.unit, "u": one.u} for one in worked.results
        },
        "working": [
            {
                "stage": step.stage,
                "formula": step.formula,
                "filled": step.filled,
                "value": step.value,
                "unit": step.unit,
                "u": step.u,
                "source": step.source,
            }
            for step in worked.steps
        ],
        "bands": list(worked.bands),
        "findings": [dataclasses.asdict(finding) for finding in worked.findings],
    }


def _as_text(worked: Worked) -> str:
    lines = [
        f"{step.label:<22} {step.formula:<34} {step.filled:<44} = "
        f"{Result('', step.value, step.unit).text}"
        for step in worked.steps
    ]
    lines += ["", *(f"{one.name:<26} {one.text}" for one in worked.results)]
    if worked.bands:
        lines.append(f"{'bands':<26} {' '.join(worked.bands)}")
    for finding in worked.findings:
        lines.append(f"{finding.severity}: {finding.title} {finding.why} {finding.remedy}".rstrip())
    return "\n".join(lines)
